"""The sheet in Prepare: its view, and the tools that work on it.

The view is painted by Qt from pixels that ``imaging.prepare.preview`` makes at the size they are
seen: the sheet is flat, and so Prepare works where the board has no OpenGL. As on the board, tools
never paint: they name marks in the pixels of the prepared picture.
"""
