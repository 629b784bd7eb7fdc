"""Mesh files that come in: a module for each kind, which registers itself by standing here.

``files.read_meshes`` is the way in. A reader gives what the file holds, in the file's own numbers;
unit and up-axis are applied afterwards, the same way for all.
"""
