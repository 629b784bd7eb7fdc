"""The endings of picture files; apart from what reads them, which the window starts without."""

#: Of whatever ``read`` takes in.
ENDINGS = (
    ".png", ".jpg", ".jpeg", ".tif", ".tiff", ".bmp", ".webp", ".gif", ".pdf", ".svg", ".avif",
    ".heic", ".heif", ".jp2", ".j2k", ".psd", ".tga", ".ppm", ".pgm", ".pbm", ".pnm", ".pfm",
    ".qoi", ".ico",
)  # fmt: skip
