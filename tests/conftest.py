"""Every test gets its own state, cache and configuration folders."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from tests.screen import Screen

# How quickly a busy machine draws examples, and how many of the first few are left out by chance,
# says nothing about what is tested.
settings.register_profile(
    "dimetron",
    deadline=None,
    max_examples=60,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)
settings.load_profile("dimetron")
_SCREENS: list[Screen] = []


def pytest_configure(config: pytest.Config) -> None:
    """Each of several processes has a screen of its own."""
    if "PYTEST_XDIST_WORKER" in os.environ and "DISPLAY" in os.environ:
        _SCREENS.append(Screen())


def pytest_unconfigure(config: pytest.Config) -> None:
    while _SCREENS:
        _SCREENS.pop().close()


@pytest.fixture(scope="session")
def demo_cache(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One cache for the session, so that the demo is drawn once."""
    return tmp_path_factory.mktemp("cache")


@pytest.fixture(autouse=True)
def own_folders(
    tmp_path_factory: pytest.TempPathFactory, demo_cache: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[Path]:
    home = tmp_path_factory.mktemp("home")
    for name in ("CONFIG", "STATE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(home / name.lower()))
    monkeypatch.setenv("XDG_CACHE_HOME", str(demo_cache))
    yield home


@pytest.fixture(scope="session")
def can_project(demo_cache: Path) -> object:
    """The watering can's demo project."""
    from dimetron.demo import shelf

    before = os.environ.get("XDG_CACHE_HOME")
    os.environ["XDG_CACHE_HOME"] = str(demo_cache)
    try:
        return shelf.project("watering-can")
    finally:
        if before is None:
            del os.environ["XDG_CACHE_HOME"]
        else:
            os.environ["XDG_CACHE_HOME"] = before
