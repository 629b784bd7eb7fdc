"""Wavefront OBJ: polygons of any size, objects as meshes of their own, negative indices.

Format: Wavefront Advanced Visualizer, appendix B1 (object files, version 3.0). Read as arrays of
bytes: a loop over the lines of a large file would be felt.
"""

from __future__ import annotations

import codecs
import re
from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dimetron.counting import counted
from dimetron.formats.faces import mesh_of, numbers_of, only_used
from dimetron.formats.format import Beside, Carries, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.obj import write
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.layers import COLOUR, GROUP, MATERIAL, UV, Layer, On
from dimetron.mesh.mesh import Mesh

Bytes = NDArray[np.uint8]
_SPACE, _TAB, _LINE, _SLASH = b" \t\n/"
_V, _F = b"vf"
_COMMENT, _INDENT = re.compile(rb"#[^\n]*"), re.compile(rb"^[ \t]+", re.MULTILINE)
#: What a file may hold besides, and a mesh here does not.
_QUIET = {b"vn", b"vp", b"s", b"mtllib", b"end"}
#: Words that hold for the faces that follow, and the layer they make.
_NAMING = {b"g": GROUP, b"usemtl": MATERIAL}
_T = b"t"[0]
_LINES = {b"l", b"p"}


@dataclass(frozen=True, slots=True)
class _Lines:
    """The text as bytes (n,), where each line begins (l,), the line of each byte (n,), which bytes
    begin a word (n,), and how many words each line has (l,)."""

    raw: Bytes
    begin: Ints
    line_of: Ints
    word: Mask
    words: Ints

    def text(self, chosen: Mask, also: Mask | None = None) -> bytes:
        """The chosen lines; also: bytes of them that are left out."""
        keep = chosen[self.line_of]
        if also is not None:
            keep &= ~also
        return bytes(self.raw[keep])


def read(data: bytes, name: str, beside: Beside) -> Read:
    """Read it; see ``format.Reading``."""
    lines = _lines(data)
    first = lines.raw[lines.begin]
    second = lines.raw[np.minimum(lines.begin + 1, len(lines.raw) - 1)]
    spaced = (second == _SPACE) | (second == _TAB)
    is_vertex, is_face = (first == _V) & spaced, (first == _F) & spaced
    odd: list[str] = []
    # Texture coordinates, normals and parameters come by the thousand.
    more = (first == _V) & ~spaced
    others = _others(lines, ~(is_vertex | is_face | more) & (lines.words > 0), beside, odd)
    positions, colours = _positions(lines, is_vertex, odd)
    before = np.cumsum(is_vertex)[is_face]
    sizes = lines.words[is_face] - 1
    given = _face_names(others, np.flatnonzero(is_face)) | colours
    given |= _texture(lines, more & (second == _T), is_face, int(sizes.sum()), odd)
    corners = _corners(lines, is_face, sizes, before)
    mesh_odd: list[str] = []
    whole = _Whole(positions, sizes, corners, given)
    parts = _parts(name, others.objects, np.flatnonzero(is_vertex), np.flatnonzero(is_face),
                   whole, mesh_odd)  # fmt: skip
    return Read(parts, tuple(odd + mesh_odd))


FORMAT = Format(
    (".obj",),
    "OBJ (polygons)",
    "mm",
    "z",
    read,
    write,
    frozenset({Carries.MESHES, Carries.PLANES, Carries.POLYGONS, Carries.COLOURS}),
    (("obj", "OBJ (polygons, drawings as textured planes)"),),
)


def _lines(data: bytes) -> _Lines:
    if data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        data = data.decode("utf-16", "replace").encode()
    text = data.removeprefix(codecs.BOM_UTF8)
    text = text.replace(b"\r\n", b"\n").replace(b"\r", b"\n").replace(b"\\\n", b" ")
    text = _INDENT.sub(b"", _COMMENT.sub(b"", text))
    raw = np.frombuffer(text + b"\n", np.uint8)
    ends = np.flatnonzero(raw == _LINE)
    begin = np.concatenate([[0], ends[:-1] + 1])
    line_of = np.repeat(np.arange(len(ends)), ends - begin + 1)
    space = (raw == _SPACE) | (raw == _TAB) | (raw == _LINE)
    starts = ~space & np.concatenate([[True], space[:-1]])
    words = np.add.reduceat(starts.astype(np.int64), begin)
    return _Lines(raw, begin, line_of, starts, words)


@dataclass(frozen=True, slots=True)
class _Others:
    """Words that hold for what follows, each as (line, name)."""

    objects: list[tuple[int, str]]
    naming: dict[str, list[tuple[int, str]]]


def _others(lines: _Lines, chosen: Mask, beside: Beside, odd: list[str]) -> _Others:
    """What else there is is told if it is amiss."""
    objects: list[tuple[int, str]] = []
    naming: dict[str, list[tuple[int, str]]] = {GROUP: [], MATERIAL: []}
    unknown: Counter[str] = Counter()
    strokes = 0
    for number in np.flatnonzero(chosen).tolist():
        end = lines.begin[number + 1] if number + 1 < len(lines.begin) else len(lines.raw)
        word, *rest = bytes(lines.raw[lines.begin[number] : end]).split(None, 1)
        told = rest[0].decode("utf-8", "replace").strip() if rest else ""
        if word == b"o":
            objects.append((number, told))
        elif word in _NAMING:
            naming[_NAMING[word]].append((number, told))
        elif word == b"mtllib" and told and beside(told) is None:
            odd.append(f"its materials ({told}) are not beside it")
        elif word in _LINES:
            strokes += 1
        elif word not in _QUIET:
            unknown[word.decode("utf-8", "replace")[:20]] += 1
    if strokes:
        what = counted(strokes, "line or point of no face was", "lines and points of no face were")
        odd.append(f"{what} left out")
    for what, times in unknown.items():
        lines_are = counted(times, "line that begins", "lines that begin")
        odd.append(f"{lines_are} with “{what}” {'was' if times == 1 else 'were'} left out")
    return _Others(objects, naming)


def _face_names(others: _Others, face_lines: Ints) -> dict[str, Layer]:
    """Groups and materials: the last word above a face holds for it."""
    found = {}
    for layer, told in others.naming.items():
        names = tuple(dict.fromkeys(name for _, name in told))
        if any(names):
            number = np.array([-1, *(names.index(name) for _, name in told)], np.int32)
            at = np.searchsorted([line for line, _ in told], face_lines)
            found[layer] = Layer(On.FACE, number[at], -1, names)
    return found


def _texture(
    lines: _Lines, is_texture: Mask, is_face: Mask, corners: int, odd: list[str]
) -> dict[str, Layer]:
    """Texture coordinates, where every corner has some."""
    count = int(is_texture.sum())
    if not count or not corners:
        return {}
    letters = np.zeros(len(lines.raw), bool)
    for place in (0, 1):
        letters[lines.begin[is_texture] + place] = True
    wide = lines.words[is_texture] - 1
    uv = numbers_of(lines.text(is_texture, letters), int(wide.sum()))
    named = numbers_of(lines.text(is_face, ~_second_words(lines)), corners)
    if uv is None or named is None or (wide != wide[0]).any() or wide[0] < 2:
        odd.append("its texture coordinates are not complete and were left out")
        return {}
    before = np.repeat(np.cumsum(is_texture)[is_face], lines.words[is_face] - 1)
    index = np.where(named < 0, named + before, named - 1).astype(np.int64)
    if ((index < 0) | (index >= count)).any():
        odd.append("its texture coordinates are not complete and were left out")
        return {}
    return {UV: Layer(On.CORNER, uv.reshape(count, -1)[index, :2].astype(np.float32))}


def _second_words(lines: _Lines) -> Mask:
    """(n,) bytes of words between their first slash and the second, and white space."""
    slashes = np.cumsum(lines.raw == _SLASH, dtype=np.int32)
    word_of = np.maximum(np.cumsum(lines.word, dtype=np.int32) - 1, 0)
    nth = slashes - slashes[lines.word][word_of]
    return np.asarray(((nth == 1) & (lines.raw != _SLASH)) | (lines.raw <= _SPACE))


def _positions(lines: _Lines, chosen: Mask, odd: list[str]) -> tuple[Floats, dict[str, Layer]]:
    """(n, 3), and the colours if there are any; what is no number is NaN. A fourth number weighs
    (on a rational curve), three more are a colour."""
    words = lines.words[chosen] - 1
    count = int(chosen.sum())
    if not count:
        return np.zeros((0, 3)), {}
    letters = np.zeros(len(lines.raw), bool)
    letters[lines.begin[chosen]] = True
    if (words == words[0]).all() and words[0] >= 3:
        found = numbers_of(lines.text(chosen, letters), count * int(words[0]))
        if found is not None:
            table = found.reshape(count, -1)
            return table[:, :3], _colours(table[:, 3:])
    rows = [_three(line[1:]) for line in lines.text(chosen).split(b"\n")[:-1]]
    bad = sum(row is None for row in rows)
    if bad:
        odd.append(f"{counted(bad, 'vertex line is', 'vertex lines are')} not three numbers")
    return np.array([row or (np.nan,) * 3 for row in rows]), {}


def _colours(more: Floats) -> dict[str, Layer]:
    if more.shape[1] < 3:
        return {}
    values = np.ones((len(more), 4), np.float32)
    values[:, :3] = np.nan_to_num(more[:, :3]).clip(0, 1)
    return {COLOUR: Layer(On.VERTEX, values, 1.0)}


def _three(words: bytes) -> tuple[float, float, float] | None:
    try:
        x, y, z = (float(word) for word in words.split()[:3])
    except ValueError:
        return None
    return x, y, z


def _corners(lines: _Lines, chosen: Mask, sizes: Ints, before: Ints) -> Ints:
    """(c,) the vertex of each corner, -1 for what names none. before: how many vertices stand above
    each face, from which negative ones count."""
    if not len(sizes):
        return np.zeros(0, np.int64)
    drop = _after_slash(lines)
    drop[lines.begin[chosen]] = True
    total = int(sizes.sum())
    named = numbers_of(lines.text(chosen, drop), total)
    if named is None:
        words = (w for line in lines.text(chosen, drop).split(b"\n")[:-1] for w in line.split())
        named = np.array([_whole(word) for word in words], np.float64)
        if len(named) != total:
            raise MeshFileError("has faces that cannot be read; get the file again.")
    index = np.where(np.isfinite(named) & (np.abs(named) < 2**53), named, 0).astype(np.int64)
    return np.where(index < 0, index + np.repeat(before, sizes), index - 1)


def _after_slash(lines: _Lines) -> Mask:
    """(n,) bytes of words from their first slash on: they name texture and normal."""
    slash = lines.raw == _SLASH
    if not slash.any():
        return np.zeros(len(slash), bool)
    slashes = np.cumsum(slash, dtype=np.int32)
    word_of = np.cumsum(lines.word, dtype=np.int32) - 1
    before = slashes[lines.word]
    found: Mask = (slashes > before[np.maximum(word_of, 0)]) & (lines.raw > _SPACE)
    return found


def _whole(word: bytes) -> float:
    try:
        return float(int(word))
    except ValueError:
        return 0.0


def _parts(
    name: str,
    objects: list[tuple[int, str]],
    vertex_lines: Ints,
    face_lines: Ints,
    whole: _Whole,
    odd: list[str],
) -> tuple[NamedMesh, ...]:
    positions, sizes, corners = whole.positions, whole.sizes, whole.corners
    if len(objects) < 2:
        title = objects[0][1] if objects and objects[0][1] else name
        return (NamedMesh(title, mesh_of(positions, sizes, corners, odd, whole.layers)),)
    begins = np.array([line for line, _ in objects])
    face_object = np.searchsorted(begins, face_lines) - 1
    vertex_object = np.searchsorted(begins, vertex_lines) - 1
    parts = []
    names = [(-1, name), *((at, told or name) for at, (_, told) in enumerate(objects))]
    used = np.zeros(len(positions), bool)
    used[corners[(corners >= 0) & (corners < len(positions))]] = True
    for at, title in names:
        chosen = face_object == at
        loose = (vertex_object == at) & ~used & np.isfinite(positions).all(axis=1)
        if chosen.any() or loose.any():
            parts.append(NamedMesh(title, _own(whole.of(chosen), loose, odd)))
    return tuple(parts)


@dataclass(frozen=True, slots=True)
class _Whole:
    """All vertices, some faces, and what is known of them."""

    positions: Floats
    sizes: Ints
    corners: Ints
    layers: dict[str, Layer]

    def of(self, faces: Mask) -> _Whole:
        """Only some of the faces (f,)."""
        kept = {On.FACE: faces, On.CORNER: np.repeat(faces, self.sizes)}
        given = {
            name: layer.with_values(layer.values[kept[layer.on]]) if layer.on in kept else layer
            for name, layer in self.layers.items()
        }
        return _Whole(self.positions, self.sizes[faces], self.corners[kept[On.CORNER]], given)


def _own(whole: _Whole, loose: Mask, odd: list[str]) -> Mesh:
    """The mesh of one object among the vertices of all."""
    positions, corners = whole.positions, whole.corners
    finite = np.asarray(np.isfinite(positions).all(axis=1))
    mesh = mesh_of(np.where(finite[:, None], positions, 0.0), whole.sizes,
                   np.where(_named(corners, finite), corners, -1), odd, whole.layers)  # fmt: skip
    return only_used(mesh, loose)


def _named(corners: Ints, finite: Mask) -> Mask:
    inside = (corners >= 0) & (corners < len(finite))
    named = inside.copy()
    named[inside] = finite[corners[inside]]
    return named
