"""Writing files whole or not at all."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import hashlib
import os
import resource
import stat
import tempfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO


class WriteError(OSError):
    """The file could not be written; the message says why and what to do. The old file is whole."""


class ChangedError(WriteError):
    """Another program or window wrote the file since it was read; it is left as it is."""


class ProtectedError(WriteError):
    """The file may not be written to, though its folder may; it is left as it is."""


@dataclass(frozen=True, slots=True)
class Stamp:
    """What a file was like when it was last read or written: another one is another file."""

    inode: int
    size: int
    modified_ns: int


def stamp_of(path: Path) -> Stamp | None:
    """None if there is no such file."""
    try:
        return _stamp(path.stat())
    except OSError:
        return None


def stamp_of_open(handle: int) -> Stamp:
    """Of an open file, by its descriptor."""
    return _stamp(os.fstat(handle))


def _stamp(told: os.stat_result) -> Stamp:
    return Stamp(told.st_ino, told.st_size, told.st_mtime_ns)


_REASONS = {
    errno.ENOSPC: "the disk is full; free some space or choose another folder",
    errno.EDQUOT: "your disk quota is used up; free some space or choose another folder",
    errno.EFBIG: "it is larger than a file may be on this disk; choose another disk",
    errno.EACCES: "this folder does not allow writing; choose another one",
    errno.EPERM: "this folder does not allow writing; choose another one",
    errno.EROFS: "this disk is read-only; choose another folder",
    errno.ENOENT: "the folder does not exist any more; choose another one",
    errno.ENOTDIR: "the folder does not exist any more; choose another one",
    errno.EISDIR: "a folder has this name; choose another name",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
    errno.ELOOP: "its name is a link that leads round in a circle; choose another name",
}
_PART = ".part"


def _reason(error: OSError) -> str:
    most, _ = resource.getrlimit(resource.RLIMIT_FSIZE)
    if error.errno == errno.EFBIG and most != resource.RLIM_INFINITY:
        return f"your session allows files of at most {most / 1e6:.1f} MB; raise it (ulimit -f)"
    return _REASONS.get(error.errno or 0, error.strerror or str(error))


def write_whole(
    path: Path,
    write: Callable[[BinaryIO], None],
    *,
    only_over: Stamp | None = None,
    over_protected: bool = True,
) -> Stamp:
    """Write through ``write`` to a temporary file beside ``path``, sync it, and rename it over.

    Whatever happens, ``path`` holds either the old or the new file. A link is followed; owner and
    permissions of a file that is there are kept. only_over: what the file that is there must be;
    over_protected: whether it is replaced though it may not be written to. Temporary files that a
    killed write to ``path`` left are removed. Returns what the file is now. Raises WriteError.
    """
    temporary: str | None = None
    try:
        path = _target(path)
        _allow(path, only_over, over_protected)
        clear_parts(path.parent, _part_prefix(path))
        temporary, out = _temporary(path)
        with out:
            write(out)
            out.flush()
            _like_before(out.fileno(), path)
            os.fsync(out.fileno())
            _allow(path, only_over, over_protected)
            Path(temporary).replace(path)
            temporary = None
            now = stamp_of_open(out.fileno())
        _sync_folder(path.parent)
        return now
    except WriteError:
        raise
    except OSError as error:
        raise WriteError(f"{path.name} was not saved: {_reason(error)}.") from error
    except MemoryError as error:
        raise WriteError(f"{path.name} was not saved: there is too little memory.") from error
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


def _target(path: Path) -> Path:
    """The file that is meant, behind all links. Raises OSError or WriteError if none can be."""
    try:
        path = path.resolve()
    except RuntimeError as error:  # what Python up to 3.12 says of a link that names itself
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP)) from error
    try:
        mode = path.stat().st_mode
    except FileNotFoundError:
        return path
    if stat.S_ISDIR(mode):
        raise OSError(errno.EISDIR, os.strerror(errno.EISDIR))
    if not stat.S_ISREG(mode):
        raise WriteError(
            f"{path.name} was not saved: a device or a pipe has this name, not a file; choose "
            "another name."
        )
    return path


def _allow(path: Path, only_over: Stamp | None, over_protected: bool) -> None:
    """Raises ChangedError or ProtectedError if the file that is there is not to be replaced."""
    now = stamp_of(path)
    if now is None:
        return
    if only_over is not None and now != only_over:
        raise ChangedError(
            f"{path.name} was not saved: it was changed by another program since it was opened; "
            "save under another name, or replace it."
        )
    mode = path.stat().st_mode
    if not over_protected and not (mode & 0o222 and os.access(path, os.W_OK)):
        raise ProtectedError(
            f"{path.name} was not saved: it is write-protected; save under another name, or "
            "replace it."
        )


def _part_prefix(path: Path) -> str:
    """The same for every write to a file, whatever its name is made of, and never too long."""
    return f".dimetron-{hashlib.sha1(os.fsencode(path.name)).hexdigest()[:12]}-"


def _temporary(path: Path) -> tuple[str, BinaryIO]:
    """A new file beside ``path``, locked for as long as it is being written."""
    while True:
        handle, name = tempfile.mkstemp(prefix=_part_prefix(path), suffix=_PART, dir=path.parent)
        out = os.fdopen(handle, "wb")
        with contextlib.suppress(OSError):  # a file system without locks
            fcntl.flock(out, fcntl.LOCK_EX)
        # Another window may have cleared it away before it was locked.
        if os.fstat(out.fileno()).st_nlink:
            return name, out
        out.close()


def clear_parts(folder: Path, prefix: str = ".dimetron-") -> None:
    """Remove temporary files that nobody writes any more: their writer was killed."""
    try:
        left = [p for p in folder.iterdir() if p.name.startswith(prefix) and p.suffix == _PART]
    except OSError:
        return
    for path in left:
        with contextlib.suppress(OSError), path.open("rb") as part:
            fcntl.flock(part, fcntl.LOCK_EX | fcntl.LOCK_NB)
            path.unlink()


def write_bytes(path: Path, data: bytes) -> None:
    """Write ``data`` to ``path``, whole or not at all. Raises WriteError."""

    def put(out: BinaryIO) -> None:
        out.write(data)

    write_whole(path, put, over_protected=False)


def write_all(files: Mapping[Path, bytes]) -> None:
    """Write files that belong together, in this order; if one cannot be written, those that were
    not there before are taken away again. Raises WriteError."""
    new: list[Path] = []
    try:
        for path, data in files.items():
            fresh = stamp_of(path) is None
            write_bytes(path, data)
            if fresh:
                new.append(path)
    except WriteError:
        for path in new:
            with contextlib.suppress(OSError):
                path.unlink()
        raise


def begin_writing(out: BinaryIO) -> None:
    """Let the system begin to put on disk what was written so far, while more is made ready.

    Only a hint: the sync at the end waits for what is left.
    """
    out.flush()
    with contextlib.suppress(OSError, AttributeError):
        os.posix_fadvise(out.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)


def _like_before(handle: int, path: Path) -> None:
    """Owner and permissions of the file that is there; a new one gets what the umask allows."""
    try:
        before = path.stat()
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        os.fchmod(handle, 0o666 & ~mask)
        return
    mine = os.fstat(handle)
    if (before.st_uid, before.st_gid) != (mine.st_uid, mine.st_gid):
        with contextlib.suppress(OSError):  # only who may give files away can
            os.fchown(handle, before.st_uid, before.st_gid)
    os.fchmod(handle, stat.S_IMODE(before.st_mode))


def _sync_folder(folder: Path) -> None:
    """Make the rename itself durable; some file systems cannot, which loses nothing."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
