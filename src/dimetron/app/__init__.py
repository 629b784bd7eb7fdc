"""The window: board, route, tray and title block over the pure core.

``Session`` holds the history and what is chosen and tells when they change; widgets read from it
and hand edits to it. Tools (``app.tools``) are small state machines without Qt: the board feeds
them events in world units, they preview by yielding a document and commit one history step.
"""
