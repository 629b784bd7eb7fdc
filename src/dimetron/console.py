"""What the command line says: results to standard output, progress and faults to standard error."""

from __future__ import annotations

import contextlib
import json
import os
import sys
from typing import Any


class Unheard(Exception):
    """Standard output takes nothing; the message says why."""


def say(text: str) -> None:
    """A result, at once: whoever reads it has it all, or it is known that it did not arrive.

    Raises Unheard.
    """
    out = sys.stdout
    if out is None:
        raise Unheard("standard output is closed, so the result cannot be told")
    try:
        encoding = out.encoding or "utf-8"
        # What an output cannot spell stands in it as its code point.
        out.write(text.encode(encoding, "backslashreplace").decode(encoding) + "\n")
        out.flush()
    except BrokenPipeError as error:
        _hush()
        raise Unheard("standard output was closed before the result was read") from error
    except (OSError, ValueError) as error:
        _hush()
        reason = getattr(error, "strerror", None) or str(error)
        raise Unheard(f"the result could not be written: {reason}") from error


def say_json(answer: Any) -> None:
    """A result as JSON, spelled so that any output can carry it. Raises Unheard."""
    encoding = getattr(sys.stdout, "encoding", None) or ""
    plain = encoding.lower().replace("-", "") != "utf8" or _odd(answer)
    say(json.dumps(answer, indent=1, ensure_ascii=plain, allow_nan=False))


def _odd(answer: Any) -> bool:
    """Whether a name in it is no text, as a file name may be."""
    try:
        json.dumps(answer, ensure_ascii=False, allow_nan=False).encode()
    except UnicodeEncodeError:
        return True
    return False


def _hush() -> None:
    """What is still held back is not tried again when the program ends."""
    with contextlib.suppress(OSError, ValueError):
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.stdout.fileno())
        os.close(nowhere)


def progress(words: str) -> None:
    """What is going on, for a person who waits; a script is not told."""
    with contextlib.suppress(OSError, ValueError):
        if sys.stderr is not None and sys.stderr.isatty():
            print(words, file=sys.stderr, flush=True)


def note(words: str) -> None:
    """Something that was left out or is odd, though there is a result."""
    with contextlib.suppress(OSError, ValueError):
        if sys.stderr is not None:
            print(f"dimetron: {' '.join(words.split())}", file=sys.stderr, flush=True)
