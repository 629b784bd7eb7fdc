"""Reading lengths, angles and plain numbers as people write them.

A small recursive-descent parser over ``+ - * / ( )``. Every value carries its dimension (the power
of length), so that ``2 * 16 1/4"`` is a length and ``3 cm * 3 cm`` is refused. A bare number where
a length is wanted counts in the project's unit.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass

from dimetron.geometry.units import MM_PER_INCH, SUFFIXES, Unit

ACCEPTED = 'Write a length such as 412, 41.2 cm, 16 1/4", 5\' 3 1/2", 2.4 m or =300/2-5.'
ACCEPTED_NUMBER = "Write a number such as 12.5 or =300/2-5."

#: Longer input is not a length; it also bounds the parser's recursion.
MAX_CHARACTERS = 200
#: A kilometre: anything larger is taken for a slip of the hand.
MAX_MM = 1e6

_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?|[.,]\d+)"
    r"|(?P<name>[^\W\d]\w*(?:\.[^\W\d]\w*)+)"
    r"|(?P<suffix>mm|cm|m|inches|inch|in|feet|foot|ft|''|[\"″'′])"
    r"|(?P<op>[-+*/()]))",
    re.IGNORECASE,
)
_FRACTION_GLYPHS = {
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
}


class LengthError(ValueError):
    """The text is not a length; the message says what is accepted."""


@dataclass(frozen=True, slots=True)
class Quantity:
    """A value with its dimension: ``power`` of length, None for a bare number that may become a
    length."""

    amount: float
    power: int | None


#: Gives what a name such as ``front.width`` is worth; raises LengthError for one it does not know.
Names = Callable[[str], Quantity]


def parse_length(text: str, unit: Unit = Unit.MM, names: Names | None = None) -> float:
    """Return the length written in ``text`` in millimetres.

    Raises LengthError if it cannot be read, is not a length, or is not finite.
    """
    value = _parse(text, unit, names)
    if value.power is None:
        mm = value.amount * unit.mm
    elif value.power == 1:
        mm = value.amount
    else:
        raise LengthError(f"“{_shorten(text)}” is not a length. {ACCEPTED}")
    if not math.isfinite(mm) or abs(mm) > MAX_MM:
        raise LengthError(f"“{_shorten(text)}” is beyond 1 km. {ACCEPTED}")
    return mm


def parse_number(text: str, names: Names | None = None) -> float:
    """Return a plain number or the value of an expression, for angles and ratios.

    Raises LengthError if it cannot be read or carries a length unit.
    """
    try:
        value = _parse(text.replace("°", ""), Unit.MM, names)
    except LengthError as error:
        if named_in(text):
            raise
        raise LengthError(f"“{_shorten(text)}” is not a number. {ACCEPTED_NUMBER}") from error
    if value.power not in (None, 0) or not math.isfinite(value.amount):
        raise LengthError(f"“{_shorten(text)}” is not a plain number. {ACCEPTED_NUMBER}")
    return value.amount


def _shorten(text: str) -> str:
    plain = "".join(c if c.isprintable() else " " for c in text)
    return plain if len(plain) <= 30 else plain[:29] + "…"


def named_in(text: str) -> tuple[str, ...]:
    """The names, such as ``front.width`` or ``side.ink.left``, that stand in an expression."""
    try:
        return tuple(word for kind, word in _tokens(text) if kind == "name")
    except ValueError:
        return ()


def _parse(text: str, unit: Unit, names: Names | None = None) -> Quantity:
    if len(text) > MAX_CHARACTERS:
        raise LengthError(f"“{_shorten(text)}” is too long. {ACCEPTED}")
    try:
        return _Parser(_tokens(text), unit, names).whole()
    except LengthError:
        raise
    except (ValueError, ZeroDivisionError, OverflowError, IndexError):
        raise LengthError(f"“{_shorten(text)}” cannot be read. {ACCEPTED}") from None


def _tokens(text: str) -> list[tuple[str, str]]:
    cleaned = text.strip().removeprefix("=").replace("−", "-").replace("×", "*").replace("÷", "/")
    for glyph, spelled in _FRACTION_GLYPHS.items():
        cleaned = cleaned.replace(glyph, f" {spelled}")
    found: list[tuple[str, str]] = []
    at = 0
    cleaned = cleaned.strip()
    while at < len(cleaned):
        match = _TOKEN.match(cleaned, at)
        if match is None or match.lastgroup is None:
            raise ValueError(cleaned[at:])
        found.append((match.lastgroup, match.group(match.lastgroup)))
        at = match.end()
    if not found:
        raise ValueError("empty")
    return found


class _Parser:
    """sum := product (± product)*; product := signed (*|/ signed)*; signed := ±* atom."""

    def __init__(
        self, tokens: list[tuple[str, str]], unit: Unit, names: Names | None = None
    ) -> None:
        self._tokens = tokens
        self._names = names
        self._unit = unit
        self._at = 0

    def whole(self) -> Quantity:
        value = self._sum()
        if self._at != len(self._tokens):
            raise ValueError("left over")
        return value

    def _peek(self, ahead: int = 0) -> tuple[str, str]:
        at = self._at + ahead
        return self._tokens[at] if at < len(self._tokens) else ("end", "")

    def _sum(self) -> Quantity:
        value = self._product()
        while self._peek() in (("op", "+"), ("op", "-")):
            sign = 1 if self._peek()[1] == "+" else -1
            self._at += 1
            other = self._product()
            value, other = self._alike(value, other)
            value = Quantity(value.amount + sign * other.amount, value.power)
        return value

    def _alike(self, a: Quantity, b: Quantity) -> tuple[Quantity, Quantity]:
        """Give two summands the same dimension: a bare number beside a length is one too."""
        if a.power == b.power:
            return a, b
        if a.power is None:
            a = self._dimensioned(a, b.power)
        elif b.power is None:
            b = self._dimensioned(b, a.power)
        if a.power != b.power:
            raise ValueError("dimensions")
        return a, b

    def _dimensioned(self, value: Quantity, power: int | None) -> Quantity:
        return Quantity(value.amount * (self._unit.mm if power == 1 else 1.0), power)

    def _product(self) -> Quantity:
        value = self._signed()
        while self._peek() in (("op", "*"), ("op", "/")):
            times = self._peek()[1] == "*"
            self._at += 1
            other = self._signed()
            amount = value.amount * other.amount if times else value.amount / other.amount
            power = (value.power or 0) + (1 if times else -1) * (other.power or 0)
            bare = value.power is None and other.power is None
            value = Quantity(amount, None if bare else power)
        return value

    def _signed(self) -> Quantity:
        sign = 1
        while self._peek() in (("op", "+"), ("op", "-")):
            sign = -sign if self._peek()[1] == "-" else sign
            self._at += 1
        value = self._atom()
        return Quantity(sign * value.amount, value.power)

    def _atom(self) -> Quantity:
        if self._peek() == ("op", "("):
            self._at += 1
            value = self._sum()
            if self._peek() != ("op", ")"):
                raise ValueError("bracket")
            self._at += 1
            return value
        kind, word = self._peek()
        if kind == "name" and self._names is not None:
            self._at += 1
            return self._names(word)
        return self._measure()

    def _measure(self) -> Quantity:
        """A number with an optional unit; feet take inches behind them: ``5' 3 1/2"``."""
        amount = self._mixed_number()
        scale = self._suffix()
        if scale is None:
            return Quantity(amount, None)
        total = amount * scale
        if scale == 12 * MM_PER_INCH and self._peek()[0] == "number":
            inches = self._mixed_number()
            ending = self._suffix()
            if ending not in (None, MM_PER_INCH):
                raise ValueError("feet and something else")
            total += inches * MM_PER_INCH
        return Quantity(total, 1)

    def _mixed_number(self) -> float:
        """``3``, ``2.5``, ``3 1/2`` or ``1/4``; a fraction counts as one only before a unit of
        inches or feet, or after a whole number, so that ``300/2`` stays a division."""
        whole = self._number()
        kinds = [self._peek(i) for i in range(4)]
        if kinds[0][0] == "number" and kinds[1] == ("op", "/") and kinds[2][0] == "number":
            self._at += 3
            return whole + _float(kinds[0][1]) / _float(kinds[2][1])
        divided = kinds[0] == ("op", "/") and kinds[1][0] == "number" and kinds[2][0] == "suffix"
        if (
            divided
            and SUFFIXES.get(kinds[2][1].lower(), 0) >= MM_PER_INCH
            and _is_imperial(kinds[2])
        ):
            self._at += 2
            return whole / _float(kinds[1][1])
        return whole

    def _number(self) -> float:
        kind, text = self._peek()
        if kind != "number":
            raise ValueError(text)
        self._at += 1
        return _float(text)

    def _suffix(self) -> float | None:
        kind, text = self._peek()
        if kind != "suffix":
            return None
        self._at += 1
        return MM_PER_INCH if text == "''" else SUFFIXES[text.lower()]


def _is_imperial(token: tuple[str, str]) -> bool:
    return token[1].lower() not in ("mm", "cm", "m")


def _float(text: str) -> float:
    return float(text.replace(",", "."))
