"""Marks as CSV: what is read, and what is refused with its row and column."""

from __future__ import annotations

import pytest

from dimetron.formats.marks import Mark, MarksError, read_marks

HEAD = "landmark,view,x_px,y_px\n"
SIZES = {"front": (100, 80), "right": (60, 500)}


def test_rows_are_marks_and_empty_rows_do_not_count() -> None:
    text = "\ufeff" + HEAD + 'spout tip,front,12.5,-0.5\n\n"rim, left",Right,4,5e2\n'
    assert read_marks(text.encode(), "m.csv", SIZES) == (
        Mark("spout tip", "front", (12.5, -0.5)),
        Mark("rim, left", "right", (4.0, 500.0)),
    )


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "row 1: the header must be landmark,view,x_px,y_px"),
        ("a,b\n", "row 1: the header"),
        (HEAD, "holds no marks"),
        (HEAD + "rim,front,1\n", "row 2: there are 3 columns; there must be 4"),
        (HEAD + "rim,front,1,2\n,front,1,2\n", "row 3, column landmark: the name is missing"),
        (HEAD + "rim,side,1,2\n", "row 2, column view: “side” is none of front, right"),
        (HEAD + "rim,front,here,2\n", "row 2, column x_px: “here” is not a number"),
        (HEAD + "rim,front,1,nan\n", "row 2, column y_px: “nan” is not a place in a picture"),
        (HEAD + "rim,front,1,inf\n", "column y_px: “inf” is not a place"),
        (HEAD + "rim,front,1,-9\n", "column y_px: -9 lies outside front, which is 80 pixels high"),
        (HEAD + "rim,right,61.5,9\n", "row 2, column x_px: 61.5 lies outside right, which is 60"),
        (HEAD + "rim,front,1,2\n\nrim,Front,3,4\n", "row 4: “rim” is marked in front in row 2"),
    ],
)
def test_what_is_wrong_is_named_by_row_and_column(text: str, words: str) -> None:
    with pytest.raises(MarksError, match=words):
        read_marks(text.encode(), "m.csv", SIZES)


def test_bytes_that_are_no_text_are_refused() -> None:
    with pytest.raises(MarksError, match="no CSV text"):
        read_marks(b"\xff\xfe\x00l", "m.csv", SIZES)
