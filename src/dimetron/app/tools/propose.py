"""Register by the ink: look at what the drawings themselves propose, then take it or leave it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Action, Option
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.compared import changes
from dimetron.document import registering
from dimetron.document.model import Document, MeshObject
from dimetron.geometry.views import AXIS_NAMES
from dimetron.render.overlays import Label, Marks, Overlay

if TYPE_CHECKING:
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal

#: Nothing is wholly certain.
_ALMOST = 0.995


class ProposeByInk(Tool):
    """Waits to be asked; then shows a proposal, or shared features one by one, until it is taken,
    left, or the project changes."""

    shortcut = "Ctrl+Shift+M"
    name, title, icon = "propose", "By the ink", "layers-intersect"
    hint = "Lets the drawings’ ink say how they lie together; nothing need be marked."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._proposal: Proposal | None = None
        #: Which of the proposal's readings is looked at, 0 for the likeliest.
        self._reading = 0
        self._features: tuple[Feature, ...] = ()
        self._found_none = False
        #: Whether the drawings are made as large as a mesh.
        self._sized = False
        #: The project that what is shown was found in.
        self._base: Document | None = None

    def words(self) -> str:
        if self._shown is not None:
            return "This is only looked at. Enter takes it; Escape leaves it."
        if self._feature is not None:
            return "Enter adds the landmark that is lit up; Delete skips it; Escape ends."
        return self.hint

    @property
    def _current(self) -> bool:
        return self._base is self.bench.committed

    @property
    def _shown(self) -> Proposal | None:
        """The reading looked at; None if nothing is proposed."""
        if self._proposal is None or not self._current:
            return None
        return (self._proposal, *self._proposal.others)[self._reading]

    @property
    def _feature(self) -> Feature | None:
        return self._features[0] if self._features and self._current else None

    # What is proposed.

    def _ask(self, only: tuple[str, ...] = (), mesh: MeshObject | None = None) -> None:
        self._drop()
        self._sized = mesh is not None

        def done(proposal: Proposal) -> None:
            self._proposal, self._base = proposal, self.bench.committed
            self._look()

        self.bench.propose(done, only, mesh)

    def _look(self) -> None:
        shown = self._shown
        if shown is not None:
            self.bench.preview(registering.with_proposal(self.bench.committed, shown))
        self.bench.refresh()

    def _take(self) -> None:
        shown = self._shown
        if shown is None:
            return
        doc = registering.with_proposal(self.bench.committed, shown)
        self._proposal = None
        self.bench.commit(doc, "Register by the ink")
        self.bench.refresh()

    def _drop(self) -> None:
        if self._shown is not None:
            self.bench.cancel()
        self._proposal, self._reading = None, 0
        self._features, self._found_none = (), False

    # What the drawings share.

    def _ask_features(self) -> None:
        self._drop()

        def done(features: tuple[Feature, ...]) -> None:
            self._features, self._base = features, self.bench.committed
            self._found_none = not features
            self.bench.refresh()

        self.bench.features(done)

    def _add(self, every: bool = False) -> None:
        if self._feature is None:
            return
        taken, kept = (self._features, ()) if every else (self._features[:1], self._features[1:])
        doc = self.bench.committed
        for feature in taken:
            doc, name = registering.with_feature(doc, feature)
        words = f"Add {len(taken)} landmarks" if every else f"Add {name}"
        self.bench.commit(doc, words)
        self._features, self._base = kept, self.bench.committed
        self.bench.refresh()

    def _skip(self) -> None:
        self._features = self._features[1:]
        self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "enter" and self._shown is not None:
            self._take()
        elif key == "enter" and self._feature is not None:
            self._add()
        elif key == "delete" and self._feature is not None:
            self._skip()
        else:
            return False
        return True

    def abandon(self) -> bool:
        active = self._shown is not None or self._feature is not None
        self._drop()
        return active

    # The panel.

    def options(self) -> Sequence[Option]:
        if self._proposal is None or not self._current or not self._proposal.others:
            return ()

        def choose(value: str) -> None:
            self._reading = int(value)
            self._look()

        every = (self._proposal, *self._proposal.others)
        names = [self._named(proposal) for proposal in every]
        choices = tuple((str(i), names[i]) for i in range(len(every)))
        return (Option("Reading", choices, str(self._reading), choose, listed=True),)

    def _named(self, proposal: Proposal) -> str:
        from dimetron.registration.byink.proposal import reading_words

        words = reading_words(registering.pictures_of(self.bench.committed), proposal)
        return f"{words[0].upper()}{words[1:]}, {proposal.confidence:.0%}"

    def actions(self) -> Sequence[Action]:
        many = len(self.bench.document.planes) > 1
        if self._shown is not None:
            leave = "Put the drawings back where they were"
            return (
                Action(
                    "take", "Take it", self._take, "Leave the drawings as they lie now", main=True
                ),
                Action("leave", "Leave it", self._leave, leave),
            )
        if self._feature is not None:
            left = len(self._features)
            return (
                Action(
                    "add",
                    "Add this landmark",
                    self._add,
                    "With its marks in every drawing",
                    main=True,
                ),
                Action("skip", "Skip it", self._skip, "Look at the next one"),
                Action("all", f"Add all {left}", lambda: self._add(every=True), "The rest, too"),
            )
        share = "Find levels and points that several drawings show, once they lie together"
        return (
            Action(
                "compare",
                "Compare the drawings",
                self._ask,
                "From outlines, strokes and centrelines: scale, turn, place, and what is mirrored, "
                "turned or under a wrong name",
                many,
                main=True,
            ),
            Action("shared", "Suggest landmarks", self._ask_features, share, many),
            *self._fits(),
        )

    def _fits(self) -> Sequence[Action]:
        """By size: two chosen drawings to each other, all to a mesh that has its true size."""
        doc, actions = self.bench.document, []
        chosen = [d for d in doc.planes if d.id in self.bench.chosen]
        chosen.sort(key=lambda d: self.bench.chosen.index(d.id))
        if len(chosen) == 2:
            first, second = chosen
            ids = first.id, second.id
            hint = f"Scale and place {second.name} so that its ink agrees with {first.name}’s"
            title = f"Fit to {first.name}"
            actions.append(Action("fit-drawing", title, lambda: self._ask(only=ids), hint))
        mesh = self.bench.chosen_mesh or (doc.meshes[0] if len(doc.meshes) == 1 else None)
        if mesh is not None:
            hint = f"Scale and place all drawings so that their ink is as large as {mesh.name}"
            title = f"Fit to {mesh.name}"
            actions.append(Action("fit-mesh", title, lambda: self._ask(mesh=mesh), hint))
        return actions

    def _leave(self) -> None:
        self._drop()
        self.bench.refresh()

    def told(self) -> str:
        shown = self._shown
        if shown is not None:
            return self._about(shown)
        feature = self._feature
        if feature is not None:
            kind = (
                "A point" if feature.axis is None else f"A level along {AXIS_NAMES[feature.axis]}"
            )
            names = [self.bench.document.drawing(id_).name for id_ in feature.px]
            return (
                f"{kind} shown by {', '.join(names)}, which agree to "
                f"{self.length(feature.off_mm)}. {len(self._features)} left."
            )
        if self._found_none and self._current:
            return "Nothing that the drawings share was found; mark landmarks by hand."
        return ""

    def _about(self, shown: Proposal) -> str:
        pinned = self.bench.document.pinned
        share = f"{shown.confidence:.0%}" if shown.confidence < _ALMOST else "over 99%"
        parts = [f"Sure: {share}." if shown.sure else f"Not sure: {shown.doubt}."]
        parts += [f"{words[0].upper()}{words[1:]}." for words in shown.said]
        if not shown.said:
            parts.append("Each drawing lies the way it is placed.")
        said = changes(self.bench.committed, self.bench.document)
        if said:
            parts.append(f"Against now {', '.join(said)}.")
        sizes = [
            f"{AXIS_NAMES[axis]} {self.length(mm)}"
            for axis, mm in enumerate(shown.size_mm)
            if mm is not None
        ]
        parts.append(f"The object: {', '.join(sizes)}.")
        if not pinned and not self._sized:
            parts.append("Its true size is not in the ink: give a known length later.")
        return "\n".join(parts)

    def overlays(self) -> Sequence[Overlay]:
        doc, feature = self.bench.document, self._feature
        if feature is None:
            return ()
        marks: list[Overlay] = []
        for other in self._features:
            mine = other is feature
            for id_, px in other.px.items():
                drawing = doc.drawing(id_)
                at = drawing.view.to_world(drawing.placement.to_plane(np.array(px)))
                role = "selection" if mine else "accent"
                marks.append(Marks(at[None], "ring", role, 9.0 if mine else 5.0, only=drawing.view))
                if mine and other.axis is not None:
                    words = f"{AXIS_NAMES[other.axis]} {self.length(other.at_mm[other.axis])}"
                    marks.append(Label(at, words, role, only=drawing.view))
        return marks
