"""Numbers that follow from other drawings': ``=front.width/2`` typed into a field stays a formula.

A formula names a drawing by its name or its view, and one of its numbers: ``front.width`` of its
picture, ``front.ink.width`` of what is drawn on it. After each edit those whose sources changed are
worked out again; a number that was changed by hand drops its formula.

Where the ink lies is in the pixels, which are not the document's: who works formulas out says it,
by an ``InkOf``. While it is not known, what follows from it stays as it is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from dimetron.document import edits
from dimetron.document.aligning import EDGES, Box, edge_of, extent_on_paper, put_edge
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.names import plain_name
from dimetron.document.placing import pivots, scaled
from dimetron.geometry import placement as place
from dimetron.geometry.lengths import LengthError, Quantity, named_in, parse_length, parse_number
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import EXTENT_NAMES

#: What a drawing can be asked for beside its sizes and middles, which go by the axes it shows.
_EDGES = ("left", "right", "top", "bottom")
_ANGLES = ("turned",)
_RATIOS = ("scale",)
#: What stands before the name of a number that is the ink's and not the picture's.
_INK = "ink."

#: Gives a drawing's ink: left, top, right and bottom in its pixels; None if that is not known.
InkOf = Callable[[Document, Drawing], Box | None]


def no_ink(doc: Document, drawing: Drawing) -> Box | None:
    """For where nothing is known of pictures."""
    return None


class FormulaError(LengthError):
    """The formula names something that is not there, or goes round in a circle."""


class InkUnknown(FormulaError):
    """The formula names the ink of a drawing whose picture was not read yet, or holds none."""


def numbers_of(drawing: Drawing) -> tuple[str, ...]:
    """The names of a drawing's numbers."""
    return (*size_names(drawing), *middle_names(drawing), *_EDGES, *_ANGLES, *_RATIOS)


def size_names(drawing: Drawing) -> tuple[str, str]:
    """What its sizes across and up the paper are called."""
    return _named_sides(drawing, EXTENT_NAMES, ("size_across", "size_up"))


def middle_names(drawing: Drawing) -> tuple[str, str]:
    """What its middle across and up the paper is called."""
    return _named_sides(drawing, ("x", "y", "z"), ("across", "up"))


def _named_sides(
    drawing: Drawing, by_axis: tuple[str, ...], inclined: tuple[str, str]
) -> tuple[str, str]:
    a, b = drawing.view.paper_axes
    return (
        inclined[0] if a is None else by_axis[a],
        inclined[1] if b is None else by_axis[b],
    )


def value_of(doc: Document, drawing: Drawing, number: str, ink_of: InkOf = no_ink) -> float:
    """One of a drawing's numbers: mm, degrees, or mm per pixel. Raises FormulaError."""
    if number.startswith(_INK):
        return _of_ink(doc, drawing, number.removeprefix(_INK), ink_of)
    if number not in numbers_of(drawing):
        known = ", ".join(numbers_of(drawing))
        raise FormulaError(f"{drawing.name} has no {number}; it has {known}.")
    p = drawing.placement
    if number == "scale":
        return p.mm_per_px
    if number == "turned":
        return p.rotation_deg
    if number in (*_EDGES, "across", "up"):
        return edge_of(doc, drawing, number)
    if number in size_names(drawing):
        return p.size_mm(doc.size_px(drawing))[size_names(drawing).index(number)]
    side = middle_names(drawing).index(number)
    return float(p.centre(doc.size_px(drawing))[side]) * drawing.view.paper_signs[side]


def _of_ink(doc: Document, drawing: Drawing, number: str, ink_of: InkOf) -> float:
    sizes, middles = size_names(drawing), middle_names(drawing)
    known = (*sizes, *middles, *_EDGES)
    if number not in (*known, "across", "up"):
        raise FormulaError(f"The ink of {drawing.name} has no {number}; it has {', '.join(known)}.")
    box = ink_of(doc, drawing)
    if box is None:
        raise InkUnknown(f"No ink is known of {drawing.name}: it is empty or still being read.")
    ink = {drawing.id: box}
    if number in sizes:
        low, high = extent_on_paper(doc, drawing, ink)
        return float((high - low)[sizes.index(number)])
    if number in middles:
        side = middles.index(number)
        edge = ("across", "up")[side]
        return edge_of(doc, drawing, edge, ink) * drawing.view.paper_signs[side]
    return edge_of(doc, drawing, number, ink)


def with_value(doc: Document, id_: str, number: str, value: float) -> Document:
    """Give a drawing one of its numbers. Raises PlacementError if it has no meaning."""
    drawing = doc.drawing(id_)
    p = drawing.placement
    if number in (*_EDGES, "across", "up"):
        return put_edge(doc, id_, number, value)
    return edits.with_placement(doc, id_, _with_number(doc, drawing, p, number, value))


def _with_number(
    doc: Document, drawing: Drawing, p: Placement, number: str, value: float
) -> Placement:
    size_px = doc.size_px(drawing)
    if number == "scale":
        return place.with_scale(p, value, p.anchor_mm)
    if number == "turned":
        return place.turned(p, value, (size_px[0] / 2, size_px[1] / 2))
    if number in size_names(drawing):
        side = size_names(drawing).index(number)
        factor = value / p.size_mm(size_px)[side]
        factors = (factor, 1.0) if side == 0 else (1.0, factor)
        both = (factor, factor) if drawing.aspect_locked else factors
        return scaled(p, both, p.anchor_mm, aspect=False)
    side = middle_names(drawing).index(number)
    by = [0.0, 0.0]
    middle = pivots(doc, drawing)["centre"]
    by[side] = value * drawing.view.paper_signs[side] - float(middle[side])
    return place.moved(p, by)


def _named(doc: Document, name: str) -> Drawing:
    """A drawing by its name or its view. Raises FormulaError."""
    wanted = name.lower()
    drawings = doc.planes
    by_name = [d for d in drawings if _plain(d.name) == wanted]
    by_view = [d for d in drawings if d.view.title.lower() == wanted]
    found = by_name or by_view
    if not found:
        known = ", ".join(dict.fromkeys(d.view.title.lower() for d in drawings)) or "none yet"
        raise FormulaError(f"There is no drawing “{name}”; there is {known}.")
    return found[0]


def _plain(name: str) -> str:
    """A name as it can be written in a formula."""
    return name.lower().replace(" ", "_")


def lookup(
    doc: Document, unless: tuple[str, str] | None = None, *, ink_of: InkOf = no_ink
) -> Callable[[str], Quantity]:
    """What ``drawing.number`` in a formula is worth; ``unless`` names the drawing and number it is
    typed into, which it must not follow from. Raises FormulaError."""

    def find(text: str) -> Quantity:
        name, number = _parted(text)
        drawing = _named(doc, name)
        value = value_of(doc, drawing, number, ink_of)
        if unless is not None and _follows(doc, drawing.id, number, *unless):
            raise FormulaError(
                f"This would go round in a circle: {text} follows from the number it is typed into."
            )
        return Quantity(value, None if number in (*_ANGLES, *_RATIOS) else 1)

    return find


def _parted(text: str) -> tuple[str, str]:
    """The drawing and the number that ``side.width`` or ``side.ink.width`` name."""
    name, _, number = text.partition(".")
    return name, number.lower()


def _follows(doc: Document, id_: str, number: str, from_id: str, from_number: str) -> bool:
    """Whether one drawing's number follows, over any formulas, from another's."""
    seen: set[tuple[str, str]] = set()
    ahead = [(id_, number)]
    while ahead:
        step = ahead.pop()
        if step[0] == from_id and _moves(doc.drawing(from_id), from_number, step[1]):
            return True
        if step not in seen:
            seen.add(step)
            ahead.extend(_sources(doc, *step))
    return False


def _sources(doc: Document, id_: str, number: str) -> Iterable[tuple[str, str]]:
    drawing = doc.drawing(id_)
    for own, text in drawing.formulas:
        if not _moves(drawing, own, number):
            continue
        for named in named_in(text):
            name, wanted = _parted(named)
            try:
                yield _named(doc, name).id, wanted
            except FormulaError:
                continue


def _moves(drawing: Drawing, given: str, read: str) -> bool:
    """Whether giving a drawing one number changes another one of it."""
    if given == read:
        return True
    ink = read.startswith(_INK)
    read = read.removeprefix(_INK)
    pair = size_names(drawing)
    sizes = (*pair, *_RATIOS)
    if given in sizes:
        apart = given in pair and read in pair and not drawing.aspect_locked
        return read not in _ANGLES and not apart
    if given in _ANGLES:
        return ink or read in _EDGES
    return read not in (*sizes, *_ANGLES) and _side(drawing, given) == _side(drawing, read)


def _side(drawing: Drawing, place_name: str) -> int:
    """The side of the paper (0 across, 1 up) that an edge or a middle counts along."""
    if place_name in EDGES:
        return EDGES[place_name][0]
    return middle_names(drawing).index(place_name)


def worked_out(doc: Document, number: str, text: str, find: Callable[[str], Quantity]) -> float:
    """The value of a formula for a number. Raises LengthError."""
    if number in (*_ANGLES, *_RATIOS):
        return parse_number(text, find)
    return parse_length(text, doc.unit, find)


def with_formula(
    doc: Document, id_: str, number: str, text: str, ink_of: InkOf = no_ink
) -> Document:
    """Type a formula into a drawing's number; one that names no other drawing is not kept.

    Raises LengthError or PlacementError, saying what is wrong."""
    text = plain_name(text)
    value = worked_out(doc, number, text, lookup(doc, (id_, number), ink_of=ink_of))
    kept = {k: t for k, t in doc.drawing(id_).formulas if k != number}
    if named_in(text):
        kept[number] = text
    after = with_value(doc, id_, number, value)
    return evaluated(with_item(after, id_, formulas=tuple(kept.items())), ink_of=ink_of)


def evaluated(doc: Document, before: Document | None = None, *, ink_of: InkOf = no_ink) -> Document:
    """Every formula worked out again. A drawing that was itself changed since ``before`` loses the
    formulas whose numbers no longer hold; one whose source is gone loses its too."""
    if not any(d.formulas for d in doc.drawings):
        return doc
    if before is not None:
        doc = _dropped_by_hand(doc, before)
    # Formulas are few and never circular: as many rounds as there are reach a rest.
    for _ in range(sum(len(d.formulas) for d in doc.drawings)):
        after = _round(doc, ink_of)
        if after is doc:
            break
        doc = after
    return doc


def _dropped_by_hand(doc: Document, before: Document) -> Document:
    known = {d.id: d for d in before.drawings}
    for drawing in doc.drawings:
        old = known.get(drawing.id)
        if old is None or not drawing.formulas or old.formulas != drawing.formulas:
            continue
        if drawing.placement is old.placement:
            continue
        kept = tuple(
            (n, t)
            for n, t in drawing.formulas
            if abs(value_of(doc, drawing, n) - value_of(before, old, n)) < 1e-9
        )
        doc = with_item(doc, drawing.id, formulas=kept)
    return doc


def _round(doc: Document, ink_of: InkOf) -> Document:
    find = lookup(doc, ink_of=ink_of)
    for drawing in doc.drawings:
        for number, text in drawing.formulas:
            try:
                value = worked_out(doc, number, text, find)
                if abs(value - value_of(doc, drawing, number)) > 1e-9 * max(1.0, abs(value)):
                    return with_value(doc, drawing.id, number, value)
            except InkUnknown:
                continue
            except (LengthError, PlacementError):
                kept = tuple(f for f in drawing.formulas if f[0] != number)
                return with_item(doc, drawing.id, formulas=kept)
    return doc
