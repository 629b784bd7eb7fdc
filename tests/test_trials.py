"""A third of a minute of each trial, from fixed seeds; and that the trials would find something."""

from __future__ import annotations

import os
import random
from pathlib import Path

import pytest

from trials import fuzz, rough
from trials.mutations import damaged, damaged_tree
from trials.readers import READERS, Reader

SECONDS = float(os.environ.get("DIMETRON_TRIAL_SECONDS", "20"))


def test_damaged_files_are_read_or_refused_in_one_sentence(tmp_path: Path) -> None:
    total, found = fuzz.run(SECONDS, 7000, tmp_path, keep=False)
    assert found == []
    assert total > 10


@pytest.mark.parametrize("reader", READERS, ids=lambda r: r.name)
def test_what_broke_a_reader_once_breaks_none_now(reader: Reader) -> None:
    for data in (*reader.seeds(), *fuzz.kept(reader)):
        assert fuzz.fault_of(reader, data) == ""


def test_a_rough_hand_finds_nothing() -> None:
    total, found = rough.run(SECONDS, 11_000, shrink=False)
    assert found == []
    assert total > 40


def test_the_same_seed_damages_alike_and_differently_each_time() -> None:
    data, other = b'{"a": [1, 2, {"b": "c"}], "d": 4.5}', b"0123456789" * 9
    for damage in (damaged, damaged_tree):
        first = [damage(data, random.Random(seed), other) for seed in range(30)]
        assert first == [damage(data, random.Random(seed), other) for seed in range(30)]
        assert len(set(first)) > 20 and first.count(data) < 10


def test_a_fault_of_a_reader_is_told() -> None:
    def breaks(data: bytes) -> object:
        raise KeyError("what nobody foresaw")

    def two_lines(data: bytes) -> object:
        raise ValueError("one\ntwo")

    refused = Reader("x", lambda: (), lambda data: int(data), ValueError)
    assert fuzz.fault_of(refused, b"five") == ""
    assert fuzz.fault_of(refused, b"5") == ""
    assert "nobody foresaw" in fuzz.fault_of(Reader("x", lambda: (), breaks, ValueError), b"")
    assert "one" in fuzz.fault_of(Reader("x", lambda: (), two_lines, ValueError), b"")


def test_the_shortest_list_of_steps_keeps_what_is_needed(monkeypatch: pytest.MonkeyPatch) -> None:
    def tried(seeds: list[int]) -> tuple[str, int]:
        if 3 in seeds and 8 in seeds:
            return "Error: both", max(seeds.index(3), seeds.index(8)) + 1
        return "", len(seeds)

    monkeypatch.setattr(rough, "_tried", tried)
    assert rough._shortest(list(range(20)), "Error: both") == [3, 8]
