"""Run all benchmarks, or those named, and print a table. Each runs in a process of its own."""

from __future__ import annotations

import json
import subprocess
import sys
import time

NAMES = (
    "start",
    "frame",
    "drag",
    "large",
    "save",
    "decode",
    "prepare",
    "place",
    "register",
    "byink",
    "split",
    "used",
    "load",
    "trace",
    "model",
    "check",
    "export",
)


def main(names: list[str]) -> int:
    chosen = names or list(NAMES)
    unknown = [n for n in chosen if n not in NAMES]
    if unknown:
        print(f"no benchmark {unknown[0]}; there are {', '.join(NAMES)}", file=sys.stderr)
        return 2
    print(f"{time.strftime('%Y-%m-%d')}  each figure is ours over the bare minimum, same run\n")
    print(f"{'what':62}{'ours':>10}{'bare':>10}{'ratio':>8}{'goal':>7}")
    for name in chosen:
        done = subprocess.run(
            [sys.executable, "-m", f"benchmarks.{name}"],
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode:
            print(f"{name} failed\n{done.stderr}", file=sys.stderr)
            return 1
        for row in json.loads(done.stdout.splitlines()[-1]):
            print(_line(row))
    return 0


def _line(row: dict[str, object]) -> str:
    if "value" in row:
        return f"{row['what']:62}{row['value']!s:>10}{'':12}{row['goal']!s:>9}"
    ours, bare, goal = row["ours_ms"], row.get("bare_ms"), row.get("goal")
    words = f"{row['what']:62}{ours:>8.1f}ms"
    if bare is None:
        return words + f"{'':10}{'':8}{goal!s:>7}"
    return words + f"{bare:>8.1f}ms{ours / bare:>8.2f}{goal!s:>7}"  # type: ignore[operator]


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
