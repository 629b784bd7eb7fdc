"""``dimetron mesh``: meshes read, changed and written by a script."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from dimetron import console
from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.formats.export import export
from dimetron.formats.format import standard
from dimetron.formats.named import NamedMesh
from dimetron.formats.reading import read_meshes
from dimetron.geometry.lengths import LengthError, parse_length, parse_number
from dimetron.mesh.edited import Edited
from dimetron.mesh.health import health
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import Operation, by_name, operations
from dimetron.mesh.parameters import Parameter, Sort
from dimetron.mesh.select import Kind, Selection, none
from dimetron.mesh.select_words import KNOWN, selected
from dimetron.mesh.topology import Topology

#: What is chosen for the operations that follow, instead of one.
_SELECT = "select"


class MeshFault(ValueError):
    """What was asked for has no meaning; the message says what to do."""


@dataclass(frozen=True, slots=True)
class _Asked:
    """An operation with its parameters; or words for what is selected for those that follow."""

    operation: Operation | None
    how: Any


def run(given: argparse.Namespace) -> int:
    """Read, change, write, and tell the health of the result. Raises MeshFault, MeshError,
    MeshFileError, ExportError and WriteError."""
    asked = [_asked(text) for text in given.do]
    read = [part for path in given.input for part in read_meshes(path).parts]
    parts = _done(read, asked)
    if not any(part.mesh.topology.face_count for part in parts):
        raise MeshFault("Nothing is left of the meshes; nothing was written.")
    unit, up = standard(given.out)
    export(_document(parts), given.out, unit=given.unit or unit, up=given.up or up)
    told = asdict(health(joined([part.mesh for part in parts])))
    if given.json:
        console.say_json(told)
    else:
        console.say(_in_words(given.out, told))
    return 0


def _document(parts: list[NamedMesh]) -> Document:
    doc = Document()
    for part in parts:
        doc, _ = edits.with_mesh(doc, part.mesh, part.name)
    return doc


@dataclass(frozen=True, slots=True, eq=False)
class _Part:
    """A mesh, and what is selected of it."""

    name: str
    mesh: Mesh
    chosen: Selection


def _done(read: Sequence[NamedMesh], asked: list[_Asked]) -> list[NamedMesh]:
    """One operation after the other, each on what the one before it leaves selected; on every mesh
    for itself, or on all of them where it makes one of several."""
    parts = [_Part(one.name, one.mesh, Selection(Kind.WHOLE, none())) for one in read]
    for one in asked:
        operation = one.operation
        if operation is None:
            parts = [replace(p, chosen=selected(p.mesh, one.how)) for p in parts]
        elif operation.several and parts:
            others = [p.mesh for p in parts[1:]]
            done = operation.run(parts[0].mesh, parts[0].chosen, one.how, others)
            parts = [_Part(parts[0].name, done.mesh, _left(done))]
        elif operation.asides and parts:
            first, *rest = parts
            done = operation.run(first.mesh, first.chosen, one.how, [p.mesh for p in rest])
            parts = [replace(first, mesh=done.mesh, chosen=_left(done)), *rest]
        else:
            parts = [made for p in parts for made in _each(operation, p, one.how)]
    return [NamedMesh(p.name, p.mesh) for p in parts]


def _each(operation: Operation, part: _Part, how: Any) -> list[_Part]:
    done = operation.run(part.mesh, part.chosen, how)
    more = [
        _Part(f"{part.name} {number}", mesh, Selection(Kind.WHOLE, none()))
        for number, mesh in enumerate(done.others, start=2)
    ]
    return [replace(part, mesh=done.mesh, chosen=_left(done)), *more]


def _left(done: Edited) -> Selection:
    """What is selected for the operations that follow: the whole mesh, where nothing is left."""
    chosen = done.selection
    return chosen if len(chosen.indices) else Selection(Kind.WHOLE, none())


def _asked(text: str) -> _Asked:
    name, given, value = text.partition("=")
    if name == _SELECT:
        selected(Mesh(*_NO_MESH), value)
        return _Asked(None, value)
    operation = by_name(name)
    if not operation.parameters:
        if given:
            raise MeshFault(f"“{name}” takes no value; leave “={value}” out.")
        return _Asked(operation, operation.made())
    known = {p.name: p for p in operation.parameters}
    numbers: dict[str, Any] = {}
    words = value.split(",") if value else []
    if operation.paired and words:
        second = operation.parameters[1]
        one, colon, two = words[0].partition(":")
        if not colon:
            raise MeshFault(f"“{text}” says too little; write {written_as(operation)}.")
        words = [one, f"{second.name}={two}", *words[1:]]
    for at, word in enumerate(words):
        key, named, amount = word.partition("=")
        if not named and at:
            raise MeshFault(f"“{word}” in “{text}” needs a name: {written_as(operation)}.")
        parameter = known.get(key) if named else operation.parameters[0]
        if parameter is None:
            raise MeshFault(f"“{name}” has no {key}; it is written {written_as(operation)}.")
        numbers[parameter.name] = _value(operation, parameter, amount if named else word)
    if not numbers and not given and not operation.bare:
        raise MeshFault(f"“{name}” needs a value: {written_as(operation)}.")
    return _Asked(operation, operation.made(**numbers))


def _value(operation: Operation, parameter: Parameter, text: str) -> Any:
    if parameter.sort is Sort.SWITCH:
        if text not in ("yes", "no"):
            raise MeshFault(f"{parameter.name} of “{operation.name}” is yes or no.")
        return text == "yes"
    if parameter.sort is Sort.CHOICE:
        if text not in dict(parameter.choices):
            raise MeshFault(f"“{operation.name}” is written {written_as(operation)}.")
        return text
    try:
        return parse_length(text) if parameter.sort is Sort.LENGTH else parse_number(text)
    except LengthError as error:
        wanted = "a length" if parameter.sort is Sort.LENGTH else "a number"
        words = f"“{operation.name}” needs {wanted}, and “{text}” is none: {written_as(operation)}."
        raise MeshFault(words) from error


def written_as(operation: Operation) -> str:
    """How an operation is written."""
    parameters = [p for p in operation.parameters if p.sort is not Sort.PLACES]
    words = [_slot(p) for p in parameters]
    if not words:
        return operation.name
    named = [f"[,{p.name}={word}]" for p, word in zip(parameters[1:], words[1:], strict=True)]
    first = words[0]
    if operation.paired:
        first, named = f"{words[0]}:{words[1]}", named[1:]
    whole = f"={first}{''.join(named)}"
    return f"{operation.name}[{whole}]" if operation.bare else operation.name + whole


def _slot(parameter: Parameter) -> str:
    if parameter.sort is Sort.CHOICE:
        return "|".join(value for value, _ in parameter.choices)
    if parameter.sort is Sort.SWITCH:
        return "yes|no"
    return {Sort.LENGTH: "MM", Sort.ANGLE: "DEG"}.get(parameter.sort, parameter.name.upper())


def listed() -> str:
    """Every operation as it is written, with its sentence."""
    rows = [(written_as(o), o.sentence) for o in operations().values()]
    rows.append((f"{_SELECT}=WHAT", f"For those that follow; WHAT: {KNOWN}."))
    return "\n".join(f"  {form}\n      {sentence}" for form, sentence in rows)


_NO_MESH = (np.zeros((0, 3)), Topology(np.zeros(1, np.int32), np.zeros(0, np.int32), 0))
_SEVERAL = {
    "open_edges": "open edges",
    "nonmanifold_edges": "edges of three or more faces",
    "doubled_vertices": "doubled vertices",
    "doubled_faces": "doubled faces",
    "zero_area_faces": "faces without area",
    "flipped_faces": "faces the wrong way round",
    "ngons": "faces of more than four corners",
    "loose_vertices": "loose vertices",
}


def _in_words(out: Path, told: dict[str, Any]) -> str:
    closed = "closed" if told["closed"] else "open"
    lines = [
        f"{out.name}: {told['vertices']} vertices, {told['faces']} faces, {told['shells']} shells, "
        f"{closed}; {told['area_mm2']:g} mm², {told['volume_mm3']:g} mm³"
    ]
    lines += [f"  {told[key]} {words}" for key, words in _SEVERAL.items() if told[key]]
    return "\n".join(lines)
