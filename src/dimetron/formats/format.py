"""What a file format is: what it carries, how it is read, how it is written.

Each stands in a module of ``kinds/`` and is registered by standing there.
"""

from __future__ import annotations

import enum
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from dimetron.formats.named import NamedMesh
from dimetron.standing import modules_in, values_in

if TYPE_CHECKING:
    from dimetron.formats.handover import Handover  # what makes pictures is slow to load


class MeshFileError(ValueError):
    """The file cannot be taken in; the message says why and what to do."""


class Carries(enum.Enum):
    """What a format can hold of a project."""

    MESHES = "meshes"
    PLANES = "planes"
    OUTLINES = "outlines"
    #: Faces that are no triangles; colours of meshes.
    POLYGONS = "polygons"
    COLOURS = "colours"


@dataclass(frozen=True, slots=True)
class Read:
    """What a file holds, in its own numbers. odd: in plain words what was left out or is amiss;
    unit: the one that the file itself names, if it does."""

    parts: tuple[NamedMesh, ...]
    odd: tuple[str, ...] = ()
    unit: str | None = None


#: Bytes of a file that lies beside the one that is read, by its name there; None if it is missing.
Beside = Callable[[str], bytes | None]
#: A file's bytes, its name without ending, and what lies beside it. Raises MeshFileError with words
#: that follow the file's name.
Reading = Callable[[bytes, str, Beside], Read]
#: What is handed on, the name without ending, and the ending without its dot: names of files with
#: their bytes, the main one among them.
Writing = Callable[["Handover", str, str], dict[str, bytes]]


@dataclass(frozen=True, slots=True)
class Format:
    """endings: with their dot; unit, up: what the format's standard says lengths and axes are.
    carries: of what can be written; written: what it is called to those who export, by ending."""

    endings: tuple[str, ...]
    title: str
    unit: str
    up: str
    read: Reading | None = None
    write: Writing | None = None
    carries: frozenset[Carries] = frozenset({Carries.MESHES})
    written: tuple[tuple[str, str], ...] = ()
    #: Whether its standard, or a file itself, says what lengths are; else that is only usual.
    says_unit: bool = False


@cache
def formats() -> tuple[Format, ...]:
    """Every format there is."""
    package = f"{__name__.rpartition('.')[0]}.kinds"
    return tuple(f for module in modules_in(package) for f in values_in(module, Format))


@cache
def readers() -> dict[str, Format]:
    """The formats that can be read, by ending with its dot."""
    return {ending: f for f in formats() if f.read is not None for ending in f.endings}


@cache
def writers() -> dict[str, Format]:
    """The formats that can be written, by ending without its dot."""
    return {ending: f for f in formats() if f.write is not None for ending, _ in f.written}


def written_titles() -> dict[str, str]:
    """What each ending that can be written is called."""
    return {ending: title for f in formats() for ending, title in f.written}


def standard(path: Path) -> tuple[str, str]:
    """Unit and up-axis that the standard of a file's format says; mm and Z of what says nothing."""
    known = {ending: f for f in formats() for ending in f.endings}.get(path.suffix.lower())
    return (known.unit, known.up) if known is not None else ("mm", "z")
