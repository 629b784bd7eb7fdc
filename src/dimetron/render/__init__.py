"""Draws a scene into any framebuffer with moderngl. Knows documents, not windows; no Qt.

GPU handles live in stores here, keyed by id and array identity, never on the data. The OpenGL
context is passed in. What is drawn in a pane, back to front: ground colour and grid, drawings,
meshes, the drawings' ink once more over the meshes, axes, selection, numbers. Drawings take no
part in the depth test of their own view, so they never cut a mesh there.
"""
