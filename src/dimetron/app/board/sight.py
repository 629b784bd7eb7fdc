"""What the panes look at, as a value. The flat panes are tied: one focus, one scale for all."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from dimetron.app.board.layout import ELEVATION, FLAT_SLOTS, PLAN, SIDE, SPACE, Rect
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera, clamped_zoom
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Floats
from dimetron.render.scene import Shading, fitted_orbit

_FIRST_SHADING = {
    PLAN: Shading.SEE_THROUGH,
    ELEVATION: Shading.SEE_THROUGH,
    SIDE: Shading.SEE_THROUGH,
    SPACE: Shading.SOLID,
}
_FIRST_VIEWS = {PLAN: View.TOP, ELEVATION: View.FRONT, SIDE: View.RIGHT}


@dataclass(frozen=True, slots=True)
class Sight:
    focus: tuple[float, float, float] = (0.0, 0.0, 100.0)
    mm_per_px: float = 1.0
    orbit: OrbitCamera = field(default_factory=OrbitCamera)
    views: dict[str, View] = field(default_factory=lambda: dict(_FIRST_VIEWS))
    shading: dict[str, Shading] = field(default_factory=lambda: dict(_FIRST_SHADING))

    def camera(self, slot: str, rect: Rect) -> Camera:
        size = (max(1.0, rect.w), max(1.0, rect.h))
        if slot == SPACE:
            return replace(self.orbit, size=size)
        return OrthoCamera(self.views[slot], self.focus, self.mm_per_px, size)

    def panned(self, camera: OrthoCamera, by_px: tuple[float, float]) -> Sight:
        """Pan by a drag in a flat pane; the others follow along the axes they share."""
        frame = camera.view.frame
        by = (-by_px[0] * frame.right + by_px[1] * frame.up) * self.mm_per_px
        return replace(self, focus=_triple(np.array(self.focus) + by))

    def zoomed(self, camera: OrthoCamera, factor: float, at_px: tuple[float, float]) -> Sight:
        """Zoom all flat panes; what is under the pointer stays there."""
        scale = clamped_zoom(self.mm_per_px / factor)
        kept = camera.point_at(at_px)
        focus = kept + (np.array(self.focus) - kept) * (scale / self.mm_per_px)
        return replace(self, focus=_triple(focus), mm_per_px=scale)

    def with_shading(self, slot: str, shading: Shading) -> Sight:
        return replace(self, shading={**self.shading, slot: shading})

    def with_view(self, slot: str, view: View) -> Sight:
        return replace(self, views={**self.views, slot: view})

    def fitted(
        self, flat: Floats | None, space: Floats | None, rects: dict[str, Rect], margin: float = 0.1
    ) -> Sight:
        """All panes at once so that the world boxes (2, 3) fit into each of them."""
        if flat is None:
            flat = np.array([[-200.0, -200.0, 0.0], [200.0, 200.0, 300.0]])
        span = flat[1] - flat[0]
        scale = 1e-5
        for slot in FLAT_SLOTS:
            if slot in rects:
                across, up = self.views[slot].axes
                room = np.array([rects[slot].w, rects[slot].h]) * (1 - 2 * margin)
                scale = max(scale, span[across] / max(room[0], 1), span[up] / max(room[1], 1))
        sight = replace(self, focus=_triple(flat.mean(axis=0)), mm_per_px=clamped_zoom(scale))
        if SPACE in rects:
            rect = rects[SPACE]
            orbit = replace(self.orbit, size=(max(1.0, rect.w), max(1.0, rect.h)))
            sight = replace(sight, orbit=fitted_orbit(space, orbit, margin))
        return sight


def _triple(point: Floats) -> tuple[float, float, float]:
    return float(point[0]), float(point[1]), float(point[2])
