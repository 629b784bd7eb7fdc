"""Edits of the Prepare station: what is done to sheets, and the drawings cut from them.

All are pure functions ``document -> document``. A placed drawing stays where it is in space: when
its crop changes every point of the picture does, when its sheet is turned or flattened anew its
middle does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dimetron.document import edits
from dimetron.document.model import Document, Drawing, Sheet, new_id, with_item
from dimetron.document.naming import without
from dimetron.document.registering import carried
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import AnyView, View
from dimetron.imaging.figure.said import Figure
from dimetron.imaging.flat import Circle, FrameError, Rectangle
from dimetron.imaging.frame import Crop, Flattening, Frame, Straightening
from dimetron.imaging.page import Page
from dimetron.imaging.tone import Tone

#: Views this far out of line, as a share of their size, were not meant to be level.
_LEVEL = 0.25


def with_sheet_changes(doc: Document, id_: str, **changes: object) -> Document:
    """The document with fields of one sheet replaced. Raises KeyError, or FrameError for a scale
    that is none."""
    doc.sheet(id_)
    scale = changes.get("mm_per_px")
    if isinstance(scale, float) and not 1e-9 <= scale <= 1e6:
        raise FrameError("The size must be more than zero and less than 1 km per pixel.")
    sheets = tuple(
        replace(s, **changes) if s.id == id_ else s  # type: ignore[arg-type]
        for s in doc.sheets
    )
    return replace(doc, sheets=sheets)


def flattened(doc: Document, id_: str, how: Flattening) -> Document:
    """Flatten, turn, mirror or resample a sheet; the crops on it go along with what they show.

    Raises FrameError for a preparation without meaning.
    """
    before = doc.frame(doc.sheet(id_))
    after = with_sheet_changes(doc, id_, flattening=how)
    now = after.frame(after.sheet(id_))
    for drawing in doc.cut_from(id_):
        crop = _carried(drawing.crop, before, now) if drawing.crop else None
        after = with_item(after, drawing.id, crop=crop)
        after = with_item(after, drawing.id, placement=_kept_middle(doc, after, drawing))
        after = carried(doc, after, drawing)
    for item in doc.loose:
        if item.sheet == id_ and item.crop is not None:
            after = with_item(after, item.id, crop=_carried(item.crop, before, now))
    return after


def _carried(crop: Crop, before: Frame, now: Frame) -> Crop:
    """The crop round the same part of the sheet: its middle carried over, its sides scaled."""
    middle = np.array([[crop.left + crop.width / 2, crop.top + crop.height / 2]])
    ends = middle + np.array([[0, 0], [crop.width / 2, 0], [0, crop.height / 2]])
    c, right, down = now.to_frame(before.to_source(ends))
    across, along = np.abs(right - c), np.abs(down - c)
    # A fine turn keeps the crop's sides; only a quarter turn swaps them.
    lying = across[1] > across[0]
    w, h = 2 * np.hypot(*across), 2 * np.hypot(*along)
    if abs(w / crop.width - 1) < 1e-3 and abs(h / crop.height - 1) < 1e-3:
        w, h = crop.width, crop.height
    w, h = (h, w) if lying else (w, h)
    return Crop(float(c[0] - w / 2), float(c[1] - h / 2), max(1.0, float(w)), max(1.0, float(h)))


def _kept_middle(doc: Document, after: Document, drawing: Drawing) -> Placement:
    old, new = doc.frame(drawing), after.frame(after.drawing(drawing.id))
    w, h = old.size_px
    ends = np.array([[w / 2, h / 2], [w / 2 + 1, h / 2]])
    there = new.to_frame(old.to_source(ends))
    place = drawing.placement
    at = place.to_plane(ends[0])
    return replace(
        place,
        anchor_px=(float(there[0, 0]), float(there[0, 1])),
        anchor_mm=(float(at[0]), float(at[1])),
        mm_per_px=place.mm_per_px / float(np.hypot(*(there[1] - there[0]))),
    )


def straightened(doc: Document, id_: str, how: Straightening) -> Document:
    """Turn or mirror one drawing within its crop."""
    after = with_item(doc, id_, straightening=how)
    after = with_item(after, id_, placement=_kept_middle(doc, after, doc.drawing(id_)))
    return carried(doc, after, doc.drawing(id_))


def recropped(doc: Document, id_: str, crop: Crop | None) -> Document:
    """Change a drawing's crop; each point of the picture stays where it is in space."""
    drawing = doc.drawing(id_)
    old = doc.frame(drawing)
    after = with_item(doc, id_, crop=crop, unsure="")
    new = after.frame(after.drawing(id_))
    place = drawing.placement
    anchor = new.to_frame(old.to_source(np.array(place.anchor_px)))
    placement = replace(place, anchor_px=(float(anchor[0]), float(anchor[1])))
    return carried(doc, with_item(after, id_, placement=placement), drawing)


def with_tone(doc: Document, id_: str, tone: Tone | None) -> Document:
    """Set the tone of a sheet or of one drawing; None gives a drawing its sheet's again."""
    if any(s.id == id_ for s in doc.sheets):
        return with_sheet_changes(doc, id_, tone=tone or Tone())
    return with_item(doc, id_, tone=tone)


def with_figure(doc: Document, id_: str, figure: Figure) -> Document:
    """Say what is drawn on a sheet. Raises KeyError."""
    return with_sheet_changes(doc, id_, figure=figure)


def tone_of(doc: Document, item: Sheet | Drawing) -> Tone:
    """The tone a sheet or drawing is shown with."""
    return doc.recipe(item).tone


# Size.


def sheet_mm_per_px(doc: Document, sheet: Sheet) -> float | None:
    """Real size of a pixel of the prepared sheet, if it is known."""
    told = doc.frame(sheet).mm_per_px
    if told is not None:
        return told
    return None if sheet.mm_per_px is None else sheet.mm_per_px / sheet.flattening.scale


def with_sheet_scale(doc: Document, id_: str, mm_per_px: float) -> Document:
    """Say how large a pixel of the prepared sheet is. Raises FrameError if that is no size."""
    if not 1e-6 <= mm_per_px <= 1e6:
        raise FrameError("The size must be more than zero and less than 1 km per pixel.")
    sheet = doc.sheet(id_)
    own = {d.id: _own_size(doc, d) for d in doc.cut_from(id_)}
    doc = with_sheet_changes(doc, id_, mm_per_px=mm_per_px * sheet.flattening.scale)
    for drawing in doc.cut_from(id_):
        if not drawing.placed:
            placement = replace(drawing.placement, mm_per_px=mm_per_px * own[drawing.id])
            doc = with_item(doc, drawing.id, placement=placement)
    return doc


def sized(doc: Document, id_: str, mm: float, axis: int) -> Document:
    """Give a drawing's crop a real width (axis 0) or height (1): its sheet gets that scale."""
    size = doc.size_px(doc.drawing(id_))[axis]
    if mm <= 0:
        raise FrameError("The size must be more than zero.")
    drawing = doc.drawing(id_)
    return with_sheet_scale(doc, drawing.sheet, mm / size / _own_size(doc, drawing))


def _own_size(doc: Document, drawing: Drawing) -> float:
    """How many times as much a pixel of a drawing that waits to be placed shows as those of its
    sheet's others."""
    if not drawing.body or drawing.placed:
        return 1.0
    sheet = doc.sheet(drawing.sheet)
    crops = {d.id: _crop_of(doc, d) for d in doc.cut_from(sheet.id)}
    return drawing.placement.mm_per_px / _common_scale(doc, sheet, crops)


# Cutting.


@dataclass(frozen=True, slots=True)
class FoundView:
    """A view found on a sheet: its crop in the flattened sheet's pixels; doubt: why it is not
    sure. ``view`` is None where no name fits. turns: by how many quarters it lies turned
    counter-clockwise; size: how many times as much a pixel of it shows as those of the others."""

    crop: Crop
    view: View | None
    doubt: str = ""
    turns: int = 0
    size: float = 1.0


def cut(
    doc: Document, sheet: str, crop: Crop, view: View | None = None, unsure: str = ""
) -> tuple[Document, str]:
    """Cut a drawing from a sheet, not placed yet; returns the document and the drawing's id."""
    stem = doc.sheet(sheet).name.rpartition(".")[0] or doc.sheet(sheet).name
    name = edits.free_name(doc, f"{stem} {view.value if view else 'part'}")
    scale = sheet_mm_per_px(doc, doc.sheet(sheet)) or edits.FIRST_WIDTH_MM / crop.width
    shown_as = view or View.FRONT
    drawing = Drawing(
        new_id(),
        name,
        shown_as,
        sheet,
        Placement(scale, (crop.width / 2, crop.height / 2), (0.0, 0.0)),
        crop=crop,
        placed=False,
        named=view is not None,
        unsure=unsure,
    )
    return replace(doc, drawings=(*doc.drawings, drawing)), drawing.id


def with_found_views(doc: Document, sheet: str, proposals: Sequence[FoundView]) -> Document:
    """Cut all proposed views; drawings of the sheet that are not placed make way for them.

    A view that a placed drawing of the sheet shows already is not proposed again.
    """
    doc = without(doc, [d.id for d in doc.drawings if d.sheet == sheet and not d.placed])
    there = {d.view for d in doc.cut_from(sheet)}
    usual = edits.FIRST_WIDTH_MM / max((f.crop.width for f in proposals), default=1.0)
    common = sheet_mm_per_px(doc, doc.sheet(sheet)) or usual
    for found in proposals:
        if found.view not in there:
            doc, id_ = cut(doc, sheet, found.crop, found.view, found.doubt)
            doc = _lying(doc, id_, found, common)
    return doc


def _lying(doc: Document, id_: str, found: FoundView, common: float) -> Document:
    """A drawing set upright, and of a scale of its own beside the common one if it was drawn in
    one."""
    if found.turns:
        doc = with_item(doc, id_, straightening=Straightening(turns=-found.turns % 4))
    if found.size != 1.0:
        own = replace(doc.drawing(id_).placement, mm_per_px=common * found.size)
        doc = with_item(doc, id_, placement=own, body=id_)
    return doc


def with_view(doc: Document, id_: str, view: AnyView) -> Document:
    """Say which view a drawing shows."""
    drawing = doc.drawing(id_)
    stem = doc.sheet(drawing.sheet).name.rpartition(".")[0]
    given = {f"{stem} {v.title.lower()}" for v in doc.views} | {f"{stem} part"}
    after = with_item(doc, id_, view=view, named=True, unsure="")
    if drawing.name.rstrip(" 0123456789") in given:
        others = replace(after, drawings=tuple(d for d in after.drawings if d.id != id_))
        after = with_item(after, id_, name=edits.free_name(others, f"{stem} {view.title.lower()}"))
    return after


# Placing.


def placed(doc: Document, ids: Sequence[str]) -> Document:
    """Put drawings on the planes of their views: at their sheet's common scale, level with each
    other as they stood on it. Raises PlacementError if one has not been named."""
    for id_ in ids:
        if not doc.drawing(id_).named:
            raise PlacementError(f"Say first which view {doc.drawing(id_).name} shows.")
    for sheet in doc.sheets:
        own = [doc.drawing(i) for i in ids if doc.drawing(i).sheet == sheet.id]
        if own:
            doc = _placed_from(doc, sheet, own)
    return doc


def place_all(doc: Document, sheet: str) -> Document:
    """Place every drawing of a sheet that is named and not placed yet."""
    return placed(doc, [d.id for d in doc.cut_from(sheet) if d.named and not d.placed])


def _placed_from(doc: Document, sheet: Sheet, drawings: list[Drawing]) -> Document:
    crops = {d.id: _crop_of(doc, d) for d in doc.cut_from(sheet.id)}
    scale = _common_scale(doc, sheet, crops)
    level = _Levels(doc, sheet, crops)
    for drawing in drawings:
        crop = crops[drawing.id]
        w, h = doc.size_px(drawing)
        own = drawing.placement.mm_per_px if drawing.body else scale
        if drawing.body or drawing.straightening.turns % 2:
            # What was drawn in another scale or lay on its side stood level with nothing.
            at = np.array([0.0, h / 2 * own if drawing.view.turned_up else 0.0])
        else:
            middle = np.array([crop.left + crop.width / 2, crop.top + crop.height / 2])
            at = (middle - level.origin(drawing)) * (own, -own)
        place = Placement(own, (w / 2, h / 2), (float(at[0]), float(at[1])))
        doc = with_item(doc, drawing.id, placed=True, placement=place, unsure="")
    return doc


def _crop_of(doc: Document, drawing: Drawing) -> Crop:
    if drawing.crop is not None:
        return drawing.crop
    w, h = doc.frame(doc.sheet(drawing.sheet)).size_px
    return Crop(0, 0, w, h)


def _common_scale(doc: Document, sheet: Sheet, crops: dict[str, Crop]) -> float:
    """That of what stands in space already as one body; else the sheet's own; else a usual
    width."""
    for drawing in doc.cut_from(sheet.id):
        if drawing.placed and not drawing.body:
            return drawing.placement.mm_per_px
    known = sheet_mm_per_px(doc, sheet)
    if known is not None:
        return known
    return edits.FIRST_WIDTH_MM / max(crop.width for crop in crops.values())


class _Levels:
    """Where the world's origin lies on a sheet, for each of its drawings: under the middle of the
    front view, on the ground that its lower edge stands on; depth is counted from each middle."""

    def __init__(self, doc: Document, sheet: Sheet, crops: dict[str, Crop]) -> None:
        self._crops = crops
        named = [d for d in doc.cut_from(sheet.id) if d.named]
        self._front = next((crops[d.id] for d in named if d.view is View.FRONT), None)

    def origin(self, drawing: Drawing) -> tuple[float, float]:
        crop, front = self._crops[drawing.id], self._front
        x, y = crop.left + crop.width / 2, crop.bottom
        if not drawing.view.turned_up:
            y = crop.top + crop.height / 2
        elif front is not None and abs(crop.bottom - front.bottom) < _LEVEL * front.height:
            y = front.bottom
        if front is not None and drawing.view in (View.TOP, View.BOTTOM, View.FRONT):
            middle = front.left + front.width / 2
            x = middle if abs(x - middle) < _LEVEL * front.width else x
        return x, y


def redrawn(doc: Document, id_: str, page: Page, size_px: tuple[int, int]) -> Document:
    """Draw a PDF page or an SVG finer or coarser; all that was done to it keeps its place."""
    sheet = doc.sheet(id_)
    by = size_px[0] / sheet.size_px[0]
    scale = None if sheet.mm_per_px is None else sheet.mm_per_px / by
    flat = replace(sheet.flattening, known=_scaled_known(sheet.flattening.known, by))
    doc = with_sheet_changes(doc, id_, page=page, size_px=size_px, mm_per_px=scale, flattening=flat)
    for drawing in doc.cut_from(id_):
        place, crop = drawing.placement, drawing.crop
        x, y = place.anchor_px
        placement = replace(place, anchor_px=(x * by, y * by), mm_per_px=place.mm_per_px / by)
        if crop is not None:
            crop = Crop(crop.left * by, crop.top * by, crop.width * by, crop.height * by)
        doc = with_item(doc, drawing.id, crop=crop, placement=placement)
    return doc


def _scaled_known(known: Rectangle | Circle | None, by: float) -> Rectangle | Circle | None:
    if isinstance(known, Rectangle):
        a, b, c, d = ((x * by, y * by) for x, y in known.corners)
        return replace(known, corners=(a, b, c, d))
    if isinstance(known, Circle):
        rim = tuple((x * by, y * by) for x, y in known.rim)
        return replace(known, rim=rim, centre=(known.centre[0] * by, known.centre[1] * by))
    return None
