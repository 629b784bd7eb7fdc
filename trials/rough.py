"""``./run rough [SECONDS] [SEED]``: a random walk of the real window.

Every fifty steps the project is saved and loaded, and undone to its first step and done again; it
must be the equal document each time. Whatever is raised anywhere, and a step that takes too long,
is a finding. It is told with its seed and the shortest list of steps that still brings it about.
"""

from __future__ import annotations

import faulthandler
import json
import os
import random
import subprocess
import sys
import tempfile
import time
import traceback
from dataclasses import replace
from pathlib import Path
from typing import Any

CHECK_EVERY = 50
#: A step, with all that it brings about at once, may take so long.
MOST_S = 20.0
#: Steps of one window; then another is opened.
STEPS = 400
_SHRINK_S = 240.0


class Finding(Exception):
    """Something that must not be."""


def _same(a: Any, b: Any) -> bool:
    """Meshes, and shapes that were kept of them, are the same if all their numbers are."""
    pairs = [(a.meshes, b.meshes), (a.further, b.further)]
    if any(len(own) != len(other) for own, other in pairs):
        return False
    if not all(_same_item(m, n) for own, other in pairs for m, n in zip(own, other, strict=True)):
        return False
    return bool(replace(a, meshes=(), further=()) == replace(b, meshes=(), further=()))


def _same_item(a: Any, b: Any) -> bool:
    import numpy as np

    m, n = getattr(a, "mesh", None), getattr(b, "mesh", None)
    if m is None or n is None:
        return bool(a == b)
    arrays = [
        (m.positions, n.positions),
        (m.topology.corners, n.topology.corners),
        (m.topology.offsets, n.topology.offsets),
    ]
    layers = m.layers.keys() == n.layers.keys() and all(
        np.array_equal(m.layers[name].values, n.layers[name].values) for name in m.layers
    )
    same = all(np.array_equal(one, other) for one, other in arrays)
    return layers and same and bool(replace(a, mesh=m) == replace(b, mesh=m))


def _looked_through(window: Any, folder: Path) -> None:
    from dimetron.document.container import load, save

    session = window.session
    session.cancel()
    doc = session.committed
    save(doc, folder / "looked through.dimetron")
    opened = load(folder / "looked through.dimetron")
    if opened.notes or not _same(opened.document, doc):
        raise Finding(f"what was saved comes back otherwise: {opened.notes}")
    forth = 0
    while session.history.at > 0:
        session.undo()
        forth += 1
    for _ in range(forth):
        session.redo()
    if not _same(session.committed, doc):
        raise Finding("undone to the first step and done again it is another document")


def _patched(window: Any, rough: Any) -> None:
    """What waits for a person is answered by chance."""
    from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog, QMenu, QMessageBox

    from dimetron.document import container

    def named(*_: object, **__: object) -> tuple[str, str]:
        dice = rough.dice
        return (str(rough.any_file()) if dice.random() < 0.6 else "", "")

    def saved(*_: object, **__: object) -> tuple[str, str]:
        name = f"saved {rough.dice.randrange(3)}.dimetron"
        return (str(rough.files / name) if rough.dice.random() < 0.6 else "", "")

    def clicked(box: QMessageBox) -> int:
        rough.dice.choice(box.buttons()).click()
        return 0

    QFileDialog.getOpenFileName = staticmethod(named)  # type: ignore[assignment]
    QFileDialog.getOpenFileNames = staticmethod(  # type: ignore[assignment]
        lambda *_: ([str(rough.any_file())], "")
    )
    QFileDialog.getSaveFileName = staticmethod(saved)  # type: ignore[assignment]
    QFileDialog.getExistingDirectory = staticmethod(  # type: ignore[assignment]
        lambda *_: str(rough.files)
    )
    QMessageBox.exec = clicked  # type: ignore[assignment]
    QDialog.exec = lambda *_: 0  # type: ignore[assignment]
    QMenu.exec = lambda *_: None  # type: ignore[assignment]
    QInputDialog.getText = staticmethod(  # type: ignore[assignment]
        lambda *_, **__: ("a look", rough.dice.random() < 0.7)
    )
    real = container.save

    def slow(*given: Any, **more: Any) -> Any:
        time.sleep(rough.delay_s)
        return real(*given, **more)

    container.save = slow  # type: ignore[assignment]


def walk(seeds: list[int], folder: Path) -> list[str]:
    """The steps of these seeds at a new window; returns what was done. Raises Finding."""
    from PySide6.QtTest import QTest

    from dimetron.app.shell.window import Window
    from dimetron.app.start import application
    from dimetron.app.work.settings import Settings
    from trials.rough_steps import Rough

    raised: list[str] = []

    def hook(kind: Any, error: BaseException, trace: Any) -> None:
        raised.append("".join(traceback.format_exception(kind, error, trace)))

    sys.excepthook = hook
    sys.unraisablehook = lambda told: hook(told.exc_type, told.exc_value, told.exc_traceback)
    application()
    window = Window(Settings())
    window.show()
    QTest.qWaitForWindowExposed(window, 10000)
    files = folder / "files"
    files.mkdir()
    rough = Rough(window, files)
    _patched(window, rough)
    done: list[str] = []
    log = folder / "steps"
    for number, seed in enumerate(seeds, 1):
        faulthandler.dump_traceback_later(MOST_S, exit=True)
        with log.open("a") as out:
            out.write(f"{seed}\n")
        done.append(rough.step(seed))
        if raised:
            raise Finding(f"{done[-1]}:\n{raised[0]}")
        if number % CHECK_EVERY == 0 or number == len(seeds):
            faulthandler.dump_traceback_later(6 * MOST_S, exit=True)
            rough.rest()
            _looked_through(window, folder)
            if raised:
                raise Finding(f"after {done[-1]}:\n{raised[0]}")
    faulthandler.dump_traceback_later(6 * MOST_S, exit=True)
    rough.rest()
    window._leaving = True
    window.close()
    window.deleteLater()
    QTest.qWait(20)
    faulthandler.cancel_dump_traceback_later()
    if raised:
        raise Finding(f"on closing:\n{raised[0]}")
    return done


def _child(seeds: list[int], folder: Path) -> int:
    try:
        walk(seeds, folder)
    except Finding as found:
        print(found, flush=True)
        os._exit(3)
    except BaseException:  # noqa: BLE001 - whatever comes out is what is looked for
        traceback.print_exc(file=sys.stdout)
        sys.stdout.flush()
        os._exit(3)
    os._exit(0)


def _tried(seeds: list[int]) -> tuple[str, int]:
    """What goes wrong with these steps in a process of their own, and after how many."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        env = {**os.environ}
        for kind in ("CONFIG", "STATE", "CACHE"):
            env[f"XDG_{kind}_HOME"] = str(folder / kind.lower())
        done = subprocess.run(
            [sys.executable, "-X", "faulthandler", "-m", "trials.rough", "--child", str(folder)],
            input=json.dumps(seeds).encode(),
            capture_output=True,
            env=env,
        )
        steps = folder / "steps"
        count = len(steps.read_text().split()) if steps.exists() else 0
    if done.returncode == 0:
        return "", count
    words = (done.stdout + done.stderr).decode(errors="replace")
    return words[-6000:] or f"the process ended with {done.returncode}", count


def _last_line(words: str) -> str:
    lines = [line for line in words.splitlines() if line.strip()]
    return lines[-1] if lines else ""


def _shortest(seeds: list[int], words: str) -> list[int]:
    """Fewer steps that end in the same last line: parts left out while that still does."""
    ends = time.monotonic() + _SHRINK_S
    part = max(1, len(seeds) // 2)
    while part and time.monotonic() < ends:
        at = 0
        while at < len(seeds) and time.monotonic() < ends:
            fewer = seeds[:at] + seeds[at + part :]
            again, count = _tried(fewer) if fewer else ("", 0)
            if again and _last_line(again) == _last_line(words):
                seeds = fewer[:count]
            else:
                at += part
        part //= 2
    return seeds


def run(seconds: float, seed: int, shrink: bool = True) -> tuple[int, list[str]]:
    """Walk for so long; returns how many steps were taken, and what was found."""
    ends, total, found = time.monotonic() + seconds, 0, []
    while time.monotonic() < ends:
        dice = random.Random(seed)
        seeds = [dice.randrange(10**9) for _ in range(STEPS)]
        words, count = _tried(seeds)
        total += count
        if words:
            slow = words.startswith("Timeout")
            fewest = _shortest(seeds[:count], words) if shrink and not slow else seeds[:count]
            found.append(f"seed {seed}, steps {fewest}:\n{words}")
            print(found[-1], flush=True)
        seed += 1
    return total, found


def main(arguments: list[str]) -> int:
    """Returns 0 if nothing was found. ``--steps N,N,...`` takes just these steps."""
    if arguments[:1] == ["--child"]:
        return _child(json.load(sys.stdin), Path(arguments[1]))
    if arguments[:1] == ["--steps"]:
        words, _ = _tried([int(n) for n in arguments[1].split(",")])
        print(words or "nothing was found")
        return 1 if words else 0
    seconds = float(arguments[0]) if arguments else 60.0
    seed = int(arguments[1]) if len(arguments) > 1 else random.randrange(10**6) * 1000
    total, found = run(seconds, seed)
    print(f"{total} steps in {seconds:.0f} s from seed {seed}: {len(found)} findings")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
