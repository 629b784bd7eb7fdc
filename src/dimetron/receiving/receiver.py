"""What a receiver expects, and what it finds of that in a file."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from dimetron.counting import counted
from dimetron.formats.format import MeshFileError, readers
from dimetron.formats.handover import UNITS
from dimetron.formats.reading import MeshFile, read_meshes
from dimetron.mesh.arrays import Floats
from dimetron.mesh.health import health
from dimetron.mesh.thickness import thicknesses
from dimetron.receiving.textures import texture_sizes
from dimetron.standing import modules_in, values_in

#: Sizes that differ by less than this share are the same: files round.
_SAME = 0.005


@dataclass(frozen=True, slots=True)
class Finding:
    """What was looked at, whether it is as it should be, and in words what was found."""

    name: str
    right: bool
    words: str


@dataclass(frozen=True, slots=True)
class Answer:
    """What a receiver says to a file."""

    receiver: str
    file: str
    findings: tuple[Finding, ...]

    @property
    def right(self) -> bool:
        """Whether all is as it should be."""
        return all(finding.right for finding in self.findings)

    def told(self) -> dict[str, Any]:
        """As plain JSON data."""
        return {**asdict(self), "right": self.right}


def answer_of(told: dict[str, Any]) -> Answer:
    """An answer from its JSON data. Raises KeyError, TypeError."""
    findings = tuple(Finding(**finding) for finding in told["findings"])
    return Answer(told["receiver"], told["file"], findings)


@dataclass(frozen=True, slots=True)
class Receiver:
    """endings: what it reads. unit, up: what its numbers are taken as, where a file itself or its
    format does not say. triangles: how many it takes; closed: whether it needs that; wall: mm that
    walls must have at least; largest: mm that fit into it, width, depth and height; texture: pixels
    of a side of a picture at most."""

    name: str
    title: str
    endings: tuple[str, ...]
    unit: str = "mm"
    up: str = "z"
    triangles: int | None = None
    closed: bool = False
    wall: float | None = None
    largest: tuple[float, float, float] | None = None
    texture: int | None = None


@cache
def receivers() -> dict[str, Receiver]:
    """All there are, by name."""
    package = f"{__name__.rpartition('.')[0]}.kinds"
    found = (r for module in modules_in(package) for r in values_in(module, Receiver))
    return {receiver.name: receiver for receiver in found}


def received(receiver: Receiver, path: Path, size_mm: Floats | None = None) -> Answer:
    """What a receiver says to a file that is meant to be ``size_mm`` (3,) large, Z up."""
    ending = path.suffix.lower()
    if ending not in receiver.endings:
        endings = ", ".join(receiver.endings)
        words = f"{ending or 'no ending'}: the {receiver.title} reads {endings}"
        return Answer(receiver.name, path.name, (Finding("format", False, words),))
    try:
        mesh = _read(receiver, path)
    except MeshFileError as error:
        return Answer(receiver.name, path.name, (Finding("file", False, str(error)),))
    findings = [*_placed(mesh, size_mm), *_of_meshes(receiver, mesh)]
    if receiver.texture is not None:
        findings += _textures(receiver.texture, path)
    findings += [Finding("file", False, words) for words in mesh.odd]
    return Answer(receiver.name, path.name, tuple(findings))


def _read(receiver: Receiver, path: Path) -> MeshFile:
    """As its format's standard says; what has none is taken as the receiver has it."""
    says = readers()[path.suffix.lower()].says_unit
    return read_meshes(path) if says else read_meshes(path, receiver.unit, receiver.up)


def _placed(mesh: MeshFile, wanted: Floats | None) -> list[Finding]:
    """Whether it is as large as it is meant to be, and stands the same way; if not, which unit or
    axis would explain it."""
    size = mesh.size_mm
    said = " × ".join(f"{side:g}" for side in np.round(size, 2))
    found = [Finding("size", True, f"{said} mm, taken as {mesh.unit}, {mesh.up.upper()} up")]
    if wanted is None or not (wanted > 0).any():
        return found
    if _same(size, wanted):
        return [*found, Finding("axis", True, "stands as it should")]
    meant = " × ".join(f"{side:g}" for side in np.round(wanted, 2))
    wrong = f"{said} mm, but {meant} mm are meant"
    lying = size[[0, 2, 1]]
    by = float(np.linalg.norm(size) / np.linalg.norm(wanted))
    unit = _unit_for(mesh.unit, by)
    upright = _same(size / by, wanted)
    if not (unit or abs(by - 1) < _SAME) or not (upright or _same(lying / by, wanted)):
        return [Finding("size", False, wrong)]
    told = []
    if unit:
        words = f"{wrong}: {by:.4g} times as large, its numbers seem to be {unit}"
        told.append(Finding("unit", False, words))
    if not upright:
        words = "it lies on its back: hand it over with the other axis up"
        told.append(Finding("axis", False, words if unit else f"{wrong}: {words}"))
    return told


def _same(one: Floats, other: Floats) -> bool:
    return bool(np.allclose(one, other, rtol=_SAME, atol=_SAME * float(np.max(other))))


def _unit_for(taken: str, by: float) -> str:
    """The unit that numbers seem to be in if they come out ``by`` times too large."""
    for name, mm in UNITS.items():
        if name != taken and abs(UNITS[taken] / mm / by - 1) < _SAME:
            return name
    return ""


def _of_meshes(receiver: Receiver, mesh: MeshFile) -> list[Finding]:
    found = []
    count = sum(len(part.mesh.triangles) for part in mesh.parts)
    words = counted(count, "triangle", "triangles")
    if receiver.triangles is not None:
        fits = count <= receiver.triangles
        more = "" if fits else f", {receiver.triangles} are taken: reduce it"
        found.append(Finding("triangles", fits, words + more))
    if receiver.largest is not None:
        fits = bool((mesh.size_mm <= np.array(receiver.largest) * (1 + _SAME)).all())
        room = " × ".join(f"{side:g}" for side in receiver.largest)
        found.append(Finding("room", fits, f"{room} mm have room"))
    for part in mesh.parts:
        told = health(part.mesh)
        if receiver.closed:
            gaps = counted(told.open_edges, "open edge", "open edges")
            crowded = counted(told.nonmanifold_edges, "crowded edge", "crowded edges")
            words = "is closed" if told.closed else f"is not closed: {gaps}, {crowded}"
            found.append(Finding("closed", told.closed, f"{part.name} {words}"))
        if receiver.wall is not None and told.closed:
            thin = float(thicknesses(part.mesh, receiver.wall).min(initial=np.inf))
            fine = not thin < receiver.wall
            words = (
                f"{part.name} is nowhere thinner than {receiver.wall:g} mm"
                if fine
                else f"{part.name} is {thin:.2f} mm thin, {receiver.wall:g} are needed"
            )
            found.append(Finding("walls", fine, words))
    return found


def _textures(most: int, path: Path) -> list[Finding]:
    found = []
    for name, size in texture_sizes(path):
        if size is None:
            found.append(Finding("texture", False, f"{name} is missing, or no picture"))
            continue
        fits = max(size) <= most
        more = "" if fits else f", at most {most} a side are taken"
        found.append(Finding("texture", fits, f"{name}: {size[0]} × {size[1]} px{more}"))
    return found
