"""Names as a project holds them: text that any file and any program can carry."""

from __future__ import annotations

#: Longer names are cut; nobody typed them.
MOST = 200


def plain_name(text: str) -> str:
    """A name without what is no text (bytes of a file name that are no UTF-8), without line feeds
    and other control characters, and not too long."""
    whole = text.encode("utf-8", "replace").decode("utf-8")
    printable = "".join(
        c if c.isprintable() or c == "\N{ZERO WIDTH JOINER}" else " " for c in whole
    )
    return printable.strip()[:MOST]
