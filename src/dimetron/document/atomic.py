"""Writing files whole or not at all."""

from __future__ import annotations

import contextlib
import errno
import os
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO


class WriteError(OSError):
    """The file could not be written; the message says why and what to do. The old file is whole."""


_REASONS = {
    errno.ENOSPC: "the disk is full; free some space or choose another folder",
    errno.EDQUOT: "your disk quota is used up; free some space or choose another folder",
    errno.EACCES: "this folder does not allow writing; choose another one",
    errno.EPERM: "this folder does not allow writing; choose another one",
    errno.EROFS: "this disk is read-only; choose another folder",
    errno.ENOENT: "the folder does not exist any more; choose another one",
    errno.ENOTDIR: "the folder does not exist any more; choose another one",
    errno.EISDIR: "a folder has this name; choose another name",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
}


def write_whole(path: Path, write: Callable[[BinaryIO], None]) -> None:
    """Write through ``write`` to a temporary file beside ``path``, sync it, and rename it over.

    Whatever happens, ``path`` holds either the old or the new file. A link is followed. Raises
    WriteError.
    """
    temporary: str | None = None
    try:
        path = path.resolve()
        if path.is_dir():
            raise OSError(errno.EISDIR, os.strerror(errno.EISDIR))
        handle, temporary = tempfile.mkstemp(
            prefix=f".{path.name[:60]}.", suffix=".part", dir=path.parent
        )
        with os.fdopen(handle, "wb") as out:
            write(out)
            out.flush()
            os.fchmod(out.fileno(), _mode_for(path))
            os.fsync(out.fileno())
        Path(temporary).replace(path)
        temporary = None
        _sync_folder(path.parent)
    except OSError as error:
        reason = _REASONS.get(error.errno or 0, error.strerror or str(error))
        raise WriteError(f"{path.name} was not saved: {reason}.") from error
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


def write_bytes(path: Path, data: bytes) -> None:
    """Write ``data`` to ``path``, whole or not at all. Raises WriteError."""

    def put(out: BinaryIO) -> None:
        out.write(data)

    write_whole(path, put)


def begin_writing(out: BinaryIO) -> None:
    """Let the system begin to put on disk what was written so far, while more is made ready.

    Only a hint: the sync at the end waits for what is left.
    """
    out.flush()
    with contextlib.suppress(OSError, AttributeError):
        os.posix_fadvise(out.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)


def _mode_for(path: Path) -> int:
    """Keep an existing file's permissions; a new one gets what the umask allows."""
    try:
        return stat.S_IMODE(path.stat().st_mode)
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask


def _sync_folder(folder: Path) -> None:
    """Make the rename itself durable; some file systems cannot, which loses nothing."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
