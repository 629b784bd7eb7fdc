"""Writes ``docs/guide/operations.md`` from the operations themselves."""

from __future__ import annotations

import sys
from pathlib import Path

from dimetron.mesh.operation import Operation, operations
from dimetron.mesh.parameters import Parameter, Sort
from dimetron.mesh_command import written_as

PAGE = Path(__file__).parent / "guide" / "operations.md"
_HEAD = """# Operations

What can be done to a mesh, family by family. Each is in the station *Model*, in the menu *Mesh* and
behind `Ctrl+.`; the last column is how `dimetron mesh IN --out OUT --do …` writes it. This page is
written by `./run guide`.
"""
_COLUMNS = """| operation | key | what it does | on the command line |
|---|---|---|---|
"""


def page() -> str:
    """The page as it should be."""
    parts = [_HEAD]
    family = ""
    for operation in operations().values():
        if operation.family.title != family:
            family = operation.family.title
            parts.append(f"\n## {family}\n\n{_COLUMNS}")
        parts.append(_row(operation))
    return "".join(parts)


def _row(operation: Operation) -> str:
    key = f"`{operation.key}`" if operation.key else ""
    numbers = " ".join(_told(p) for p in operation.parameters)
    command = written_as(operation).replace("|", "\\|")
    words = f"{operation.sentence} {numbers}".strip()
    return f"| {operation.title} | {key} | {words} | `{command}` |\n"


def _told(parameter: Parameter) -> str:
    usual = parameter.default
    if parameter.sort is Sort.CHOICE:
        usual = dict(parameter.choices)[parameter.default]
    elif parameter.sort is Sort.SWITCH:
        usual = "yes" if parameter.default else "no"
    elif parameter.sort is Sort.LENGTH:
        usual = f"{parameter.default:g} mm"
    return f"*{parameter.title.capitalize()}*: {parameter.hint} ({usual})."


def main() -> int:
    """Write the page; say whether it was another."""
    before = PAGE.read_text("utf-8") if PAGE.exists() else ""
    PAGE.write_text(page(), "utf-8")
    print("written anew" if page() != before else "as it was", file=sys.stderr)
    return 0


if __name__ == "__main__":
    sys.exit(main())
