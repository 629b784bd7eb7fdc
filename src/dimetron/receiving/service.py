"""The folder that is watched: orders in, answers out."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from dimetron.document.atomic import write_bytes
from dimetron.receiving.receiver import Answer, Finding, Receiver, received

ORDER, ANSWER = ".order.json", ".answer.json"
_LOOK_EVERY_S = 0.1


def order_of(file: str, size_mm: np.ndarray | None) -> bytes:
    """An order for a file of the folder. size_mm (3,): as large as it is meant to be, Z up."""
    size = None if size_mm is None else [round(float(side), 4) for side in size_mm]
    return json.dumps({"file": file, "size_mm": size}).encode()


def watch(folder: Path, receiver: Receiver, ended: Callable[[], bool]) -> None:
    """Answer orders until that is enough."""
    while not ended():
        if not answer_all(folder, receiver):
            time.sleep(_LOOK_EVERY_S)


def answer_all(folder: Path, receiver: Receiver) -> int:
    """Answer the orders of a folder that have no answer yet; how many that were. Raises
    WriteError."""
    done = 0
    for order in sorted(folder.glob(f"*{ORDER}")):
        answer = order.with_name(order.name.removesuffix(ORDER) + ANSWER)
        if not answer.exists():
            told = _answered(order, receiver).told()
            write_bytes(answer, json.dumps(told, ensure_ascii=False).encode())
            done += 1
    return done


def _answered(order: Path, receiver: Receiver) -> Answer:
    try:
        asked = json.loads(order.read_bytes())
        # It names a file of this folder, and no other.
        path = order.with_name(Path(str(asked["file"])).name)
        size = asked.get("size_mm")
        wanted = None if size is None else np.array(size, np.float64).reshape(3)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        words = f"{order.name} cannot be read; hand it over again"
        return Answer(receiver.name, order.name, (Finding("order", False, words),))
    return received(receiver, path, wanted)
