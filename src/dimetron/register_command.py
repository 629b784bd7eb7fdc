"""``dimetron register``: drawings registered by marks, lengths and extents, from a script."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from dimetron import console
from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.model import Document, Source, source_from
from dimetron.document.registering import problem_of, with_proposal, with_solution
from dimetron.formats.marks import Mark, read_marks
from dimetron.geometry.lengths import parse_length
from dimetron.geometry.views import EXTENT_NAMES, View
from dimetron.imaging.files import file_bytes
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.imaging.read import read
from dimetron.imaging.shape import shape_of
from dimetron.imaging.tighten import ink_extent
from dimetron.registration.byink.proposal import Given, Proposal, proposed
from dimetron.registration.diagnosis import findings
from dimetron.registration.extents import end_name, with_extents
from dimetron.registration.pose import Pose, pose_of
from dimetron.registration.problem import (
    Landmark,
    Length,
    Picture,
    Problem,
    RegistrationError,
    Sighting,
)
from dimetron.registration.solve import Solution, solve
from dimetron.registration.suspects import odd_lengths, suspects, unknown

_NO_INK = "No ink was found in the drawings; give marks with --marks."


class RegisterFault(ValueError):
    """What was asked for has no meaning; the message says what to do."""


def run(given: argparse.Namespace) -> int:
    """Register and print. Raises RegisterFault, RegistrationError, MarksError, LengthError and what
    reading and writing raise."""
    try:
        return _run(given)
    except np.linalg.LinAlgError as error:
        raise RegistrationError(
            "The marks and lengths contradict each other too much to be solved; leave some out."
        ) from error


def _run(given: argparse.Namespace) -> int:
    if given.project is not None:
        return _again(given)
    files = _drawings(given.drawing)
    extents = dict(_extent(text) for text in given.extent)
    lengths = tuple(_length(text) for text in given.length)
    doc, problem, pyramids = _read(files)
    names = {picture.name: picture.id for picture in problem.pictures}
    called = {names[view]: path.name for view, path in files.items()}
    if given.marks is None and len(files) > 1:
        if lengths:
            raise RegisterFault("--length names landmarks, so it needs --marks; or give --extent")
        proposal = _proposed(problem, pyramids, extents)
        doc, answer = with_proposal(doc, proposal), proposed_as_json(problem, proposal, called)
    else:
        if given.marks is not None:
            sizes = {view: pyramids[id_].size_px for view, id_ in names.items()}
            marks = read_marks(file_bytes(given.marks), given.marks.name, sizes)
            problem = _with_marks(problem, marks, names)
        problem = replace(problem, lengths=lengths)
        found = {id_: ink_extent(pyramid) for id_, pyramid in pyramids.items()}
        boxes = {id_: box for id_, box in found.items() if box is not None}
        axes = set(extents) if given.marks is not None else {0, 1, 2}
        problem = with_extents(problem, boxes, axes, extents)
        if not problem.sightings:
            raise RegistrationError(_NO_INK)
        solution = solve(problem)
        doc, answer = with_solution(doc, solution), told(solution, called)
    if given.out is not None:
        save(doc, given.out)
    _print(answer, given.json)
    return 0


def _proposed(
    problem: Problem, pyramids: dict[str, Pyramid], extents: dict[int, float]
) -> Proposal:
    """What the ink alone says. Raises RegistrationError."""
    console.progress("Comparing the drawings…")
    found = {id_: shape_of(pyramid) for id_, pyramid in pyramids.items()}
    shapes = {id_: shape for id_, shape in found.items() if shape is not None}
    if len(shapes) < 2:
        raise RegistrationError(_NO_INK)
    return proposed(problem.pictures, shapes, Given(extents))


def _again(given: argparse.Namespace) -> int:
    """Solve a project by the marks it keeps; written only where ``--out`` says."""
    if given.drawing or given.marks or given.length or given.extent:
        raise RegisterFault("a project brings its own drawings and marks; leave the others out")
    opened = load(given.project)
    for note in opened.notes:
        console.note(f"{given.project.name}: {note}")
    doc = opened.document
    if not doc.sightings:
        raise RegisterFault(f"{given.project}: nothing is marked in this project")
    solution = solve(problem_of(doc))
    if given.out is not None:
        save(with_solution(doc, solution), given.out)
    files = {d.id: doc.source(doc.sheet(d.sheet).source).name for d in doc.planes}
    _print(told(solution, files), given.json)
    return 0


def _drawings(given: list[str]) -> dict[str, Path]:
    files: dict[str, Path] = {}
    for text in given:
        view, _, path = text.partition("=")
        if view not in {v.value for v in View} or not path:
            raise RegisterFault(f"“{text}” is not VIEW=FILE, such as front=front.png")
        if view in files:
            raise RegisterFault(f"there are two drawings for {view}; give one")
        files[view] = Path(path)
    if not files:
        raise RegisterFault("give the drawings, such as --drawing front=front.png")
    return files


def _read(files: dict[str, Path]) -> tuple[Document, Problem, dict[str, Pyramid]]:
    """The drawings in a new document, as pictures of a problem, and by id their pixels."""
    doc, pyramids, pictures = Document(), {}, []
    for view, path in files.items():
        console.progress(f"Reading {path.name}…")
        data = file_bytes(path)
        info, picture = read(data, path.name)
        source: Source = source_from(
            data, path.name, info.extension, picture.size_px, info.mm_per_px
        )
        doc, id_ = edits.with_drawing(doc, source, View(view))
        pyramids[id_] = build(picture.image)
        drawing = doc.drawing(id_)
        pictures.append(Picture(id_, view, drawing.view, pose_of(drawing.placement)))
    return doc, Problem(tuple(pictures), (), ()), pyramids


def _with_marks(problem: Problem, marks: tuple[Mark, ...], names: dict[str, str]) -> Problem:
    landmarks = tuple(Landmark(name) for name in dict.fromkeys(m.landmark for m in marks))
    sightings = tuple(Sighting(m.landmark, names[m.view], m.px) for m in marks)
    return replace(problem, landmarks=landmarks, sightings=sightings)


def _length(text: str) -> Length:
    ends, _, value = text.rpartition("=")
    a, comma, b = (part.strip() for part in ends.partition(","))
    if not (a and comma and b and value):
        raise RegisterFault(f'“{text}” is not A,B=LENGTH, such as "spout tip,handle=412 mm"')
    return Length(a, b, parse_length(value))


def _extent(text: str) -> tuple[int, float]:
    name, _, value = text.partition("=")
    if name.strip() not in EXTENT_NAMES or not value:
        raise RegisterFault(f'“{text}” is not an extent, such as "width=412 mm"')
    mm = parse_length(value)
    if mm <= 0:
        raise RegisterFault(f"the {name.strip()} must be more than zero")
    return EXTENT_NAMES.index(name.strip()), mm


def told(solution: Solution, files: dict[str, str]) -> dict[str, Any]:
    """A solution as plain JSON data; the ends of the ink are no landmarks of the user's."""
    ends = {end_name(axis, end) for axis in range(3) for end in (0, 1)}
    return {
        "unit": "mm",
        "rms_mm": solution.rms_mm,
        "rms_px": solution.rms_px,
        "drawings": _drawings_as_json(solution.problem, solution.poses, files),
        "landmarks": [
            {"name": name, "xyz_mm": list(at), "sigma_mm": list(solution.sigmas[name])}
            for name, at in solution.points.items()
            if name not in ends
        ],
        "suspects": [
            {
                "landmark": s.landmark,
                "view": solution.problem.picture(s.picture).view.key,
                "off_mm": s.size_mm,
                "words": s.words,
            }
            for s in suspects(solution)
        ],
        "problems": [
            *unknown(solution),
            *odd_lengths(solution),
            *(finding.words for finding in findings(solution)),
        ],
    }


def proposed_as_json(problem: Problem, proposal: Proposal, files: dict[str, str]) -> dict[str, Any]:
    """A proposal from ink as plain JSON data: the same, with what each drawing looks like and how
    sure that is."""
    drawings = _drawings_as_json(problem, proposal.poses, files)
    shown = [p for p in problem.pictures if p.id in proposal.poses]
    for drawing, picture in zip(drawings, shown, strict=True):
        drawing["looks_like"] = proposal.readings[picture.id].view.key
    problems = list(proposal.said)
    problems += [f"{p.name} holds no ink" for p in problem.pictures if p.id not in proposal.poses]
    if not proposal.sure:
        alone = f"registered from the ink alone, {proposal.doubt}"
        problems.append(f"{alone}: mark landmarks to be certain")
    return {
        "unit": "mm",
        "rms_mm": proposal.rms_mm,
        "rms_px": proposal.rms_px,
        "confidence": round(proposal.confidence, 3),
        "drawings": drawings,
        "landmarks": [],
        "suspects": [],
        "problems": problems,
    }


def _drawings_as_json(
    problem: Problem, poses: Mapping[str, Pose], files: dict[str, str]
) -> list[dict[str, Any]]:
    return [
        {
            "view": picture.view.key,
            "file": files[picture.id],
            "mm_per_px": poses[picture.id].mm_per_px,
            "rotation_deg": poses[picture.id].rotation_deg,
            "mirrored": poses[picture.id].mirrored,
            "origin_px": list(poses[picture.id].origin_px),
        }
        for picture in problem.pictures
        if picture.id in poses
    ]


def _print(answer: dict[str, Any], as_json: bool) -> None:
    if as_json:
        console.say_json(answer)
        return
    lines = [f"mismatch {answer['rms_mm']:.2f} mm, {answer['rms_px']:.2f} px"]
    for d in answer["drawings"]:
        flipped = ", mirrored" if d["mirrored"] else ""
        lines.append(
            f"{d['view']:8}{d['file']}: {d['mm_per_px']:.6g} mm per pixel, turned "
            f"{d['rotation_deg']:.2f}°{flipped}{_other_view(d)}"
        )
    lines += [suspect["words"] for suspect in answer["suspects"]]
    console.say("\n".join((*lines, *answer["problems"])))


def _other_view(drawing: dict[str, Any]) -> str:
    like = drawing.get("looks_like", drawing["view"])
    return "" if like == drawing["view"] else f", looks like a {like} view"
