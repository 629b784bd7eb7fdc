"""Plates: views of a prop laid out anyhow, turned or of several scales, in whatever is drawn with
lines, flat fills or shade. Where everything lies is known.

Unlike a sheet (``sheet``) a plate has no paper size: all of it is in pixels, y down.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, replace

import cv2
import numpy as np
from PIL import Image, ImageDraw

from dimetron.demo.lines import visible_lines
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.render.lettering import font

Colour = tuple[int, int, int]
#: Drawn so many times as large and reduced.
_SUPERSAMPLE = 2
#: Where the light comes from: right, up, toward the eye.
_LIGHT = np.array([-0.45, 0.55, 0.70])
_AMBIENT = 0.25


@dataclass(frozen=True, slots=True)
class Hand:
    """What a plate is drawn with. line_px: 0 for no lines. fills: colours from shade to light, none
    for line drawings; smooth: whether they go over into each other."""

    ground: Colour
    ink: Colour
    line_px: float = 2.0
    fills: tuple[Colour, ...] = ()
    smooth: bool = False


@dataclass(frozen=True, slots=True)
class Piece:
    """One view on a plate: its middle, how many pixels show a millimetre, and by how many quarters
    it is turned counter-clockwise; mirrored left to right before that."""

    view: View
    at: tuple[float, float]
    px_per_mm: float
    turns: int = 0
    mirrored: bool = False
    caption: str = ""


@dataclass(frozen=True, slots=True)
class Plate:
    """fall: by how much the ground is darker at its far corner. grid_px: a faint grid's spacing;
    credit: a small line at the foot; watermark: large faint letters across all."""

    size_px: tuple[int, int]
    hand: Hand
    pieces: tuple[Piece, ...]
    fall: float = 0.0
    grid_px: int = 0
    credit: str = ""
    watermark: str = ""
    swatches: bool = False
    noise: float = 1.0
    seed: int = 1


@dataclass(frozen=True, slots=True, eq=False)
class DrawnPlate:
    """The picture, and of each piece the tight box round its own ink, (4, 2) pixels from its own
    top-left clockwise, in the order of the plan's pieces."""

    picture: Image.Image
    corners: tuple[Floats, ...]


def drawn_plate(plan: Plate, solid: Mesh) -> DrawnPlate:
    """Draw a plate of ``solid``, a closed triangle mesh."""
    w, h = plan.size_px
    s = _SUPERSAMPLE
    pixels = np.empty((h * s, w * s, 3), np.uint8)
    pixels[:] = plan.hand.ground
    corners = tuple(_draw(pixels, plan.hand, piece, solid) for piece in plan.pieces)
    picture = Image.fromarray(pixels).reduce(s)
    _furnished(picture, plan, corners)
    return DrawnPlate(_photographed(picture, plan), corners)


def on_nothing(plan: Plate, solid: Mesh) -> tuple[Floats, Floats]:
    """(h, w) 0..1 how far what a plate shows covers each pixel, and (h, w, 3) its colours on
    black; from the difference between a white ground and a black one."""
    white, black = (
        np.asarray(
            drawn_plate(
                replace(plan, noise=0.0, hand=replace(plan.hand, ground=(g, g, g))), solid
            ).picture,
            np.float64,
        )
        for g in (255, 0)
    )
    return 1 - np.clip((white - black).mean(axis=2) / 255, 0, 1), black


def plate_file(picture: Image.Image, quality: int) -> bytes:
    """A plate as people save them."""
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality)
    return out.getvalue()


def _laid(piece: Piece, plane: Floats, middle: Floats) -> Floats:
    """Points of the view's plane, mm, to pixels of the plate."""
    away = (plane - middle) * piece.px_per_mm * (-1 if piece.mirrored else 1, -1)
    for _ in range(piece.turns % 4):
        away = np.stack([away[:, 1], -away[:, 0]], axis=1)
    return np.asarray(away + piece.at)


def _draw(pixels: np.ndarray, hand: Hand, piece: Piece, solid: Mesh) -> Floats:
    plane = piece.view.to_plane(solid.positions)
    low, high = plane.min(axis=0), plane.max(axis=0)
    middle = (low + high) / 2
    if hand.fills:
        _filled(pixels, hand, piece, solid, middle)
    if hand.line_px:
        thick = max(1, round(hand.line_px * _SUPERSAMPLE))
        for run in visible_lines(solid, piece.view):
            at = _laid(piece, run, middle) * _SUPERSAMPLE
            cv2.polylines(pixels, [_fixed(at)], False, hand.ink, thick, cv2.LINE_AA, 4)
    half = hand.line_px / 2 / piece.px_per_mm * np.array([1, 1])
    x, y = low - half, high + half
    box = np.array([[x[0], y[1]], [y[0], y[1]], [y[0], x[1]], [x[0], x[1]]])
    if piece.mirrored:
        box = box[[1, 0, 3, 2]]
    return _laid(piece, box, middle)


def _fixed(at: Floats) -> Ints:
    """Fixed-point coordinates as OpenCV takes them, counted from the middle of the first pixel."""
    return np.asarray(np.round((at - 0.5) * 16), np.int32)


def _filled(pixels: np.ndarray, hand: Hand, piece: Piece, solid: Mesh, middle: Floats) -> None:
    """All faces that look at the eye, from the farthest on, each in its shade."""
    ways = piece.view.directions
    triangles = solid.triangles
    corners = solid.positions[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    depth = corners.mean(axis=1) @ ways.forward
    seen = np.flatnonzero(normals @ ways.forward < 0)
    order = seen[np.argsort(-depth[seen])]
    light = normals @ np.stack([ways.right, ways.up, -ways.forward]).T @ _LIGHT
    shade = _AMBIENT + (1 - _AMBIENT) * np.clip(light, 0, 1)
    tones = np.array(hand.fills, float)
    at = shade * (len(tones) - 1)
    if hand.smooth:
        below = np.minimum(at.astype(int), len(tones) - 2)
        share = (at - below)[:, None]
        colours = tones[below] * (1 - share) + tones[below + 1] * share
    else:
        colours = tones[np.round(at).astype(int)]
    px = _laid(piece, piece.view.to_plane(corners.reshape(-1, 3)), middle) * _SUPERSAMPLE
    fixed = _fixed(px).reshape(-1, 3, 2)
    for i in order:
        cv2.fillConvexPoly(pixels, fixed[i], colours[i].tolist(), cv2.LINE_8, 4)


def _furnished(picture: Image.Image, plan: Plate, corners: tuple[Floats, ...]) -> None:
    pen = ImageDraw.Draw(picture)
    w, h = picture.size
    ground = np.array(plan.hand.ground, float)
    faint = tuple(int(v) for v in ground * 0.9 + 0.1 * np.array(plan.hand.ink))
    if plan.grid_px:
        # Under what is drawn: only where the ground still shows.
        clear = np.all(np.asarray(picture) == np.array(plan.hand.ground, np.uint8), axis=2)
        lines = np.zeros((h, w), bool)
        lines[:: plan.grid_px], lines[:, :: plan.grid_px] = True, True
        pixels = np.array(picture)
        pixels[lines & clear] = faint
        picture.paste(Image.fromarray(pixels))
    letter = max(10, h // 60)
    for piece, box in zip(plan.pieces, corners, strict=True):
        if piece.caption:
            x, y = float(box[:, 0].mean()), float(box[:, 1].max()) + letter * 0.6
            words = font("Regular", letter)
            pen.text((x - words.getlength(piece.caption) / 2, y), piece.caption,
                     fill=plan.hand.ink, font=words)  # fmt: skip
    if plan.credit:
        small = max(9, h // 90)
        pen.text(
            (small, h - 2 * small), plan.credit, fill=plan.hand.ink, font=font("Regular", small)
        )
    if plan.swatches and plan.hand.fills:
        side = max(8, h // 40)
        for number, colour in enumerate(plan.hand.fills[:5]):
            x = w - (number + 2) * side * 1.4
            pen.rectangle((x, side, x + side, 2 * side), fill=colour, outline=plan.hand.ink)
    if plan.watermark:
        mark = Image.new("L", picture.size, 0)
        ImageDraw.Draw(mark).text(
            (w * 0.12, h * 0.42), plan.watermark, fill=255, font=font("Regular", h // 7)
        )
        mark = mark.rotate(18).point(lambda v: v * 12 // 255 * 2)
        picture.paste(Image.new("RGB", picture.size, plan.hand.ink), (0, 0), mark)


def _photographed(picture: Image.Image, plan: Plate) -> Image.Image:
    """Grain, and light that falls off towards one corner."""
    w, h = picture.size
    rng = np.random.default_rng(plan.seed)
    pixels = np.asarray(picture, np.float64)
    if plan.fall:
        across = np.linspace(0, 1, w)[None, :, None]
        down = np.linspace(0, 1, h)[:, None, None]
        pixels = pixels * (1 - plan.fall * (across + down) / 2)
    grain = rng.normal(0, plan.noise, (h, w, 1))
    return Image.fromarray(np.clip(pixels + grain, 0, 255).astype(np.uint8))
