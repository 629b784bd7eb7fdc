"""The demo projects: drawings of a prop, brought in as a person would bring them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache

from PIL import Image

from dimetron.demo import beetle, bench, can, clock, odo, snail, tracing
from dimetron.demo.lines import visible_lines
from dimetron.demo.modelled import modelled_can
from dimetron.demo.pencil import Scan, drawn, encoded
from dimetron.demo.photo import taken
from dimetron.demo.plan import Clutter, SheetPlan
from dimetron.demo.plates import Plate, drawn_plate, plate_file
from dimetron.demo.sheet import drawn_sheet, sheet_file
from dimetron.document import edits
from dimetron.document.model import Document, source_from
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import Projection, View
from dimetron.imaging.read import probe
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.primitives import box

#: As plates are saved, 0 to 100.
_PLATE_QUALITY = 86
#: The top view was drawn 3 mm longer than the side view says.
TOP_TOO_LONG_MM = 3.0

CAN_SCANS = (
    Scan(View.FRONT, "can front.png", (1100, 1560), (548.0, 1440.0), 0.2143, line_px=3.2, seed=11),
    Scan(
        View.RIGHT,
        "can side.jpg",
        (1760, 1240),
        (1078.0, 1130.0),
        0.2667,
        paper=(240, 236, 229),
        line_px=2.7,
        seed=12,
    ),
    Scan(
        View.TOP,
        "can plan.png",
        (900, 1700),
        (446.0, 660.0),
        0.2874,
        lengthened=(can.LENGTH_MM + TOP_TOO_LONG_MM) / can.LENGTH_MM,
        paper=(248, 244, 233),
        line_px=2.6,
        seed=13,
    ),
)

#: Odo, each view on a sheet of its own.
ODO_SCANS = (
    Scan(View.FRONT, "odo front.png", (760, 1100), (380.0, 1020.0), 0.2, line_px=3.0, seed=31),
    Scan(View.RIGHT, "odo side.png", (1760, 1100), (720.0, 1020.0), 0.2, line_px=3.0, seed=32),
    Scan(View.TOP, "odo plan.png", (760, 1760), (380.0, 1040.0), 0.2, line_px=3.0, seed=33),
)
CAN_SHEET = SheetPlan(
    (View.FRONT, View.RIGHT, View.TOP),
    0.27,
    "Watering can",
    dpi=240,
    skew_deg=0.6,
    gap_mm=30,
    clutter=Clutter(zones=True, leaders=1),
    seed=21,
)
ODO_SHEET = SheetPlan(
    (View.FRONT, View.RIGHT, View.TOP),
    0.36,
    "Odo",
    Projection.FIRST_ANGLE,
    dpi=220,
    skew_deg=-1.1,
    gap_mm=28,
    line_mm=0.6,
    strength=0.7,
    shading=0.4,
    # The side view was drawn the wrong way round.
    mirrored=(View.RIGHT,),
    paper=(243, 236, 218),
    clutter=Clutter(dimensions=1, notes=3),
    seed=22,
)


@dataclass(frozen=True, slots=True)
class Prop:
    """A demo prop: its solid, and what came in: drawings placed already, or a whole sheet, plate or
    photo to be prepared."""

    name: str
    title: str
    solid: Callable[[], Mesh]
    scans: tuple[Scan, ...] = ()
    sheet: SheetPlan | None = None
    plate: Plate | None = None
    file: str = ""
    photo: Callable[[], Image.Image] | None = None
    traced: Callable[[Document], Document] | None = None


def _of_clock() -> Image.Image:
    return taken().picture


PROPS = {
    prop.name: prop
    for prop in (
        Prop("watering-can", "Watering can", can.solid, CAN_SCANS),
        Prop("traced-can", "Traced can", can.solid, CAN_SCANS, traced=tracing.traced_can),
        Prop("modelled-can", "Modelled can", can.solid, CAN_SCANS, traced=modelled_can),
        Prop("traced-odo", "Traced Odo", odo.solid, ODO_SCANS, traced=tracing.traced_odo),
        Prop(
            "can-sheet", "Watering can’s sheet", can.solid, (), CAN_SHEET, None, "watering can.png"
        ),
        Prop("odo-sheet", "Odo’s sheet", odo.solid, (), ODO_SHEET, None, "odo.jpg"),
        Prop(
            "clock-photo",
            "Wall clock’s photo",
            clock.solid,
            file="clock photo.jpg",
            photo=_of_clock,
        ),
        Prop(
            "beetle-sheet",
            "Clockwork beetle’s sheet",
            beetle.solid,
            (),
            None,
            beetle.PLATE,
            "beetle.jpg",
        ),
        Prop("snail-sheet", "Snail’s picture", snail.solid, (), None, snail.PLATE, "snail.jpg"),
        Prop(
            "snail-photo",
            "Snail’s photo",
            snail.solid,
            file="snail on the bench.jpg",
            photo=bench.taken,
        ),
    )
}
DEFAULT = "watering-can"


@cache
def pictures(name: str) -> dict[str, bytes]:
    """The prop's drawings as picture files: file name to bytes. Raises KeyError."""
    prop = PROPS[name]
    if not prop.scans:
        return {prop.file: _sheet_file(prop)}
    solid = prop.solid()
    return {
        scan.file: encoded(drawn(scan, visible_lines(solid, scan.view)), scan.file)
        for scan in prop.scans
    }


def _sheet_file(prop: Prop) -> bytes:
    if prop.plate is not None:
        return plate_file(drawn_plate(prop.plate, prop.solid()).picture, _PLATE_QUALITY)
    if prop.photo is not None:
        return encoded(prop.photo(), prop.file)
    assert prop.sheet is not None
    return sheet_file(drawn_sheet(prop.sheet, prop.solid()), prop.file, prop.sheet.dpi)


def project(name: str = DEFAULT) -> Document:
    """The prop's drawings on their planes, to scale and level, with a first box for the body."""
    doc = Document()
    files = pictures(name)
    for scan in PROPS[name].scans:
        data = files[scan.file]
        info = probe(data, scan.file)
        source = source_from(data, scan.file, info.extension, info.size_px)
        doc, id_ = edits.with_drawing(doc, source, scan.view)
        placed = _placed(scan, doc.drawing(id_).placement)
        doc = edits.with_placement(doc, id_, placed)
    if not PROPS[name].scans:
        return _sheets_only(files)
    traced = PROPS[name].traced
    if traced is not None:
        return traced(doc)
    if name == "watering-can":
        doc, _ = edits.with_mesh(doc, box((-84, -84, 0), (84, 84, 190)), "body")
    return doc


def _sheets_only(files: dict[str, bytes]) -> Document:
    doc = Document()
    for name, data in files.items():
        info = probe(data, name)
        source = source_from(data, name, info.extension, info.size_px, info.mm_per_px)
        doc, _ = edits.with_sheet(doc, source)
    return doc


def _placed(scan: Scan, first: Placement) -> Placement:
    """The true place, with the anchor at the picture's lower middle or centre as when dropped."""
    true = replace(scan.true_placement, stand_off_mm=first.stand_off_mm)
    at = true.to_plane(first.anchor_px)
    return replace(true, anchor_px=first.anchor_px, anchor_mm=(float(at[0]), float(at[1])))
