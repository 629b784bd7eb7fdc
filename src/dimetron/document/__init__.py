"""The project as one immutable value, edits on it, their history, and the container file.

An edit is a pure function from document to document; what it does not touch is shared, so the
history is a list of documents and widgets compare by identity.
"""
