"""What an operation is done to, and what it made: values, without Qt."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from dimetron.document.model import Document, MeshObject
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.evening import evened
from dimetron.mesh.findings import left_by
from dimetron.mesh.operation import Operation
from dimetron.mesh.seams import seams_left
from dimetron.mesh.select import Selection

#: Meshes of fewer corners are worked on at once, others by a worker where it takes longer than a
#: frame.
AT_ONCE = 20_000


@dataclass(frozen=True, slots=True, eq=False)
class Task:
    """What an operation is done to. others: further meshes, of one that makes one of several;
    asides: those that one looks at that lays something on them."""

    operation: Operation
    item: MeshObject
    chosen: Selection
    others: tuple[MeshObject, ...] = ()
    asides: tuple[MeshObject, ...] = ()

    def run(self, how: Any) -> Edited:
        """Do it. Raises MeshError."""
        mesh = self.item.mesh
        others = [other.mesh for other in (*self.others, *self.asides)]
        done = self.operation.run(mesh, self.chosen, how, others)
        return done if done.mesh is mesh else evened(mesh, done, self.item.even)

    def left_by(self, done: Edited) -> tuple[Note, ...]:
        """What it left behind that was not there."""
        item = self.item
        found = left_by(item.mesh, done)
        if item.is_smooth and item.even and len(done.mesh.topology.corners) < AT_ONCE:
            found += seams_left(item.mesh, done, item.even)
        return found


@dataclass(frozen=True, slots=True, eq=False)
class Step:
    """The last operation, as long as nothing was done since. document: what it made; selects: it
    changed nothing but what is selected."""

    task: Task
    how: Any
    document: Document
    notes: tuple[Note, ...]
    selects: bool = False
