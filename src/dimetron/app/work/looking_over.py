"""What is not sound about meshes, looked for where it does not make anybody wait."""

from __future__ import annotations

import logging
from functools import partial

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.worker import Waited
from dimetron.document.model import MeshObject
from dimetron.mesh.findings import Finding, findings, is_known
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seams import seam_findings

_LOG = logging.getLogger(__name__)
#: Meshes of fewer corners are looked over at once, others by a worker.
_AT_ONCE = 20_000


class LookingOver(QObject):
    """``ready`` tells that something is known that was asked for before."""

    ready = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._waited = Waited(self, self._told)
        # What shows it is shown anew with every step; it has no time to wait.
        self._waited.patience_s = 0.0

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

    def _told(self, wrong: str) -> None:
        if wrong:
            _LOG.warning("a mesh could not be looked over: %s", wrong)
            return
        self.ready.emit()
