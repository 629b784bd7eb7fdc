"""The demo projects, made once and kept in the user's cache folder."""

from __future__ import annotations

import os
from pathlib import Path

from dimetron import __version__
from dimetron.demo import project as maker
from dimetron.document.atomic import WriteError
from dimetron.document.container import SUFFIX, load, save
from dimetron.document.model import Document
from dimetron.document.serial import ProjectError

#: Goes up whenever the demo's shapes or drawings change.
EDITION = 5


class UnknownDemo(ValueError):
    """There is no demo of this name; the message lists those there are."""


def cache_folder() -> Path:
    base = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(base) / "dimetron"


def project(name: str | None = None) -> Document:
    """A demo project, from the cache or made anew. Raises UnknownDemo."""
    name = name or maker.DEFAULT
    if name not in maker.PROPS:
        known = ", ".join(maker.PROPS)
        raise UnknownDemo(f"There is no demo “{name}”; there is {known}.")
    kept = cache_folder() / f"demo-{name}-{__version__}-{EDITION}{SUFFIX}"
    try:
        return load(kept).document
    except ProjectError:
        document = maker.project(name)
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        save(document, kept)
    except (WriteError, OSError):
        # A cache that cannot be written only costs the time again.
        return document
    return document
