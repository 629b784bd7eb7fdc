"""What the route shows of an outline's points: numbers to type, things to do at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Action, Option, Switch
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.tracing.missing import drawing_of, miss_of
from dimetron.counting import counted
from dimetron.document.model import Document, with_item
from dimetron.document.naming import without
from dimetron.document.outline import (
    Outline,
    Tie,
    halving_axes,
    side_of,
    to_mm,
    to_px,
    whole_paths,
    with_outline,
)
from dimetron.document.tying import ties_for, with_tie
from dimetron.geometry.graduation import graduation
from dimetron.geometry.views import AnyView, View
from dimetron.outlines import edit, halves
from dimetron.outlines.chained import nearest_joined
from dimetron.outlines.crossed import cut_at_axis
from dimetron.outlines.onink import laid_on
from dimetron.outlines.path import OutlineError, Path, mapped, turned_round

if TYPE_CHECKING:
    from dimetron.app.tools.tracing.points import EditPoints

#: Right and up of the arrow keys.
STEPS = {"left": (-1.0, 0.0), "right": (1.0, 0.0), "up": (0.0, 1.0), "down": (0.0, -1.0)}
_WHOLE = ""


def nudge_mm(bench: Bench, view: AnyView) -> float:
    """How far an arrow key moves: a fine step of the grid."""
    scale = bench.scale_of(view)
    return 1.0 if scale is None else graduation(scale, bench.document.unit).fine


def without_item(doc: Document, item: Outline) -> Document:
    return without(doc, (item.id,))


def options(tool: EditPoints) -> Sequence[Option]:
    item = tool.outline()
    if item is None:
        return ()

    def choose(axis: str) -> None:
        doc = tool.bench.committed
        if axis and item.path.closed:
            # Half of what is whole is drawn from now on.
            side = side_of(item.view, axis)
            assert side is not None
            half = cut_at_axis(item.path, side)
            doc = with_item(doc, item.id, path=half, half=axis)
        elif not axis and item.half:
            doc = _made_whole(doc, item)
        else:
            doc = with_item(doc, item.id, half=axis)
        tool.bench.commit(doc, f"Mirror {item.name}" if axis else f"Make {item.name} whole")
        tool.bench.refresh()

    axes = halving_axes(item.view)
    choices = ((_WHOLE, "none"), *((axis, axis.upper()) for axis in axes))
    mirror = Option("Mirror about", choices, item.half, choose)
    points = tool.selected()
    return (mirror, _tie(tool, item, points[0])) if len(points) == 1 else (mirror,)


def _tie(tool: EditPoints, item: Outline, point: int) -> Option:
    """What the selected point stays at."""
    known = {
        _tie_key(tie): (tie, words) for tie, words in ties_for(tool.bench.document, item, point)
    }
    now = next((tie for tie in item.ties if tie.point == point), None)
    if now is not None:
        known.setdefault(_tie_key(now), (now, "where it is tied"))

    def choose(value: str) -> None:
        tie = known[value][0] if value else None
        doc = with_tie(tool.bench.committed, item.id, point, tie)
        tool.bench.commit(doc, f"Tie a point of {item.name}" if tie else f"Free {item.name}")
        tool.bench.refresh()

    choices = (("", "nothing"), *((key, words) for key, (_, words) in known.items()))
    return Option("Tied to", choices, "" if now is None else _tie_key(now), choose, listed=True)


def _tie_key(tie: Tie) -> str:
    return f"{tie.to}:{tie.name}:{tie.number}"


def _made_whole(doc: Document, item: Outline) -> Document:
    side = side_of(item.view, item.half)
    paths = (item.path,) if side is None else halves.whole(item.path, side)
    doc = with_item(doc, item.id, path=paths[0], half="")
    for other in paths[1:]:
        doc, _ = with_outline(doc, other, item.view, item.name, depth=item.depth)
    return doc


def switches(tool: EditPoints) -> Sequence[Switch]:
    item = tool.outline()
    if item is None:
        return ()

    def turn(on: bool) -> None:
        tool.change(edit.closed(item.path, on), f"{'Close' if on else 'Open'} {item.name}")

    found = [Switch("Closed", item.path.closed, turn, "Its end is its beginning")]
    if item.path.closed:

        def pierce(on: bool) -> None:
            doc = with_item(tool.bench.committed, item.id, opening=on)
            words = f"Make {item.name} an opening" if on else f"Make {item.name} no opening"
            tool.bench.commit(doc, words)
            tool.bench.refresh()

        hint = "Within it the object is seen through: what is blocked out has a hole there"
        found.append(Switch("Opening", item.opening, pierce, hint))
    return found


def actions(tool: EditPoints) -> Sequence[Action]:
    item, points = tool.outline(), tool.selected()
    if item is None:
        return _joining(tool)
    path, name = item.path, item.name

    def change(make: Callable[[], Path], label: str) -> Callable[[], None]:
        return lambda: tool.change(make(), label)

    return (
        Action("smooth", "Smooth", change(lambda: edit.made_smooth(path, points),
               f"Smooth points of {name}"), "Points without a turn", bool(points)),
        Action("corner", "Corner", change(lambda: edit.made_corner(path, points, True),
               f"Make corners of {name}"), "Points without handles", bool(points)),
        Action("cut", "Cut here", lambda: _cut(tool, item, points[0]),
               "Open a closed outline here, or cut an open one in two", len(points) == 1),
        *_arranging(tool, item, points),
        Action("lay", "Lay on the ink", lambda: _lay(tool, item, points),
               "Bring it, or the selected pieces, onto the nearest drawn line"),
        Action("simplify", "Simplify", change(lambda: edit.simplified(path, tool.miss_mm),
               f"Simplify {name}"), f"As few points as stay within {tool.length(tool.miss_mm)}"),
        Action("even", "Make even", lambda: _even(tool, item),
               "The half on the positive side, and its mirror image", path.closed),
        Action("round", "Turn round", change(lambda: turned_round(path),
               f"Turn {name} round"), "It begins where it ended"),
        Action("opposite", "Other side", lambda: _to_opposite(tool, item),
               "A copy in the opposite view", isinstance(item.view, View)),
    )  # fmt: skip


def _arranging(tool: EditPoints, item: Outline, points: tuple[int, ...]) -> list[Action]:
    """What is done to several points at once."""
    if len(points) < 2:
        return []

    def arrange(make: Callable[[], Path], label: str) -> Callable[[], None]:
        return lambda: tool.change(make(), f"{label} points of {item.name}")

    level = arrange(lambda: edit.aligned(item.path, points, 1), "Level")
    plumb = arrange(lambda: edit.aligned(item.path, points, 0), "Plumb")
    found = [
        Action("level", "Level", level, "At one height of the paper: that of their middle"),
        Action("plumb", "Plumb", plumb, "One above the other"),
    ]
    if len(points) > 2:
        evenly = arrange(lambda: edit.spread(item.path, points), "Spread")
        found.append(Action("spread", "Spread", evenly, "Evenly between the first and the last"))
    return found


def _joining(tool: EditPoints) -> Sequence[Action]:
    """Of several chosen open outlines of one view: make one of them."""
    doc = tool.bench.document
    chosen = [doc.item(id_) for id_ in tool.bench.chosen]
    items = [i for i in chosen if isinstance(i, Outline) and not i.path.closed]
    if len(items) < 2 or len(items) < len(chosen) or len({i.view for i in items}) > 1:
        return ()

    def join() -> None:
        path = nearest_joined([item.path for item in items])
        doc = without(tool.bench.committed, [item.id for item in items[1:]])
        doc = with_item(doc, items[0].id, path=path)
        tool.bench.commit(doc, f"Join {items[0].name}")
        tool.bench.choose((items[0].id,))
        tool.bench.refresh()

    return (
        Action("join", "Join", join, "One after the other, where their ends are nearest", True),
    )


def _cut(tool: EditPoints, item: Outline, point: int) -> None:
    first, *others = edit.split(item.path, point)
    doc = with_item(tool.bench.committed, item.id, path=first)
    for other in others:
        doc, _ = with_outline(
            doc, other, item.view, item.name, depth=item.depth, half=item.half,
            drawing=item.drawing,
        )  # fmt: skip
    tool.bench.commit(doc, f"Cut {item.name}")
    tool.bench.refresh()


def _lay(tool: EditPoints, item: Outline, points: tuple[int, ...]) -> None:
    drawing = drawing_of(tool.bench.document, item)
    pyramid = None if drawing is None else tool.bench.pyramid(drawing)
    if drawing is None or pyramid is None:
        raise OutlineError("There is no drawing in this view to lay the outline on.")
    only = None
    if points:
        n = len(item.path)
        both = np.isin(np.arange(n), points)
        only = (both & np.roll(both, -1))[: item.path.piece_count]
        if not only.any():
            only = (both | np.roll(both, -1))[: item.path.piece_count]
    miss = tool.miss_mm / drawing.placement.mm_per_px
    path = laid_on(pyramid, to_px(drawing, item.path), miss, only=only)
    doc = with_item(tool.bench.committed, item.id, path=to_mm(drawing, path), drawing=drawing.id)
    tool.points = ()
    tool.bench.commit(doc, f"Lay {item.name} on the ink")
    tool.bench.refresh()


def _even(tool: EditPoints, item: Outline) -> None:
    axes = halving_axes(item.view)
    axis = item.half or ("x" if "x" in axes else axes[0])
    side = side_of(item.view, axis)
    assert side is not None
    tool.change(halves.evened(item.path, side), f"Make {item.name} even")


def _to_opposite(tool: EditPoints, item: Outline) -> None:
    assert isinstance(item.view, View)
    other = item.view.opposite
    flip = np.array([
        [float(a @ b) for b in item.view.directions[:2]] for a in other.directions[:2]
    ])  # fmt: skip
    path = mapped(item.path, flip)
    name = f"{item.name} {other.value}"
    doc, made = with_outline(
        tool.bench.committed, path, other, name, depth=-item.depth, half=item.half
    )
    tool.bench.commit(doc, f"Copy {item.name} to the {other.value} view")
    tool.bench.choose((made,))
    tool.bench.refresh()


def told(tool: EditPoints) -> str:
    item = tool.outline()
    if item is None:
        return ""
    words = counted(len(item.path), "point", "points")
    drawing = drawing_of(tool.bench.document, item)
    # While something is dragged it is not looked up.
    if drawing is not None and tool.bench.document is tool.bench.committed:
        found = [miss_of(tool.bench, drawing, path) for path in whole_paths(replace(item, half=""))]
        known = [miss for miss in found if miss is not None]
        if known:
            mean = tool.length(max(miss.mean for miss in known))
            words += f"; {mean} off the ink, largest {tool.length(max(m.most for m in known))}"
    return f"{words}."
