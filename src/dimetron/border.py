"""The borders of the program: where other people's files meet other people's libraries.

Whatever a library raises there becomes the program's own error, in one sentence that names the
file; how it came about is logged.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager

_LOG = logging.getLogger(__name__)


@contextmanager
def border(own: type[Exception], name: str, otherwise: str) -> Iterator[None]:
    """Let errors of kind ``own`` pass; all others become one, in the words ``name otherwise``.

    Raises ``own``.
    """
    try:
        yield
    except own:
        raise
    except MemoryError as error:
        raise own(f"{name} needs more memory than there is; close other programs.") from error
    except Exception as error:
        _LOG.warning("%s: %s", name, error, exc_info=True)
        raise own(f"{name} {otherwise}") from error
