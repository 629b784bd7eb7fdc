"""Everything that reads what others wrote: what it is begun with, and how it may refuse."""

from __future__ import annotations

import contextlib
import io
import json
import random
import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from PIL import Image

from dimetron.document import (
    copies,
    edits,
    groups,
    placing,
    preparing,
    recovery,
    registering,
    size_references,
)
from dimetron.document.container import as_text, load, save
from dimetron.document.model import Document, source_from
from dimetron.document.parts import ReferenceKind
from dimetron.document.serial import ProjectError
from dimetron.formats.export import export
from dimetron.formats.format import MeshFileError
from dimetron.formats.format import readers as mesh_readers
from dimetron.formats.marks import MarksError, read_marks
from dimetron.formats.reading import read_meshes
from dimetron.geometry import auxiliary
from dimetron.geometry.lengths import LengthError, parse_length
from dimetron.geometry.views import Hinge, View
from dimetron.imaging.errors import PictureError
from dimetron.imaging.frame import Crop
from dimetron.imaging.read import probe, read, read_pixels
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.primitives import box
from dimetron.registration.problem import Length
from trials.mutations import damaged, damaged_tree


@dataclass(frozen=True)
class Reader:
    """``read`` takes the damaged bytes; it may raise ``refusal`` and nothing else."""

    name: str
    seeds: Callable[[], tuple[bytes, ...]]
    read: Callable[[bytes], object]
    refusal: type[Exception]
    #: How often it is tried against the others.
    weight: int = 4
    damage: Callable[[bytes, random.Random, bytes], bytes] = damaged


def _encoded(image: Image.Image, kind: str, **given: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **given)
    return out.getvalue()


def _shade() -> Image.Image:
    return Image.fromarray((np.arange(48 * 32).reshape(32, 48) % 251).astype(np.uint8))


@cache
def _pictures() -> tuple[bytes, ...]:
    grey = _shade()
    colour = Image.merge("RGB", (grey, grey.rotate(180), grey))
    deep = Image.fromarray((np.arange(48 * 32).reshape(32, 48) * 40).astype(np.uint16))
    exif = Image.Exif()
    exif[0x0112] = 6
    return (
        _encoded(grey, "PNG", dpi=(300, 300)),
        _encoded(colour.quantize(9), "PNG"),
        _encoded(deep, "PNG"),
        _encoded(colour.convert("RGBA"), "PNG", exif=exif),
        _encoded(colour, "JPEG", exif=exif, icc_profile=b"no profile"),
        _encoded(colour.convert("CMYK"), "JPEG"),
        _encoded(colour, "JPEG", progressive=True),
        _encoded(grey, "BMP"),
        _encoded(colour, "BMP"),
        _encoded(colour, "WEBP"),
        _encoded(colour.convert("RGBA"), "WEBP", lossless=True),
        _encoded(grey, "GIF", save_all=True, append_images=[grey.rotate(180)]),
    )


@cache
def _tiffs() -> tuple[bytes, ...]:
    grey = _shade()
    colour = Image.merge("RGB", (grey, grey, grey.rotate(180)))
    deep = Image.fromarray((np.arange(48 * 32).reshape(32, 48) * 40).astype(np.uint16))
    real = Image.fromarray(np.linspace(0, 1, 48 * 32, dtype=np.float32).reshape(32, 48))
    two = {"save_all": True, "append_images": [grey.rotate(180)]}
    ways = ("raw", "tiff_lzw", "tiff_adobe_deflate", "packbits", "jpeg")
    return (
        *(_encoded(colour, "TIFF", compression=way, dpi=(300, 300)) for way in ways),
        _encoded(grey, "TIFF", **two),
        _encoded(grey, "TIFF", compression="tiff_lzw", **two),
        _encoded(grey.convert("1"), "TIFF", compression="group4"),
        _encoded(deep, "TIFF"),
        _encoded(real, "TIFF"),
    )


def _svgs() -> tuple[bytes, ...]:
    begin = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30" viewBox="0 0 40 30">'
    return (
        begin + b'<path d="M1 2 L30 20 C3 4 5 6 7 8 Z" stroke="#123" fill="none"/></svg>',
        begin
        + b"<style>@import url(x);.a{fill:red}</style><g transform='rotate(9)'><rect class='a' "
        b"width='9' height='9' onclick='x()'/><text x='3' y='9'>412</text></g></svg>",
        begin
        + b'<defs><pattern id="p" width="2" height="2"><circle r="1"/></pattern><filter id="f">'
        b'<feTurbulence numOctaves="2"/><feGaussianBlur stdDeviation="1"/></filter></defs>'
        b'<rect width="9" height="9" fill="url(#p)" filter="url(#f)"/><use href="#p"/></svg>',
    )


def _pdfs() -> tuple[bytes, ...]:
    form = b"""%PDF-1.4
1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 60]/Contents 4 0 R>>endobj
4 0 obj<</Length 44>>stream
1 0 0 RG 5 w 10 10 m 80 50 l S 20 20 30 9 re f
endstream endobj
trailer<</Root 1 0 R>>
%%EOF"""
    return form, _encoded(_shade(), "PDF")


def _whole() -> Document:
    doc = Document()
    for view in (View.FRONT, View.TOP):
        data = _encoded(_shade(), "PNG")
        doc, id_ = edits.with_drawing(
            doc, source_from(data, f"{view.value}.png", "png", (48, 32), 0.2), view
        )
        for name in ("nose", "tail"):
            doc = registering.marked(doc, name, id_, (4.0, 5.0))
    doc = registering.with_length(doc, Length("nose", "tail", 40.0))
    doc, _ = preparing.cut(doc, doc.sheets[0].id, Crop(2, 2, 20, 20), View.LEFT)
    doc, body = edits.with_mesh(doc, box((-1, -2, -3), (1, 2, 3)), "body")
    doc, _ = size_references.with_reference(doc, ReferenceKind.FIGURE)
    doc, _ = groups.grouped(doc, (body,))
    hinge = Hinge(View.FRONT, (0, 0, 3), (1, 0, 0), 30.0)
    return placing.with_auxiliary(doc, auxiliary.tilted("slope", "slope", hinge))


def _in_a_folder(data: bytes, name: str, use: Callable[[Path], object]) -> object:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        path.write_bytes(data)
        return use(path)


@cache
def _projects() -> tuple[bytes, ...]:
    with tempfile.TemporaryDirectory() as folder:
        save(_whole(), Path(folder) / "a.dimetron")
        return ((Path(folder) / "a.dimetron").read_bytes(),)


def _open_and_save(path: Path) -> None:
    """What can be opened can be saved, and is the same when it is opened again."""
    doc = load(path).document
    for drawing in doc.drawings:
        doc.frame(drawing)
    save(doc, path)
    again = load(path).document
    if len(again.items) != len(doc.items) or again.sightings != doc.sightings:
        raise AssertionError("what was saved comes back otherwise")


@cache
def _trees() -> tuple[bytes, ...]:
    with zipfile.ZipFile(io.BytesIO(_projects()[0])) as whole:
        tree = json.loads(whole.read("project.json"))
    return (json.dumps(tree).encode(),)


def _with_tree(data: bytes) -> object:
    """A sound container round a damaged project.json."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(_projects()[0])) as whole, zipfile.ZipFile(out, "w") as box_:
        for name in whole.namelist():
            box_.writestr(name, data if name == "project.json" else whole.read(name))
    return _in_a_folder(out.getvalue(), "a.dimetron", _open_and_save)


def _notes() -> tuple[bytes, ...]:
    return (json.dumps({"saved_as": "/a/b.dimetron", "stamp": [1, 2, 3]}).encode(),)


def _with_note(data: bytes) -> object:
    def use(path: Path) -> None:
        path.with_suffix(".dimetron").write_bytes(b"x")
        assert len(recovery.found(path.parent)) == 1

    return _in_a_folder(data, "x.json", use)


def _marks(data: bytes) -> object:
    return read_marks(data, "marks.csv", {"front": (300, 200), "top": (300, 200)})


def _length(data: bytes) -> float:
    return parse_length(data.decode("utf-8", "replace"))


def _picture(data: bytes) -> object:
    with contextlib.suppress(PictureError):
        probe(data, "a")
    return read(data, "a")[1].pixels.shape


_TRIANGLES = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1/1 2/1 4/1\nf -3 -2 -1\n"
_THREEMF = """<model unit="inch"><resources><object id="1"><mesh><vertices>
<vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices>
<triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object><object id="2"><components>
<component objectid="1" transform="1 0 0 0 1 0 0 0 1 5 0 0"/></components></object></resources>
<build><item objectid="2"/></build></model>"""


@cache
def _mesh_files() -> dict[str, tuple[bytes, ...]]:
    """By ending; the text kinds by hand, the others as they are exported."""
    with tempfile.TemporaryDirectory() as folder:
        doc, _ = edits.with_mesh(Document(), box((0, 0, 0), (1, 2, 3)), "body")
        made = {}
        for kind in ("stl", "glb", "gltf"):
            export(doc, Path(folder) / f"a.{kind}")
            made[kind] = (Path(folder) / f"a.{kind}").read_bytes()
    package = io.BytesIO()
    with zipfile.ZipFile(package, "w") as box_:
        box_.writestr("3D/3dmodel.model", _THREEMF)
    corner = b"vertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\n"
    text_ply = b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
    text_ply += b"property float z\nelement face 1\nproperty list uchar int vertex_indices\n"
    return {
        ".obj": (f"o a\n{_TRIANGLES}o b\n{_TRIANGLES}".encode(), b"mtllib x.mtl\nf 1 2 3\n"),
        ".off": (b"COFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0 # here\n3 0 1 2 255 0 0\n",),
        ".ply": (
            to_ply(box((0, 0, 0), (1, 2, 3))),
            text_ply + b"end_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n",
        ),
        ".stl": (made["stl"], b"solid a\nfacet\n" + corner + b"endfacet\nendsolid a\n"),
        ".glb": (made["glb"],),
        ".gltf": (made["gltf"],),
        ".3mf": (package.getvalue(),),
    }


def _mesh_reader(ending: str) -> Reader:
    return Reader(
        f"mesh{ending}",
        lambda: _mesh_files()[ending],
        lambda data: _in_a_folder(data, f"a{ending}", read_meshes),
        MeshFileError,
        2,
    )


READERS = (
    Reader("picture", _pictures, _picture, PictureError),
    Reader("tiff", _tiffs, lambda data: read_pixels(data, "a.tif"), PictureError),
    Reader("svg", _svgs, lambda data: read(data, "a.svg"), PictureError, 1),
    Reader("pdf", _pdfs, lambda data: read(data, "a.pdf"), PictureError, 1),
    Reader(
        "project",
        _projects,
        lambda data: _in_a_folder(data, "a.dimetron", _open_and_save),
        ProjectError,
    ),
    Reader("tree", _trees, _with_tree, ProjectError, 6, damaged_tree),
    Reader("mesh", lambda: (to_ply(box((0, 0, 0), (1, 2, 3))),), from_ply, MeshError, 2),
    Reader(
        "marks",
        lambda: (b"landmark,view,x_px,y_px\nnose,front,12.5,7\ntail,top,1,2\n",),
        _marks,
        MarksError,
        2,
    ),
    Reader("length", lambda: (b"=300/2-5 mm", b"5' 3 1/2\"", b'16 1/4"'), _length, LengthError, 1),
    Reader("note", _notes, _with_note, ProjectError, 1),
    Reader(
        "copy",
        lambda: (json.dumps({"project": as_text(Document()).decode(), "files": {}}).encode(),),
        lambda data: _in_a_folder(data, "a.copy", copies.load),
        ProjectError,
        2,
    ),
    *(_mesh_reader(ending) for ending in mesh_readers()),
)
