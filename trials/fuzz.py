"""``./run fuzz [SECONDS] [SEED]``: damaged files through every reader.

Each must give its result or the reader's own refusal, within limits of time and memory. A child
process does the reading, so that a crash is found too; what broke a reader is added to the corpus,
which every later run, and the tests, begin with.
"""

from __future__ import annotations

import hashlib
import json
import random
import resource
import signal
import subprocess
import sys
import time
import traceback
from pathlib import Path

from trials.readers import READERS, Reader

CORPUS = Path(__file__).parent / "corpus"
#: One input may take so long, and the reading process so much memory.
MOST_S, MOST_BYTES = 20, 6 << 30
#: Drawings are ended by their own limit after a minute; that is no finding.
_OWN_LIMITS = ("svg", "pdf")
_LAST = "last input"


def kept(reader: Reader) -> list[bytes]:
    """What broke a reader once."""
    folder = CORPUS / reader.name
    return [p.read_bytes() for p in sorted(folder.glob("*"))] if folder.is_dir() else []


def fault_of(reader: Reader, data: bytes) -> str:
    """Why it is a fault what a reader makes of the bytes; empty if it is none."""
    try:
        reader.read(data)
    except reader.refusal as error:
        words = str(error)
        return "" if words and "\n" not in words else f"refused in these words: {words!r}"
    except BaseException:  # noqa: BLE001 - whatever else comes out is what is looked for
        return traceback.format_exc()
    return ""


def _child(seconds: float, seed: int, folder: Path) -> None:
    """Reads until the time is over or something breaks; the input at hand lies in ``folder``."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    rng = random.Random(seed)
    pool = {r.name: [*r.seeds(), *kept(r)] for r in READERS}
    names = [r for r in READERS for _ in range(r.weight)]
    ends, count = time.monotonic() + seconds, 0
    while time.monotonic() < ends:
        reader = rng.choice(names)
        seed_, other = rng.choice(pool[reader.name]), rng.choice(pool[reader.name])
        data = reader.damage(seed_, rng, other)
        (folder / _LAST).write_bytes(data)
        (folder / "reader").write_text(reader.name)
        signal.alarm(70 if reader.name in _OWN_LIMITS else MOST_S)
        fault = fault_of(reader, data)
        signal.alarm(0)
        count += 1
        if fault:
            (folder / "fault").write_text(fault)
            break
    (folder / "count").write_text(str(count))


def _keep(name: str, data: bytes) -> Path:
    folder = CORPUS / name
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / hashlib.sha256(data).hexdigest()[:16]
    path.write_bytes(data)
    return path


def run(seconds: float, seed: int, scratch: Path, keep: bool = True) -> tuple[int, list[str]]:
    """Read for so long; returns how many inputs were read, and what was found."""
    ends, total, found = time.monotonic() + seconds, 0, []
    while (left := ends - time.monotonic()) > 0:
        folder = scratch / str(seed)
        folder.mkdir(parents=True)
        request = json.dumps([min(left, 300.0), seed, str(folder)])
        done = subprocess.run(
            [sys.executable, "-m", "trials.fuzz", "--child", request], capture_output=True
        )
        fault = folder / "fault"
        count = folder / "count"
        total += int(count.read_text()) if count.exists() else 0
        if fault.exists() or done.returncode:
            words = fault.read_text() if fault.exists() else _ended(done)
            name = (folder / "reader").read_text()
            data = (folder / _LAST).read_bytes()
            where = _keep(name, data) if keep else folder / _LAST
            found.append(f"{name}, seed {seed}, {where}:\n{words}")
            print(found[-1], flush=True)
        seed += 1
    return total, found


def _ended(done: subprocess.CompletedProcess[bytes]) -> str:
    how = f"the process ended with {done.returncode}"
    if done.returncode == -signal.SIGALRM:
        how = "it took too long"
    return f"{how}\n{done.stderr.decode(errors='replace')[-2000:]}"


def main(arguments: list[str]) -> int:
    """Returns 0 if nothing was found."""
    if arguments[:1] == ["--child"]:
        seconds, seed, folder = json.loads(arguments[1])
        _child(seconds, seed, Path(folder))
        return 0
    import tempfile

    seconds = float(arguments[0]) if arguments else 60.0
    seed = int(arguments[1]) if len(arguments) > 1 else random.randrange(10**6) * 1000
    with tempfile.TemporaryDirectory() as scratch:
        total, found = run(seconds, seed, Path(scratch))
    print(f"{total} inputs read in {seconds:.0f} s from seed {seed}: {len(found)} findings")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
