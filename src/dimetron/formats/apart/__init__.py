"""Mesh files, read in a process of their own.

A file of a few bytes can ask for all memory or for hours, and its library may hold the
interpreter's lock meanwhile. Where a window waits, they are read where that harms nobody. ``ask``
is this side of it, ``__main__`` the other.
"""
