"""Files from disk, opened and read with limits."""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path
from typing import BinaryIO

from dimetron.imaging.errors import PictureError
from dimetron.imaging.read import MAX_BYTES


def opened_file(path: Path) -> BinaryIO:
    """Open a regular file for reading. A pipe or a device, which may never end, is refused at once.

    Raises OSError.
    """
    # Without waiting: opening a pipe that nobody writes to would hang.
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        if stat.S_ISDIR(mode):
            raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR))
        raise OSError(errno.ENOTSUP, "it is a device or a pipe, not a file")
    return os.fdopen(handle, "rb")


def file_bytes(path: Path) -> bytes:
    """A picture file's bytes. Raises PictureError for folders, oversize and unreadable files."""
    try:
        with opened_file(path) as file:
            size = os.fstat(file.fileno()).st_size
            if size > MAX_BYTES:
                raise PictureError(f"{path.name} is larger than 2 GB; reduce it first.")
            return file.read(MAX_BYTES)
    except IsADirectoryError as error:
        raise PictureError(f"{path.name} is a folder; bring the pictures in it.") from error
    except MemoryError as error:
        raise PictureError(f"{path.name} needs more memory than there is; reduce it.") from error
    except OSError as error:
        reason = error.strerror or str(error)
        raise PictureError(f"{path.name} cannot be read: {reason.lower()}.") from error
