"""Length units and how a length is written in them."""

from __future__ import annotations

import enum
import math
from fractions import Fraction

MM_PER_INCH = 25.4
#: Fractions of an inch are shown to this denominator.
INCH_DENOMINATOR = 16


class Unit(enum.Enum):
    """A project's unit of length. Lengths are kept in millimetres whatever the unit."""

    MM = "mm"
    CM = "cm"
    M = "m"
    INCH = "in"
    FEET_INCHES = "ft-in"

    @property
    def mm(self) -> float:
        """Millimetres in one of the unit; a plain number in ft-in counts inches."""
        return _MM[self]


_MM = {
    Unit.MM: 1.0,
    Unit.CM: 10.0,
    Unit.M: 1000.0,
    Unit.INCH: MM_PER_INCH,
    Unit.FEET_INCHES: MM_PER_INCH,
}

#: Spellings that may follow a number, to millimetres.
SUFFIXES: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "″": MM_PER_INCH,
    "ft": 12 * MM_PER_INCH,
    "foot": 12 * MM_PER_INCH,
    "feet": 12 * MM_PER_INCH,
    "'": 12 * MM_PER_INCH,
    "′": 12 * MM_PER_INCH,
}


def format_length(mm: float, unit: Unit, *, digits: int | None = None, suffix: bool = True) -> str:
    """Write ``mm`` in ``unit``, e.g. ``412 mm``, ``41.2 cm``, ``5' 3 1/2"``.

    ``digits`` is the number of decimals at most; by default 0.01 mm is resolved. Inches with
    fractions are shown to 1/16 where the length is one within 0.005 mm, and as decimals otherwise,
    so that what is shown can be typed back.
    """
    if not math.isfinite(mm):
        return "–"
    if unit is Unit.FEET_INCHES:
        return _feet_inches(mm, 4 if digits is None else digits)
    if unit is Unit.INCH:
        text = _fraction(mm / MM_PER_INCH)
        if text is not None:
            return text + ('"' if suffix else "")
    decimals = {Unit.MM: 2, Unit.CM: 3, Unit.M: 5, Unit.INCH: 4}[unit] if digits is None else digits
    text = _decimal(mm / unit.mm, decimals)
    ending = '"' if unit is Unit.INCH else f" {unit.value}"
    return text + ending if suffix else text


def format_area(mm2: float, unit: Unit) -> str:
    """Write square millimetres in the square of ``unit``, to four figures: ``1688 mm²``."""
    feet = unit is Unit.FEET_INCHES
    per = (MM_PER_INCH * 12) ** 2 if feet else unit.mm**2
    value = mm2 / per
    digits = max(0, 3 - math.floor(math.log10(abs(value)))) if value else 0
    return f"{_decimal(value, digits)} {'ft' if feet else unit.value}²"


def _decimal(value: float, decimals: int) -> str:
    text = f"{value:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    if text in ("-0", ""):
        text = "0"
    return text.replace("-", "−")


def _fraction(inches: float) -> str | None:
    """``16 1/4`` where ``inches`` is a multiple of 1/16 to within 0.005 mm, else None."""
    nearest = Fraction(round(inches * INCH_DENOMINATOR), INCH_DENOMINATOR)
    if abs(float(nearest) - inches) * MM_PER_INCH > 0.005:
        return None
    sign = "−" if nearest < 0 else ""
    whole, rest = divmod(abs(nearest), 1)
    if not rest:
        return f"{sign}{whole}"
    return f"{sign}{whole} {rest}" if whole else f"{sign}{rest}"


def _feet_inches(mm: float, decimals: int) -> str:
    sign = "−" if mm < 0 else ""
    inches = abs(mm) / MM_PER_INCH
    feet = int(inches // 12)
    rest = inches - 12 * feet
    text = _fraction(rest)
    if text is None:
        text = _decimal(rest, decimals)
    if text == "12":
        feet, text = feet + 1, "0"
    if sign and feet == 0 and text == "0":
        sign = ""
    if feet == 0:
        return f'{sign}{text}"'
    return f"{sign}{feet}'" if text == "0" else f"{sign}{feet}' {text}\""
