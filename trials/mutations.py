"""Damage by chance: bytes turned, cut, doubled, exchanged; numbers made extreme."""

from __future__ import annotations

import copy
import json
import random
import struct
from collections.abc import Callable, Sequence
from typing import Any

_EXTREME = (
    0,
    1,
    2,
    3,
    0x7F,
    0x80,
    0xFF,
    0x7FFF,
    0x8000,
    0xFFFF,
    0x7FFFFFFF,
    0x80000000,
    0xFFFFFFFF,
)
_WORDS = (
    *(b"NaN", b"Infinity", b"-1e999", b"1e400", b"-1", b"0", b"null", b"true", b"[]", b"{}"),
    *(
        b'""',
        b'"\\ud800"',
        b'"a\\n"',
        b"99999999999999999999",
        b"../../x",
        b"%s",
        b"\x00",
        b"\xff\xfe",
    ),
)
_MOST_BYTES = 4 << 20


def _turned(data: bytearray, rng: random.Random, _: bytes) -> None:
    for _ in range(rng.choice((1, 1, 2, 8, 40))):
        data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)


def _replaced(data: bytearray, rng: random.Random, _: bytes) -> None:
    for _ in range(rng.choice((1, 1, 3))):
        data[rng.randrange(len(data))] = rng.randrange(256)


def _cut(data: bytearray, rng: random.Random, _: bytes) -> None:
    del data[rng.randrange(len(data)) :]


def _removed(data: bytearray, rng: random.Random, _: bytes) -> None:
    at = rng.randrange(len(data))
    del data[at : at + rng.choice((1, 2, 4, 16, 300))]


def _doubled(data: bytearray, rng: random.Random, _: bytes) -> None:
    at = rng.randrange(len(data))
    part = bytes(data[at : at + rng.choice((1, 4, 16, 300))])
    data[at:at] = part * rng.choice((1, 2, 50))


def _extreme(data: bytearray, rng: random.Random, _: bytes) -> None:
    form = rng.choice(("<B", "<H", ">H", "<I", ">I"))
    size = struct.calcsize(form)
    if len(data) > size:
        at = rng.randrange(len(data) - size)
        data[at : at + size] = struct.pack(form, rng.choice(_EXTREME) & (256**size - 1))


def _spliced(data: bytearray, rng: random.Random, other: bytes) -> None:
    at = rng.randrange(len(data))
    begin = rng.randrange(max(1, len(other)))
    data[at : at + rng.randrange(400)] = other[begin : begin + rng.randrange(400)]


def _worded(data: bytearray, rng: random.Random, _: bytes) -> None:
    """A value in a text becomes another."""
    digits = [i for i, c in enumerate(data[:200_000]) if c in b"0123456789"]
    at = rng.choice(digits) if digits else rng.randrange(len(data))
    end = at
    while end < len(data) and data[end] in b"0123456789.+-eE":
        end += 1
    data[at:end] = rng.choice(_WORDS)


_WAYS: Sequence[Callable[[bytearray, random.Random, bytes], None]] = (
    *(_turned, _replaced, _cut, _removed, _doubled, _extreme, _spliced, _worded),
)


def damaged(data: bytes, rng: random.Random, other: bytes) -> bytes:
    """The bytes with one to four kinds of damage; ``other`` lends parts."""
    mutable = bytearray(data)
    for _ in range(rng.choice((1, 1, 1, 2, 4))):
        if mutable:
            rng.choice(_WAYS)(mutable, rng, other)
    return bytes(mutable[:_MOST_BYTES])


#: Values that have no meaning somewhere, or nearly none.
_ODD: tuple[Any, ...] = (
    *(None, True, False, 0, -1, 1, 0.5, 1e-9, 1e9, -1e9, 1e7, -1e7, 1e300, 2**63, 10**400, 360.5),
    *(
        float("nan"),
        float("inf"),
        "",
        "x",
        "a\n",
        "\udcff",
        "\x00",
        "front",
        "3d",
        "../x",
        "x" * 600,
    ),
    *([], {}, [None], [[]], [0, 0], [1e7, -1e7, 1e7], {"": 0}),
)


def damaged_tree(data: bytes, rng: random.Random, other: bytes) -> bytes:
    """JSON with values exchanged, taken away or doubled; now and then its bytes."""
    if rng.random() < 0.1:
        return damaged(data, rng, other)
    try:
        tree = json.loads(data)
    except ValueError:
        return damaged(data, rng, other)
    for _ in range(rng.choice((1, 1, 2, 3, 6))):
        _change(tree, rng)
    return json.dumps(tree).encode()


def _places(node: Any, found: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    """Every container and key in a tree."""
    keys = node if isinstance(node, dict) else range(len(node)) if isinstance(node, list) else ()
    for key in list(keys):
        found.append((node, key))
        _places(node[key], found)
    return found


def _change(tree: Any, rng: random.Random) -> None:
    places = _places(tree, [])
    if not places:
        return
    node, key = rng.choice(places)
    way = rng.randrange(5)
    if way == 0:
        node[key] = rng.choice(_ODD)
    elif way == 1:
        # What stands elsewhere: an id, a number, a whole thing.
        there, at = rng.choice(places)
        known = there if isinstance(there, dict) else range(len(there))
        node[key] = copy.deepcopy(there[at]) if at in known else 0
    elif way == 2:
        del node[key]
    elif way == 3 and isinstance(node, list):
        node.extend([node[key]] * rng.choice((1, 2, 40)))
    elif isinstance(node[key], int | float) and abs(node[key]) < 1e300:
        node[key] *= rng.choice((-1, 0, 1e-12, 1e3, 1e6, 1e12))
