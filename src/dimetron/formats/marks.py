"""Marks as CSV: ``landmark,view,x_px,y_px``, one row for each sighting."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dimetron.document.names import plain_name

HEADER = ("landmark", "view", "x_px", "y_px")
#: More rows than this are no list of marks that a person made.
_MOST_ROWS = 200_000
#: A mark at the very edge may lie a pixel beyond it.
_EDGE_PX = 1.0


class MarksError(ValueError):
    """The file is no list of marks; the message names row and column."""


@dataclass(frozen=True, slots=True)
class Mark:
    """A mark as a table holds it."""

    landmark: str
    view: str
    px: tuple[float, float]


def read_marks(data: bytes, name: str, sizes: Mapping[str, tuple[int, int]]) -> tuple[Mark, ...]:
    """The marks of a file; ``sizes``: of the drawings that are there, in pixels, by view. Raises
    MarksError."""
    try:
        text = data.decode("utf-8-sig")
        table = list(csv.reader(io.StringIO(text, newline="")))
    except (UnicodeDecodeError, csv.Error) as error:
        raise MarksError(f"{name} is no CSV text; save it as UTF-8 with commas.") from error
    if not table or [cell.strip().lower() for cell in table[0]] != list(HEADER):
        raise MarksError(f"{name}, row 1: the header must be {','.join(HEADER)}.")
    if len(table) > _MOST_ROWS:
        raise MarksError(f"{name} has more than {_MOST_ROWS} rows; that is no list of marks.")
    marks: list[Mark] = []
    rows: dict[tuple[str, str], int] = {}
    for number, cells in enumerate(table[1:], 2):
        if not any(cell.strip() for cell in cells):
            continue
        where = f"{name}, row {number}"
        mark = _mark(cells, where, sizes)
        before = rows.setdefault((mark.landmark, mark.view), number)
        if before != number:
            raise MarksError(
                f"{where}: “{mark.landmark}” is marked in {mark.view} in row {before} already; "
                "remove one."
            )
        marks.append(mark)
    if not marks:
        raise MarksError(f"{name} holds no marks; write one row for each.")
    return tuple(marks)


def written_marks(marks: Sequence[Mark]) -> bytes:
    """The marks as such a file."""
    out = io.StringIO(newline="")
    table = csv.writer(out, lineterminator="\n")
    table.writerow(HEADER)
    for mark in marks:
        table.writerow((mark.landmark, mark.view, f"{mark.px[0]:.3f}", f"{mark.px[1]:.3f}"))
    return out.getvalue().encode()


def _mark(cells: list[str], where: str, sizes: Mapping[str, tuple[int, int]]) -> Mark:
    if len(cells) != len(HEADER):
        raise MarksError(f"{where}: there are {len(cells)} columns; there must be {len(HEADER)}.")
    landmark, view = plain_name(cells[0]), cells[1].strip().lower()
    if not landmark:
        raise MarksError(f"{where}, column landmark: the name is missing.")
    if view not in sizes:
        known = ", ".join(sorted(sizes))
        raise MarksError(f"{where}, column view: “{cells[1].strip()}” is none of {known}.")
    at = [_number(cell, f"{where}, column {HEADER[2 + i]}") for i, cell in enumerate(cells[2:])]
    for value, size, column in zip(at, sizes[view], HEADER[2:], strict=True):
        if not -_EDGE_PX <= value <= size + _EDGE_PX:
            raise MarksError(
                f"{where}, column {column}: {value:g} lies outside {view}, which is {size} pixels "
                f"{'wide' if column == HEADER[2] else 'high'}."
            )
    return Mark(landmark, view, (at[0], at[1]))


def _number(cell: str, where: str) -> float:
    try:
        value = float(cell)
    except ValueError:
        raise MarksError(f"{where}: “{cell.strip()[:30]}” is not a number.") from None
    if not math.isfinite(value):
        raise MarksError(f"{where}: “{cell.strip()[:30]}” is not a place in a picture.")
    return value
