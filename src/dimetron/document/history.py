"""History: a list of documents that share what did not change. Undo is a pointer move."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dimetron.document.model import Document

#: Steps kept. Documents share their parts, so a step costs what it changed.
MAX_STEPS = 500


@dataclass(frozen=True, slots=True)
class Step:
    document: Document
    label: str


@dataclass(frozen=True, slots=True)
class History:
    """A value; ``at`` points to the current step. The first step has no label to undo."""

    steps: tuple[Step, ...]
    at: int = 0

    @property
    def document(self) -> Document:
        return self.steps[self.at].document

    @property
    def undo_label(self) -> str | None:
        return self.steps[self.at].label if self.at else None

    @property
    def redo_label(self) -> str | None:
        return self.steps[self.at + 1].label if self.at + 1 < len(self.steps) else None

    def committed(self, document: Document, label: str) -> History:
        """Append a step, dropping what was undone; nothing changes if the document did not."""
        if document is self.document:
            return self
        steps = (*self.steps[: self.at + 1], Step(document, label))[-MAX_STEPS:]
        return History(steps, len(steps) - 1)

    def amended(self, document: Document) -> History:
        """The current step with another document, for what is no step of work: what is folded,
        and where a loose picture is looked at."""
        now = replace(self.steps[self.at], document=document)
        return replace(self, steps=(*self.steps[: self.at], now, *self.steps[self.at + 1 :]))

    def replaced(self, document: Document, label: str) -> History:
        """The current step done another way: what it was done to stays the step before."""
        kept = replace(self, steps=self.steps[: self.at], at=self.at - 1)
        return kept.committed(document, label)

    def undone(self) -> History:
        return replace(self, at=max(0, self.at - 1))

    def redone(self) -> History:
        return replace(self, at=min(len(self.steps) - 1, self.at + 1))


def begun(document: Document) -> History:
    return History((Step(document, ""),))
