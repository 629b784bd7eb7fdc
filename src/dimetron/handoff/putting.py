"""What came of a way, onto the disk."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dimetron.formats.folder import write_beside, write_folder
from dimetron.handoff.way import Given, Way


def handed_off(way: Way, given: Given, how: Any, path: Path) -> list[Path]:
    """Make the files and put them at ``path``, a file with those that belong to it or a folder;
    all of them, or none. Returns them, the main one last. Raises what ``Way.write`` does,
    ExportError, WriteError."""
    files = way.write(given, how)
    given.progress(1.0)
    ending = way.ending(how)
    if not ending:
        return write_folder(files, path, way.known)
    return write_beside(files, path, f"{given.stem}{ending}")
