"""PDF pages, SVG drawings, TIFF, AVIF, HEIC, JPEG 2000 and ICO, read in a process of their own.

Such files are programs in disguise: a few hundred bytes can ask for hours of work, for all memory,
or for more depth than a stack has, and their libraries hold the interpreter's lock meanwhile. So
they are read where that harms nobody, within limits of time and memory, and the process is ended
when nobody wants the picture any more. ``ask`` is this side of it, ``__main__`` the other.
"""
