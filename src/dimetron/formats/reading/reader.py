"""What a reader of a mesh file is and gives."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from dimetron.formats.named import NamedMesh
from dimetron.standing import modules_in, values_in


class MeshFileError(ValueError):
    """The file cannot be taken in; the message says why and what to do."""


@dataclass(frozen=True, slots=True)
class Read:
    """What a file holds, in its own numbers. odd: in plain words what was left out or is amiss;
    unit: the one that the file itself names, if it does."""

    parts: tuple[NamedMesh, ...]
    odd: tuple[str, ...] = ()
    unit: str | None = None


#: Bytes of a file that lies beside the one that is read, by its name there; None if it is missing.
Beside = Callable[[str], bytes | None]


@dataclass(frozen=True, slots=True)
class Reader:
    """endings: with their dot; unit, up: what the format's standard says lengths and axes are.

    ``read`` takes the file's bytes, its name without ending, and what lies beside it. Raises
    MeshFileError with words that follow the file's name.
    """

    endings: tuple[str, ...]
    title: str
    unit: str
    up: str
    read: Callable[[bytes, str, Beside], Read]


@cache
def readers() -> dict[str, Reader]:
    """Every reader there is, by ending: those that the modules of this folder make."""
    found: dict[str, Reader] = {}
    for module in modules_in(__name__.rpartition(".")[0]):
        for reader in values_in(module, Reader):
            found |= dict.fromkeys(reader.endings, reader)
    return found


def standard(path: Path) -> tuple[str, str]:
    """Unit and up-axis that the standard of a file's format says; mm and Z of what says nothing."""
    reader = readers().get(path.suffix.lower())
    return (reader.unit, reader.up) if reader is not None else ("mm", "z")
