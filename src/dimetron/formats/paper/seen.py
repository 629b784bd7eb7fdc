"""What a view shows, to be put on paper: pictures and lines in its plane, mm."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image

from dimetron.document.model import Document, Drawing
from dimetron.document.outline import outlines_of, whole_paths
from dimetron.document.pictures import picture_of
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.mesh.seen_lines import Together, seen_lines
from dimetron.outlines.path import sampled

_INK, _TRACED = "#22313B", "#1E7B6E"
#: How far a polygon may lie off a curve, and how wide lines are, mm on paper.
_MISS, _LINE, _THIN = 0.02, 0.3, 0.2


@dataclass(frozen=True, eq=False)
class Stroke:
    """points (n, 2); width: mm on paper."""

    points: Floats
    colour: str
    width: float


@dataclass(frozen=True, eq=False)
class Laid:
    """A picture (RGB), and where its top left, top right and bottom left corners lie (3, 2)."""

    picture: Image.Image
    corners: Floats


@dataclass(frozen=True, eq=False)
class SeenView:
    """What a view shows."""

    title: str
    pictures: tuple[Laid, ...]
    strokes: tuple[Stroke, ...]

    @property
    def box(self) -> Floats | None:
        """(2, 2) lowest and highest place; None if it shows nothing."""
        parts = [stroke.points for stroke in self.strokes]
        for one in self.pictures:
            a, b, d = one.corners
            parts.append(np.stack([a, b, d, b + d - a]))
        if not parts:
            return None
        every = np.concatenate(parts)
        return np.stack([every.min(axis=0), every.max(axis=0)])


def seen_view(
    doc: Document,
    view: AnyView,
    meshes: Together | None = None,
    drawings: bool = True,
    outlines: bool = True,
) -> SeenView:
    """The shown drawings and outlines of a view, and the visible lines of meshes. Raises
    PictureError."""
    lines = [] if meshes is None else seen_lines(meshes, view)
    strokes = [Stroke(view.to_plane(line), _INK, _LINE) for line in lines]
    if outlines:
        strokes += [
            Stroke(sampled(path, _MISS), _TRACED, _THIN)
            for item in outlines_of(doc)
            if doc.visible(item) and item.view == view
            for path in whole_paths(item)
        ]
    pictures = tuple(
        one
        for drawing in doc.planes
        if drawings and drawing.view == view and doc.visible(drawing)
        for one in (laid(doc, drawing),)
        if one is not None
    )
    return SeenView(view.title, pictures, tuple(strokes))


def laid(doc: Document, drawing: Drawing) -> Laid | None:
    """A drawing in its view's plane, mm, however it is turned; None if its picture is missing.
    Raises PictureError."""
    picture = picture_of(doc, drawing)
    if picture is None:
        return None
    w, h = picture.size
    corners = drawing.placement.to_plane(np.array([[0.0, 0.0], [w, 0.0], [0.0, h]]))
    return Laid(_on_white(picture), corners)


def _on_white(picture: Image.Image) -> Image.Image:
    """A picture as paper shows it: what is clear is white."""
    flat = Image.new("RGB", picture.size, "white")
    with_alpha = picture.convert("RGBA")
    flat.paste(with_alpha, mask=with_alpha.getchannel("A"))
    return flat
