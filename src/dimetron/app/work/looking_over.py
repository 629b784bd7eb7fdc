"""What is not sound about meshes, looked for where it does not make anybody wait."""

from __future__ import annotations

import logging
from functools import partial
from weakref import WeakKeyDictionary

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.worker import Waited
from dimetron.document.model import MeshObject
from dimetron.mesh.findings import Finding, deeper_findings, findings, is_known
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seams import seam_findings

_LOG = logging.getLogger(__name__)
#: Meshes of fewer corners are looked over at once, others by a worker.
_AT_ONCE = 20_000
#: How thin a wall may be, mm, if nothing else is typed; and no wall is thicker.
WALL_MM, MOST_WALL_MM = 1.0, 1e6


class LookingOver(QObject):
    """``ready`` tells that something is known that was asked for before."""

    ready = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._waited = Waited(self, self._told)
        # What shows it is shown anew with every step; it has no time to wait.
        self._waited.patience_s = 0.0
        self._deep = Waited(self, self._told)
        self._deeper: WeakKeyDictionary[Mesh, tuple[float, tuple[Finding, ...]]] = (
            WeakKeyDictionary()
        )
        self._wall_mm = WALL_MM

    def of(self, mesh: Mesh) -> tuple[Finding, ...] | None:
        """All that is to be said of a mesh, the gravest first; None while that is not known."""
        if is_known(mesh) or len(mesh.topology.corners) < _AT_ONCE:
            return findings(mesh)
        self._waited.ask(mesh, partial(findings, mesh), lambda _: None)
        return findings(mesh) if is_known(mesh) else None

    def of_item(self, item: MeshObject) -> tuple[Finding, ...] | None:
        """With what the smooth surface makes of the middle where both sides are the same."""
        found = self.of(item.mesh)
        if found is None or not item.is_smooth or not item.even:
            return found
        return (*seam_findings(item.mesh, item.even), *found)

    @property
    def wall_mm(self) -> float:
        """Walls that are thinner than this are told."""
        return self._wall_mm

    def set_wall(self, mm: float) -> None:
        """Raises ValueError."""
        if not 0 < mm <= MOST_WALL_MM:
            raise ValueError("Type a thickness of more than nothing.")
        self._wall_mm = mm
        self.ready.emit()

    def deeper(self, mesh: Mesh) -> tuple[Finding, ...] | None:
        """Where it runs through itself, and thin walls; None while that is not known. Always found
        by a worker."""
        known = self._deeper.get(mesh)
        if known is not None and known[0] == self._wall_mm:
            return known[1]
        wall = self._wall_mm

        def keep(found: tuple[Finding, ...]) -> tuple[Finding, ...]:
            self._deeper[mesh] = wall, found
            return found

        asked: tuple[Finding, ...] | None = self._deep.ask(
            (mesh, wall), partial(deeper_findings, mesh, wall), keep
        )
        return asked

    def _told(self, wrong: str) -> None:
        if wrong:
            _LOG.warning("a mesh could not be looked over: %s", wrong)
            return
        self.ready.emit()
