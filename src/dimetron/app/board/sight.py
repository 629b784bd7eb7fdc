"""What the panes look at, as a value. The flat panes are tied: one focus, one scale for all; along
an axis whose tie is off, each pane goes its own way."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from dimetron.app.board.layout import Rect
from dimetron.app.tools.slots import ELEVATION, PLAN, SIDE, SPACE
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera, clamped_zoom, within_reach
from dimetron.geometry.views import AnyView, Auxiliary, Triple, View
from dimetron.mesh.arrays import Floats
from dimetron.render.scene import (
    USUAL_LOOK,
    MeshLook,
    Section,
    Shading,
    fitted_orbit,
    span_on,
)

_FIRST_SHADING = {
    PLAN: Shading.SEE_THROUGH,
    ELEVATION: Shading.SEE_THROUGH,
    SIDE: Shading.SEE_THROUGH,
    SPACE: Shading.LINED,
}
_FIRST_VIEWS: dict[str, AnyView | None] = {
    PLAN: View.TOP,
    ELEVATION: View.FRONT,
    SIDE: View.RIGHT,
    SPACE: None,
}
_ALL_TIED = (True, True, True)
_NOWHERE = (0.0, 0.0, 0.0)


@dataclass(frozen=True, slots=True)
class Sight:
    """views: by slot, None for 3D. opacities: how strong drawings are in a pane. gridless: panes
    without a grid. tied: for each world axis; strays: how far an untied pane is off the focus;
    scales: of panes while the scale is not tied. lent: what panes showed before an auxiliary view.
    drawings, others, outlines: whether drawings, whatever is not a drawing, and outlines are shown
    at all."""

    focus: Triple = (0.0, 0.0, 100.0)
    mm_per_px: float = 1.0
    orbit: OrbitCamera = field(default_factory=OrbitCamera)
    views: dict[str, AnyView | None] = field(default_factory=lambda: dict(_FIRST_VIEWS))
    shading: dict[str, Shading] = field(default_factory=lambda: dict(_FIRST_SHADING))
    opacities: dict[str, float] = field(default_factory=dict)
    gridless: frozenset[str] = frozenset()
    tied: tuple[bool, bool, bool] = _ALL_TIED
    scale_tied: bool = True
    strays: dict[str, Triple] = field(default_factory=dict)
    scales: dict[str, float] = field(default_factory=dict)
    lent: dict[str, AnyView | None] = field(default_factory=dict)
    drawings: bool = True
    others: bool = True
    outlines: bool = True
    section: Section | None = None
    mesh_look: MeshLook = USUAL_LOOK

    def camera(self, slot: str, rect: Rect, home: Rect | None = None) -> Camera:
        """home: the part of the board whose middle shows the focus, if not the pane's own."""
        size = (max(1.0, rect.w), max(1.0, rect.h))
        view = self.views[slot]
        if view is None:
            return replace(self.orbit, size=size)
        scale = self.scale(slot)
        at = self._focus_of(slot)
        frame = view.directions
        if home is not None:
            right = rect.x + rect.w / 2 - home.x - home.w / 2
            down = rect.y + rect.h / 2 - home.y - home.h / 2
            at = at + (right * frame.right - down * frame.up) * scale
        # What a pane does not show does not move it, so panning its neighbour leaves it alone.
        at = at - frame.forward * float(at @ frame.forward)
        return OrthoCamera(view, within_reach(at), scale, size)

    def scale(self, slot: str) -> float:
        return self.scales.get(slot, self.mm_per_px)

    def scale_of(self, view: AnyView, slots: Iterable[str]) -> float | None:
        """mm per pixel of the first of some panes that shows a view; None if none does."""
        shown = (slot for slot in slots if self.views[slot] == view)
        slot = next(shown, None)
        return None if slot is None else self.scale(slot)

    def _focus_of(self, slot: str) -> Floats:
        return np.array(self.focus) + self.strays.get(slot, _NOWHERE)

    def moved(self, slot: str, by: Floats) -> Sight:
        """Move a pane's focus by world mm (3,); the others follow along the axes that are tied."""
        tied = np.array(self.tied)
        focus = within_reach(np.array(self.focus) + np.where(tied, by, 0.0))
        own = np.array(self.strays.get(slot, _NOWHERE)) + np.where(tied, 0.0, by)
        strays = {**self.strays, slot: within_reach(own)} if own.any() else self.strays
        return replace(self, focus=focus, strays=strays)

    def panned(self, slot: str, camera: OrthoCamera, by_px: tuple[float, float]) -> Sight:
        """Pan by a drag in a flat pane; the others follow along the axes they share."""
        frame = camera.view.directions
        by = (-by_px[0] * frame.right + by_px[1] * frame.up) * camera.mm_per_px
        return self.moved(slot, by)

    def zoomed(
        self, slot: str, camera: OrthoCamera, factor: float, at_px: tuple[float, float]
    ) -> Sight:
        """Zoom the flat panes that are tied; what is under the pointer stays there."""
        scale = clamped_zoom(camera.mm_per_px / factor)
        forward = camera.view.directions.forward
        away = camera.point_at(at_px) - self._focus_of(slot)
        away -= forward * float(away @ forward)
        sight = self.moved(slot, away * (1 - scale / camera.mm_per_px))
        if self.scale_tied:
            return replace(sight, mm_per_px=scale)
        return replace(sight, scales={**self.scales, slot: scale})

    def with_tie(self, axis: int, on: bool) -> Sight:
        """Tie the panes along an axis again, which brings them together, or let them go."""
        tied = tuple(on if a == axis else t for a, t in enumerate(self.tied))
        strays = self.strays
        if on:
            keep = np.arange(3) != axis
            moved = {slot: np.where(keep, own, 0.0) for slot, own in strays.items()}
            strays = {slot: within_reach(own) for slot, own in moved.items() if own.any()}
        return replace(self, tied=(tied[0], tied[1], tied[2]), strays=strays)

    def with_scale_tie(self, on: bool) -> Sight:
        return replace(self, scale_tied=on, scales={} if on else self.scales)

    def with_shading(self, slot: str, shading: Shading) -> Sight:
        return replace(self, shading={**self.shading, slot: shading})

    def with_view(self, slot: str, view: AnyView | None) -> Sight:
        """Let a pane show another view; for an auxiliary one it is only lent."""
        lent = dict(self.lent)
        if not isinstance(view, Auxiliary):
            lent.pop(slot, None)
        elif not isinstance(self.views[slot], Auxiliary):
            lent[slot] = self.views[slot]
        return replace(self, views={**self.views, slot: view}, lent=lent)

    def before(self, slot: str) -> AnyView | None:
        """What a pane that shows an auxiliary view showed before, as far as that is known."""
        return self.lent.get(slot, _FIRST_VIEWS[slot])

    def given_back(self, slot: str) -> Sight:
        """A pane that was lent to an auxiliary view shows again what it did before."""
        if not isinstance(self.views[slot], Auxiliary):
            return self
        return self.with_view(slot, self.before(slot))

    def with_opacity(self, slot: str, opacity: float) -> Sight:
        return replace(self, opacities={**self.opacities, slot: min(1.0, max(0.0, opacity))})

    def with_grid(self, slot: str, on: bool) -> Sight:
        return replace(self, gridless=self.gridless - {slot} if on else self.gridless | {slot})

    def fitted(
        self,
        flat: Floats | None,
        space: Floats | None,
        rects: Mapping[str, Rect],
        homes: Mapping[str, Rect] | None = None,
        margin: float = 0.1,
    ) -> Sight:
        """All panes at once so that the world boxes (2, 3) fit into each of them."""
        if flat is None:
            flat = np.array([[-200.0, -200.0, 0.0], [200.0, 200.0, 300.0]])
        scale = 1e-5
        sight = replace(self, focus=within_reach(flat.mean(axis=0)), strays={}, scales={})
        for slot, rect in rects.items():
            view = self.views[slot]
            if view is not None:
                home = (homes or rects)[slot]
                size = np.array([min(rect.w, home.w), min(rect.h, home.h)])
                room = np.maximum(size * (1 - 2 * margin), 1)
                scale = max(scale, float((span_on(flat, view) / room).max()))
            else:
                orbit = replace(sight.orbit, size=(max(1.0, rect.w), max(1.0, rect.h)))
                sight = replace(sight, orbit=fitted_orbit(space, orbit, margin))
        return replace(sight, mm_per_px=clamped_zoom(scale))
