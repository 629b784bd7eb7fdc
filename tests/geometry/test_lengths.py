from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.geometry.lengths import LengthError, parse_length, parse_number
from dimetron.geometry.units import Unit, format_length

SPELLINGS = [
    ("412", 412.0),
    ("41.2 cm", 412.0),
    ('16 1/4"', 412.75),
    ("16 1/4 in", 412.75),
    ("16¼″", 412.75),
    ("5' 3 1/2\"", 63.5 * 25.4),
    ("5'3\"", 63 * 25.4),
    ("5 ft 3.5 in", 63.5 * 25.4),
    ("2.4 m", 2400.0),
    ("2,4 m", 2400.0),
    ("=300/2-5", 145.0),
    ("300/2", 150.0),
    ('1/4"', 6.35),
    ("-3", -3.0),
    ("−3 cm", -30.0),
    ("=2*(3 cm + 1)", 62.0),
    ('=2 * 16 1/4"', 825.5),
    ("=(1 m - 20 cm)/4", 200.0),
    ("=3 m / 3 cm", 100.0),
    ("1e2", 100.0),
    ("--3", 3.0),
    ("2 - -3 cm", 32.0),
    ("6 / 2 / 3", 1.0),
    ("-999 m", -999_000.0),
]


@pytest.mark.parametrize(("text", "mm"), SPELLINGS)
def test_every_spelling_is_read(text: str, mm: float) -> None:
    if text == "=3 m / 3 cm":
        with pytest.raises(LengthError):
            parse_length(text)  # a ratio is no length
        assert parse_number(text) == pytest.approx(mm)
    else:
        assert parse_length(text) == pytest.approx(mm)


def test_a_bare_number_counts_in_the_projects_unit() -> None:
    assert parse_length("2", Unit.M) == 2000.0
    assert parse_length("2 + 3 cm", Unit.M) == 2030.0
    assert parse_length("2", Unit.FEET_INCHES) == pytest.approx(50.8)


@pytest.mark.parametrize(
    "text",
    ["", "abc", "3 cm * 3 cm", "1/0", "=", "(3", "3)", "4 4", "1e999", "2 parsec", "5' 3 cm",
     "9" * 300, "(" * 100, "nan", "1/3 cm / 2 m", "2000 km", "1001 m", "-1001 m",
     "5' 3 ft", "2 / 3 cm"],
)  # fmt: skip
def test_what_cannot_be_read_says_what_is_accepted(text: str) -> None:
    with pytest.raises(LengthError, match="Write a length such as 412"):
        parse_length(text)


@given(st.floats(-9e5, 9e5), st.sampled_from(Unit))
def test_what_is_shown_can_be_typed_back(mm: float, unit: Unit) -> None:
    shown = format_length(mm, unit)
    assert parse_length(shown, unit) == pytest.approx(mm, abs=0.006)


@given(st.floats(-0.004, 0.004), st.sampled_from(Unit))
def test_what_is_nothing_to_the_eye_has_no_sign(mm: float, unit: Unit) -> None:
    assert "−" not in format_length(mm, unit)


@given(st.floats(-9e5, 9e5), st.sampled_from(Unit))
def test_a_length_and_its_opposite_differ_in_the_sign_alone(mm: float, unit: Unit) -> None:
    one, other = format_length(mm, unit), format_length(-mm, unit)
    assert one.removeprefix("−") == other.removeprefix("−")


@given(st.integers(-(10**5), 10**5))
def test_sixteenths_of_an_inch_are_shown_as_fractions(sixteenths: int) -> None:
    mm = sixteenths / 16 * 25.4
    shown = format_length(mm, Unit.INCH)
    assert "." not in shown
    assert parse_length(shown) == pytest.approx(mm)


@pytest.mark.parametrize(
    ("mm", "unit", "text"),
    [
        (412.0, Unit.MM, "412 mm"),
        (412.0, Unit.CM, "41.2 cm"),
        (412.0, Unit.M, "0.412 m"),
        (412.75, Unit.INCH, '16 1/4"'),
        (63.5 * 25.4, Unit.FEET_INCHES, "5' 3 1/2\""),
        (12 * 25.4, Unit.FEET_INCHES, "1'"),
        (11.9999 * 25.4, Unit.FEET_INCHES, "1'"),
        (-0.0001, Unit.MM, "0 mm"),
        (float("nan"), Unit.MM, "–"),
    ],
)
def test_how_lengths_are_shown(mm: float, unit: Unit, text: str) -> None:
    assert format_length(mm, unit) == text


@pytest.mark.parametrize("unit", [Unit.INCH, Unit.FEET_INCHES])
def test_decimals_of_inches_can_be_few_and_fractions_stay(unit: Unit) -> None:
    assert format_length(9.2807 * 25.4, unit, digits=2) == '9.28"'
    assert format_length(9.25 * 25.4, unit, digits=1) == '9 1/4"'
    assert format_length(9.2807 * 25.4, unit) == '9.2807"'


def test_numbers_take_expressions_but_no_units() -> None:
    assert parse_number("=90/4") == 22.5
    assert parse_number("−1.5°") == -1.5
    with pytest.raises(LengthError, match="plain number"):
        parse_number("3 cm")
    with pytest.raises(LengthError, match="not a number"):
        parse_number("straight")
