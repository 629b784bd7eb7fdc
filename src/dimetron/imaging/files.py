"""Picture files from disk."""

from __future__ import annotations

from pathlib import Path

from dimetron.imaging.errors import PictureError
from dimetron.imaging.read import MAX_BYTES


def file_bytes(path: Path) -> bytes:
    """A picture file's bytes. Raises PictureError for folders, oversize and unreadable files."""
    try:
        if path.is_dir():
            raise PictureError(f"{path.name} is a folder; bring the pictures in it.")
        if path.stat().st_size > MAX_BYTES:
            raise PictureError(f"{path.name} is larger than 2 GB; reduce it first.")
        return path.read_bytes()
    except OSError as error:
        reason = error.strerror or str(error)
        raise PictureError(f"{path.name} cannot be read: {reason.lower()}.") from error
