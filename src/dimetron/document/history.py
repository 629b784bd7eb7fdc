"""History: the current document, and what the others differ from their neighbours by.

Documents share what did not change; of meshes, a step keeps only what it moved. Undo goes step by
step: the neighbour is unpacked beside the current document, and that one packed beside it. Beyond
a budget in bytes the oldest steps are laid aside, compressed, or let go of where that fails.
"""

from __future__ import annotations

import logging
import weakref
import zlib
from dataclasses import dataclass, field, replace

from dimetron.document.model import Document
from dimetron.document.packing import Packed, Spool, packed
from dimetron.mesh.arrays import MeshError

#: What steps may take in memory before the oldest are laid aside.
BUDGET = 1 << 29
_LOG = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Step:
    """What stands after a step, unless it is the current one; label: what was done. known: the
    document itself, while somebody else has it."""

    label: str
    packed: Packed | None = None
    known: weakref.ref[Document] | None = None

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return 0 if self.packed is None else self.packed.nbytes


@dataclass(frozen=True, slots=True)
class History:
    """A value; ``at`` points to the current step. The first step has no label to undo."""

    steps: tuple[Step, ...]
    document: Document
    at: int = 0
    spool: Spool | None = field(default=None, compare=False)
    budget: int = BUDGET

    @property
    def undo_label(self) -> str | None:
        """What would be undone; None at the first step."""
        return self.steps[self.at].label if self.at else None

    @property
    def redo_label(self) -> str | None:
        """What would be done again; None at the last step."""
        return self.steps[self.at + 1].label if self.at + 1 < len(self.steps) else None

    @property
    def nbytes(self) -> int:
        """What the steps that are not the current one take."""
        return sum(step.nbytes for step in self.steps)

    def committed(self, document: Document, label: str) -> History:
        """Append a step, dropping what was undone; nothing changes if the document did not."""
        if document is self.document:
            return self
        before = _packed(self.steps[self.at], self.document, document)
        steps = (*self.steps[: self.at], before, Step(label))
        return replace(self, steps=steps, document=document, at=len(steps) - 1)._within_budget()

    def replaced(self, document: Document, label: str) -> History:
        """The current step done another way: what it was done to stays the step before."""
        return self.undone().committed(document, label)

    def amended(self, document: Document) -> History:
        """The current step with another document, for what is no step of work: what is folded,
        and where a loose picture is looked at. Its meshes must be the same."""
        return replace(self, document=document)

    def undone(self) -> History:
        """At the step before; the same at the first one."""
        return self._at(self.at - 1) if self.at else self

    def redone(self) -> History:
        """At the step after; the same at the last one."""
        return self._at(self.at + 1) if self.at + 1 < len(self.steps) else self

    def _at(self, to: int) -> History:
        """The neighbouring step as the current one; where it is lost, the history ends here."""
        step = self.steps[to]
        assert step.packed is not None
        try:
            found = step.known() if step.known is not None else None
            document = found or step.packed.unpacked(self.document, self.spool)
        except (OSError, MeshError, zlib.error):
            _LOG.warning("a step that was laid aside is lost", exc_info=True)
            left = self.steps[self.at :] if to < self.at else self.steps[: self.at + 1]
            return replace(self, steps=left, at=0 if to < self.at else len(left) - 1)
        steps = list(self.steps)
        steps[self.at] = _packed(steps[self.at], self.document, document)
        steps[to] = Step(step.label)
        return replace(self, steps=tuple(steps), document=document, at=to)

    def _within_budget(self) -> History:
        """With the oldest steps laid aside as far as it takes."""
        over = self.nbytes - self.budget
        steps = list(self.steps)
        for number, step in enumerate(steps[: self.at]):
            if over <= 0:
                break
            if step.packed is None or not step.nbytes:
                continue
            try:
                if self.spool is None:
                    raise OSError("there is nowhere to lay steps aside")
                aside = step.packed.laid_aside(self.spool)
            except OSError:
                _LOG.warning("the oldest steps are let go of", exc_info=True)
                return replace(self, steps=tuple(steps[number + 1 :]), at=self.at - number - 1)
            over -= step.nbytes - aside.nbytes
            steps[number] = replace(step, packed=aside)
        return replace(self, steps=tuple(steps))


def _packed(step: Step, document: Document, beside: Document) -> Step:
    return Step(step.label, packed(document, beside), weakref.ref(document))


def new_history(document: Document, spool: Spool | None = None, budget: int = BUDGET) -> History:
    """A history that starts with a document."""
    return History((Step(""),), document, spool=spool, budget=budget)
