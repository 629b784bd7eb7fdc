"""A whole registration proposed from ink alone, with how sure it is."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from dimetron.geometry.views import EXTENT_NAMES, AnyView, View
from dimetron.imaging.shape import Shape
from dimetron.registration.byink.coherence import unlike
from dimetron.registration.byink.search import Alike, Floats, Found, search
from dimetron.registration.byink.signature import Signature
from dimetron.registration.byink.ways import (
    WAYS,
    Reading,
    Way,
    against,
    lying,
    pose_of_reading,
    read_as,
)
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Picture, RegistrationError

#: From here on a proposal is called sure.
SURE = 0.9
#: Unless sides that should be as long as one another miss by more than this share of the largest
#: extent: then one of the drawings shows more or less than the object.
_CLOSES = 0.0013
#: Other readings are told of when they are at least this likely beside the best one.
_ALSO, _ALSO_MOST = 0.1, 3
#: A drawing is even if it and its mirror image differ by less: then either way is right.
_EVEN, _SAME_OUTLINE = 0.3, 0.06
#: The centreline of a drawing so even is the object's.
_CENTRED = 0.8
#: Larger turns beside whole quarters are not taken over.
_SMALL_TURN_DEG = 5.0
#: Extents that differ by more than this share are told of.
_DIFFERENT = 0.004
#: Scales within a body that differ by less, as a logarithm, are the same.
_ONE_SCALE = 0.01


@dataclass(frozen=True, slots=True)
class Given:
    """What is known beforehand. known_mm: extents of the object by axis. The object comes to stand
    on the ground about the origin, unless its middle is given, or it is to stay in_place: about
    where the drawings put it now."""

    known_mm: Mapping[int, float] = field(default_factory=dict)
    in_place: bool = False
    middle_mm: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True)
class Proposal:
    """readings and poses by picture id; confidence 0 to 1 that every reading is right; size_mm (3,)
    of the object, None along an axis that is not shown; said: what lies otherwise than it is
    called, what else could be, what does not agree, each in words. rms_mm, rms_px: by how much the
    ends of the ink miss. others: what else could be, likeliest first."""

    readings: Mapping[str, Reading]
    poses: Mapping[str, Pose]
    confidence: float
    size_mm: tuple[float | None, float | None, float | None]
    said: tuple[str, ...]
    rms_mm: float
    rms_px: float
    others: tuple[Proposal, ...] = ()

    @property
    def sure(self) -> bool:
        """Whether it can be taken without a look."""
        return not self.doubt

    @property
    def doubt(self) -> str:
        """Why it should be looked at, in words; empty if it is sure."""
        if self.confidence < SURE:
            return f"only {self.confidence:.0%} likely"
        largest = max((mm for mm in self.size_mm if mm is not None), default=0.0)
        if self.rms_mm > _CLOSES * largest:
            return "drawings differ in sides that they share"
        return ""


def proposed(
    pictures: Sequence[Picture],
    shapes: Mapping[str, Shape],
    given: Given | None = None,
) -> Proposal:
    """Propose how drawings of principal views lie; those without a shape are left out. Raises
    RegistrationError with fewer than two drawings."""
    used = [p for p in pictures if p.id in shapes and isinstance(p.view, View)]
    if len(used) < 2:
        raise RegistrationError("The ink of two drawings is needed, of two different views.")
    drawn = [shapes[p.id] for p in used]
    signatures = [Signature(shape) for shape in drawn]
    now = [lying(p.view, p.present) for p in used if isinstance(p.view, View)]
    found = [_one_scale(f, used) for f in search(signatures, now, _alike(used))]
    best, confidence, others = _weighed(found, signatures)
    given = given or Given()
    also = tuple(_laid_out(f, share, used, signatures, given) for f, share in others[:_ALSO_MOST])
    first = _laid_out(best, confidence, used, signatures, given)
    named = [_otherwise(used, other.readings) for other in also]
    words = ["or else " + (" and ".join(w) if w else AS_NOW) for w in named]
    said = (*_otherwise(used, first.readings), *words, *first.said)
    return replace(first, said=said, others=also)


def _bodies(used: Sequence[Picture]) -> list[list[int]]:
    """Numbers of the drawings that are one body with others."""
    known: dict[str, list[int]] = {}
    for number, picture in enumerate(used):
        if picture.body:
            known.setdefault(picture.body, []).append(number)
    return [members for members in known.values() if len(members) > 1]


def _alike(used: Sequence[Picture]) -> list[Alike]:
    """Drawings of one body are as large to one another as they lie."""
    return [
        Alike(one, other, math.log(used[one].present.mm_per_px / used[other].present.mm_per_px))
        for members in _bodies(used)
        for one, other in pairwise(members)
    ]


def _one_scale(found: Found, used: Sequence[Picture]) -> Found:
    """The same with one scale for each body, unless its ink says clearly that it has several."""
    scales = np.array(found.scales)
    for members in _bodies(used):
        now = np.array([math.log(used[m].present.mm_per_px) for m in members])
        off = scales[members] - now
        if np.ptp(off) < _ONE_SCALE:
            scales[members] = now + off.mean()
    return replace(found, scales=tuple(float(s) for s in scales))


def _laid_out(
    found: Found,
    confidence: float,
    used: Sequence[Picture],
    signatures: Sequence[Signature],
    given: Given,
) -> Proposal:
    """One way in which all drawings can lie, with their poses and what does not fit."""
    ways = [WAYS[w] for w in found.ways]
    readings = {
        p.id: read_as(way, p.view)
        for p, way in zip(used, ways, strict=True)
        if isinstance(p.view, View)
    }
    size = _size(found, used, given.known_mm)
    poses = _poses(found, ways, used, [s.shape for s in signatures], readings, size, given)
    shown = {axis for way in ways for axis in way.axes}
    mm = [float(size * math.exp(found.extents[a])) if a in shown else None for a in range(3)]
    three = mm[0], mm[1], mm[2]
    different = tuple(_different(used, ways, found, signatures))
    rms = _misses(found, ways, signatures, size)
    return Proposal(readings, poses, confidence, three, different, *rms)


def _weighed(
    found: list[Found], signatures: Sequence[Signature]
) -> tuple[Found, float, list[tuple[Found, float]]]:
    """The best, how likely it is among all, and others that are nearly as likely. Ways that differ
    only in how an even drawing is turned over are one."""
    best = found[0]
    weights = np.exp(np.array([f.score for f in found]) - best.score)
    shares = weights / weights.sum()
    same = [all(map(_same, f.ways, best.ways, signatures)) for f in found]
    others: list[tuple[Found, float]] = []
    for f, weight, share, alike in zip(found, weights, shares, same, strict=True):
        known = any(all(map(_same, f.ways, o.ways, signatures)) for o, _ in others)
        if not alike and weight >= _ALSO and not known:
            others.append((f, float(share)))
    return best, float(shares[same].sum()), others


def _same(a: int, b: int, signature: Signature) -> bool:
    """Whether two ways put the same ink at the same places."""
    one, other = WAYS[a], WAYS[b]
    return one.axes == other.axes and all(
        one.signs[side] == other.signs[side] or is_even(signature, side) for side in (0, 1)
    )


def is_even(signature: Signature, side: int) -> bool:
    """Whether a drawing shows nothing of which way round it lies along a side."""
    outline = signature.outline
    flipped = outline[:, ::-1] if side == 0 else outline[::-1]
    return signature.uneven(side) <= _EVEN and unlike(outline, flipped) <= _SAME_OUTLINE


def _size(best: Found, used: Sequence[Picture], known_mm: Mapping[int, float]) -> float:
    """mm of one of the search's units: by known extents, by pinned drawings, or by how large the
    drawings are now."""
    told = [math.log(mm) - best.extents[axis] for axis, mm in known_mm.items()]
    now = np.array([math.log(p.present.mm_per_px) for p in used]) - best.scales
    pinned = [value for value, p in zip(now, used, strict=True) if p.pinned]
    return float(np.exp(np.mean(told or pinned or [np.median(now)])))


def _misses(
    best: Found, ways: Sequence[Way], signatures: Sequence[Signature], size: float
) -> tuple[float, float]:
    """By how much the ends of the ink miss in mm and in pixels: half of what a side is too long."""
    sides = np.array([s.sides_px for s in signatures])
    scales = size * np.exp(np.array(best.scales))[:, None]
    extents = size * np.exp(np.array([[best.extents[a] for a in way.axes] for way in ways]))
    off = (sides * scales - extents) / 2
    return float(np.sqrt(np.mean(off**2))), float(np.sqrt(np.mean((off / scales) ** 2)))


def _poses(
    best: Found,
    ways: Sequence[Way],
    used: Sequence[Picture],
    shapes: Sequence[Shape],
    readings: Mapping[str, Reading],
    size: float,
    given: Given,
) -> dict[str, Pose]:
    """Middles of the ink lie together along every axis; the ground is under it, and the origin in
    its middle or on the centreline of the drawing that is most even along X."""
    scales = size * np.exp(best.scales)
    extents = size * np.exp(best.extents)
    middle = np.array([0.0, 0.0, extents[2] / 2])
    middle[0] = -_centreline(ways, shapes, scales)
    now = [_middle_now(p.present, p.view, shape) for p, shape in zip(used, shapes, strict=True)]
    if given.in_place:
        middle = np.nanmedian([middle, *now] if np.isnan(now).all(axis=0).any() else now, axis=0)
    if given.middle_mm is not None:
        middle = np.array(given.middle_mm)
    for picture, at in zip(used, now, strict=True):
        if picture.pinned:
            middle = np.where(np.isnan(at), middle, at)
    poses = {}
    for picture, way, shape, scale in zip(used, ways, shapes, scales, strict=True):
        left, top, right, bottom = shape.box
        across = (left + right) / 2 - way.signs[0] * middle[way.axes[0]] / scale
        down = (top + bottom) / 2 + way.signs[1] * middle[way.axes[1]] / scale
        x, y = shape.to_picture((across, down))
        origin = float(x), float(y)
        reading = readings[picture.id]
        turn = shape.turn_deg if shape.told else _turn_now(picture.present)
        poses[picture.id] = pose_of_reading(reading, turn, float(scale), origin)
    return {p.id: p.present if p.pinned else poses[p.id] for p in used}


def _turn_now(present: Pose) -> float:
    """By how many degrees a drawing lies askew now, beside whole quarters; nothing if that is no
    small correction."""
    off = (present.rotation_deg + 45.0) % 90.0 - 45.0
    return off if abs(off) <= _SMALL_TURN_DEG else 0.0


def _centreline(ways: Sequence[Way], shapes: Sequence[Shape], scales: Floats) -> float:
    """How far along X the centreline lies from the ink's middle, in mm."""
    best, off = _CENTRED, 0.0
    for way, shape, scale in zip(ways, shapes, scales, strict=True):
        if 0 not in way.axes:
            continue
        side = way.axes.index(0)
        if shape.even[side] > best:
            best = shape.even[side]
            low, high = shape.box[side], shape.box[side + 2]
            away = shape.centre[side] - (low + high) / 2
            off = way.signs[side] * (away if side == 0 else -away) * float(scale)
    return off


def _middle_now(present: Pose, view: AnyView, shape: Shape) -> Floats:
    """(3,) where the middle of the ink lies as the drawing is placed; NaN along what it does not
    show."""
    left, top, right, bottom = shape.box
    at = present.to_plane(shape.to_picture(((left + right) / 2, (top + bottom) / 2)))
    shown = np.abs(np.stack([view.directions.right, view.directions.up])).max(axis=0) > 0.5
    return np.where(shown, view.to_world(at), np.nan)


def _otherwise(used: Sequence[Picture], readings: Mapping[str, Reading]) -> list[str]:
    """What lies otherwise than it is called and placed, in words."""
    said = []
    for picture in used:
        words = in_words(readings[picture.id], picture)
        if words:
            said.append(f"{picture.name} {words}")
    return said


#: Said where nothing lies otherwise.
AS_NOW = "each lies the way it is placed"
_TURNS = ("", "is turned a quarter left", "stands on its head", "is turned a quarter right")


def in_words(reading: Reading, picture: Picture) -> str:
    """How a drawing lies, to follow its name; empty if as it is called and placed."""
    assert isinstance(picture.view, View)
    mirrored, quarters = against(reading, lying(picture.view, picture.present))
    parts = []
    if reading.view is not picture.view:
        parts.append(f"looks like a {reading.view.value} view")
    if mirrored:
        parts.append("is mirrored" if reading.mirrored else "should not be mirrored")
    if quarters:
        parts.append(_TURNS[quarters])
    return " and ".join(parts)


def reading_words(pictures: Sequence[Picture], proposal: Proposal) -> str:
    """What is peculiar to a proposal among others: what lies otherwise than now."""
    used = [p for p in pictures if p.id in proposal.readings]
    return ", ".join(_otherwise(used, proposal.readings)) or AS_NOW


def _different(
    used: Sequence[Picture], ways: Sequence[Way], best: Found, signatures: Sequence[Signature]
) -> list[str]:
    """Drawings whose ink reaches farther or less far than the others say."""
    if len(used) == 3:
        return _not_closing(used, ways, best, signatures)
    said = []
    for picture, way, scale, signature in zip(used, ways, best.scales, signatures, strict=True):
        for side, axis in enumerate(way.axes):
            off = math.log(signature.sides_px[side]) + scale - best.extents[axis]
            if abs(off) > _DIFFERENT:
                more = "larger" if off > 0 else "smaller"
                said.append(
                    f"the {EXTENT_NAMES[axis]} of {picture.name} is {abs(math.expm1(off)):.1%} "
                    f"{more} than the others say"
                )
    return said


def _not_closing(
    used: Sequence[Picture], ways: Sequence[Way], best: Found, signatures: Sequence[Signature]
) -> list[str]:
    """Three drawings of three planes say one thing twice: whether it is the same. Which of them is
    wrong cannot be told; the one from above or below is taken for an example."""
    example = next((i for i, way in enumerate(ways) if way.depth_axis == 2), 2)
    if len({way.depth_axis for way in ways}) < 3:
        return []
    sides = np.log([s.sides_px for s in signatures]) + np.array(best.scales)[:, None]
    extents = np.array([[best.extents[a] for a in way.axes] for way in ways])
    off = sides - extents
    # All misses are shares of one: what one side alone would have to be off by.
    whole = float(np.abs(off).sum())
    if whole < _DIFFERENT:
        return []
    side = int(np.argmax(off[example]))
    axis = ways[example].axes[side]
    return [
        f"{_listed([p.name for p in used])} do not fit together by {whole:.1%}: one of them is "
        f"stretched, as if {used[example].name} had {whole:.1%} too much {EXTENT_NAMES[axis]}"
    ]


def _listed(names: Sequence[str]) -> str:
    return f"{', '.join(names[:-1])} and {names[-1]}"
