"""PLY, text and binary of either byte order, properties in any order.

Format: The PLY Polygon File Format (G. Turk, 1994).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from dimetron.formats.faces import mesh_of
from dimetron.formats.format import Beside, Carries, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.ply import write
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.layers import COLOUR, Layer, On

_TYPES = {
    **{"char": "i1", "uchar": "u1", "short": "i2", "ushort": "u2", "int": "i4", "uint": "u4"},
    **{"float": "f4", "double": "f8", "int8": "i1", "uint8": "u1", "int16": "i2"},
    **{"uint16": "u2", "int32": "i4", "uint32": "u4", "float32": "f4", "float64": "f8"},
}
_LISTS = ("vertex_indices", "vertex_index")
_MOST = 200_000_000
_KNOWN = ("vertex", "face", "edge")


@dataclass(frozen=True, slots=True)
class _Property:
    """of: the type; counted_by: of a list the type of its length, else empty."""

    name: str
    of: str
    counted_by: str = ""


@dataclass(frozen=True, slots=True)
class _Element:
    name: str
    count: int
    properties: list[_Property] = field(default_factory=list)

    def column(self, name: str) -> int | None:
        names = [p.name for p in self.properties]
        return names.index(name) if name in names else None


@dataclass(frozen=True, slots=True)
class _Table:
    """Of an element: its scalars (n, p), NaN where a list stands, and the lists of polygons as
    sizes (n,) and entries (c,)."""

    scalars: Floats
    sizes: Ints
    entries: Ints


def read(data: bytes, name: str, beside: Beside) -> Read:
    """Read it; see ``format.Reading``."""
    order, elements, body = _header(data)
    tables = dict(_text_tables(body, elements) if order == "" else _tables(body, elements, order))
    odd = [f"its {e.name} elements were left out" for e in elements if e.name not in _KNOWN]
    vertex = next((e for e in elements if e.name == "vertex"), None)
    columns = [at for axis in "xyz" if vertex and (at := vertex.column(axis)) is not None]
    if len(columns) < 3:
        raise MeshFileError("has no vertices with x, y and z; get the file again.")
    positions = tables["vertex"].scalars[:, columns]
    face = tables.get("face")
    sizes = face.sizes if face else np.zeros(0, np.int64)
    corners = face.entries if face else np.zeros(0, np.int64)
    mesh = mesh_of(positions, sizes, corners, odd, _colours(vertex, tables["vertex"].scalars))
    return Read((NamedMesh(name, mesh),), tuple(odd))


FORMAT = Format(
    (".ply",),
    "PLY (polygons)",
    "mm",
    "z",
    read,
    write,
    frozenset({Carries.MESHES, Carries.POLYGONS, Carries.COLOURS}),
    written=(("ply", "PLY (polygons, meshes only)"),),
)


def _colours(vertex: _Element | None, scalars: Floats) -> dict[str, Layer]:
    """The vertices' colours, if they have any."""
    names = ("red", "green", "blue", "alpha")
    columns = [vertex.column(name) for name in names] if vertex is not None else []
    if vertex is None or None in columns[:3]:
        return {}
    values = np.ones((len(scalars), 4), np.float32)
    for place, column in enumerate(columns):
        if column is not None:
            whole = vertex.properties[column].of.startswith(("i", "u"))
            values[:, place] = scalars[:, column] / (255 if whole else 1)
    return {COLOUR: Layer(On.VERTEX, np.nan_to_num(values).clip(0, 1), 1.0)}


def _header(data: bytes) -> tuple[str, list[_Element], bytes]:
    """Byte order ("" for text), elements, and what follows."""
    end = data.find(b"end_header", 0, 1 << 20)
    if not data.startswith(b"ply") or end < 0:
        raise MeshFileError("is no PLY file, or its header is damaged.")
    body = data[end + len(b"end_header") :].lstrip(b" \t")
    body = body[2:] if body[:2] == b"\r\n" else body[1:]
    order: str | None = None
    elements: list[_Element] = []
    for line in data[:end].decode("ascii", "replace").splitlines()[1:]:
        words = line.split()
        if words[:1] == ["format"]:
            orders = {"ascii": "", "binary_little_endian": "<", "binary_big_endian": ">"}
            order = orders.get(words[1] if len(words) > 1 else "")
        elif words[:1] == ["element"] and len(words) == 3 and words[2].isdigit():
            elements.append(_Element(words[1], int(words[2])))
        elif words[:1] == ["property"] and elements:
            elements[-1].properties.append(_property(words[1:]))
        elif words[:1] == ["element"]:
            raise MeshFileError("has a header that is damaged; get the file again.")
    if order is None or any(e.count > _MOST for e in elements):
        raise MeshFileError("has a header that is damaged; get the file again.")
    return order, elements, body


def _property(words: list[str]) -> _Property:
    kinds = [_TYPES.get(word, "") for word in words]
    if len(words) == 4 and words[0] == "list" and kinds[1] and kinds[2]:
        return _Property(words[3], kinds[2], kinds[1])
    if len(words) == 2 and kinds[0]:
        return _Property(words[1], kinds[0])
    raise MeshFileError("has properties of a kind that is not known; get the file again.")


def _cut_short() -> MeshFileError:
    return MeshFileError("is cut short; get the file again.")


# Binary.


def _tables(body: bytes, elements: list[_Element], order: str) -> Iterator[tuple[str, _Table]]:
    at = 0
    for element in elements:
        table, at = _binary(body, at, element, order)
        yield element.name, table


def _binary(body: bytes, at: int, element: _Element, order: str) -> tuple[_Table, int]:
    """As rows of one length, if all lists are as long as the first row's; else one by one."""
    lengths = _first_lengths(body, at, element, order) if element.count else []
    parts: list[tuple[str, str] | tuple[str, str, tuple[int]]] = []
    for number, (prop, length) in enumerate(zip(element.properties, lengths, strict=False)):
        if prop.counted_by:
            parts.append((f"n{number}", order + prop.counted_by))
            parts.append((f"p{number}", order + prop.of, (length,)))
        else:
            parts.append((f"p{number}", order + prop.of))
    row = np.dtype(parts)
    if at + row.itemsize * element.count > len(body):
        return _one_by_one(body, at, element, order)
    rows = np.frombuffer(body, row, element.count, at)
    even = all(
        (rows[f"n{number}"] == length).all()
        for number, (prop, length) in enumerate(zip(element.properties, lengths, strict=False))
        if prop.counted_by
    )
    if not even:
        return _one_by_one(body, at, element, order)
    scalars = np.full((element.count, len(element.properties)), np.nan)
    sizes, entries = np.zeros(element.count, np.int64), np.zeros(0, np.int64)
    for number, prop in enumerate(element.properties if element.count else ()):
        if not prop.counted_by:
            scalars[:, number] = rows[f"p{number}"]
        elif prop.name in _LISTS:
            sizes = np.full(element.count, lengths[number])
            entries = rows[f"p{number}"].astype(np.int64).ravel()
    return _Table(scalars, sizes, entries), at + row.itemsize * element.count


def _first_lengths(body: bytes, at: int, element: _Element, order: str) -> list[int]:
    lengths = []
    for prop in element.properties:
        length = 1
        if prop.counted_by:
            length = _length(body, at, order + prop.counted_by)
            at += np.dtype(prop.counted_by).itemsize
        lengths.append(length)
        at += np.dtype(prop.of).itemsize * length
    return lengths


def _length(body: bytes, at: int, kind: str) -> int:
    if at + np.dtype(kind).itemsize > len(body):
        raise _cut_short()
    length = int(np.frombuffer(body, kind, 1, at)[0])
    if not 0 <= length <= len(body):
        raise MeshFileError("has a list whose length is damaged; get the file again.")
    return length


def _one_by_one(body: bytes, at: int, element: _Element, order: str) -> tuple[_Table, int]:
    """Where a row ends is known only when it was read."""
    scalars = np.full((element.count, len(element.properties)), np.nan)
    sizes = np.zeros(element.count, np.int64)
    entries: list[np.ndarray] = []
    for row in range(element.count):
        for number, prop in enumerate(element.properties):
            length = 1
            if prop.counted_by:
                length = _length(body, at, order + prop.counted_by)
                at += np.dtype(prop.counted_by).itemsize
            wide = np.dtype(prop.of).itemsize * length
            if at + wide > len(body):
                raise _cut_short()
            if not prop.counted_by:
                scalars[row, number] = np.frombuffer(body, order + prop.of, 1, at)[0]
            elif prop.name in _LISTS:
                sizes[row] = length
                entries.append(np.frombuffer(body, order + prop.of, length, at))
            at += wide
    corners = np.concatenate(entries).astype(np.int64) if entries else np.zeros(0, np.int64)
    return _Table(scalars, sizes, corners), at


# Text.


def _text_tables(body: bytes, elements: list[_Element]) -> Iterator[tuple[str, _Table]]:
    lines = [line.split() for line in body.splitlines() if line.strip()]
    at = 0
    for element in elements:
        rows = lines[at : at + element.count]
        if len(rows) < element.count:
            raise _cut_short()
        at += element.count
        yield element.name, _text_table(element, rows)


def _text_table(element: _Element, rows: list[list[bytes]]) -> _Table:
    scalars = np.full((element.count, len(element.properties)), np.nan)
    sizes = np.zeros(element.count, np.int64)
    entries: list[int] = []
    plain = not any(p.counted_by for p in element.properties)
    if plain and rows and all(len(row) == len(element.properties) for row in rows):
        try:
            return _Table(np.array(rows, dtype=np.float64), sizes, np.zeros(0, np.int64))
        except ValueError:
            pass
    for number, row in enumerate(rows):
        polygon = _text_row(element, row, scalars[number])
        sizes[number] = len(polygon)
        entries += polygon
    return _Table(scalars, sizes, np.array(entries, np.int64))


def _text_row(element: _Element, words: list[bytes], scalars: Floats) -> list[int]:
    """Fills in the scalars, and returns the polygon; one that names nothing if it is unreadable."""
    at = 0
    polygon: list[int] = []
    for number, prop in enumerate(element.properties):
        try:
            if not prop.counted_by:
                scalars[number] = float(words[at])
                at += 1
                continue
            length = int(words[at])
            part = [int(word) for word in words[at + 1 : at + 1 + length]]
            at += 1 + length
        except (ValueError, IndexError):
            return polygon or ([-1, -1, -1] if element.name == "face" else [])
        if prop.name in _LISTS:
            polygon = part if len(part) == length else [-1, -1, -1]
    return polygon
