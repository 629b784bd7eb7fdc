"""What is registered by standing in a folder: the modules of a package, and the values in them."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator
from types import ModuleType
from typing import TypeVar

Value = TypeVar("Value")


def modules_in(package: str) -> Iterator[ModuleType]:
    """The modules and packages that stand directly in a package, by name."""
    there = pkgutil.iter_modules(importlib.import_module(package).__path__)
    for found in sorted(there, key=lambda module: module.name):
        yield importlib.import_module(f"{package}.{found.name}")


def values_in(module: ModuleType, kind: type[Value]) -> Iterator[Value]:
    """The values of a kind that a module knows by a name, in its own order."""
    for value in vars(module).values():
        if isinstance(value, kind):
            yield value
