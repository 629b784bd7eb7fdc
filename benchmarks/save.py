"""Saving a project with 50 MB of pictures, against a plain synced write of the same bytes."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from benchmarks.timing import in_turn, report, row
from dimetron.document import edits
from dimetron.document.container import save
from dimetron.document.model import Document, source_from
from dimetron.geometry.views import View


def main() -> None:
    doc = Document()
    pictures = [os.urandom(10 << 20) for _ in range(5)]
    for number, data in enumerate(pictures):
        source = source_from(data, f"{number}.jpg", "jpg", (4000, 3000))
        doc, _ = edits.with_drawing(doc, source, View.FRONT)
    with tempfile.TemporaryDirectory(dir=Path.cwd()) as folder:
        project, plain = Path(folder) / "a.dimetron", Path(folder) / "plain"

        def bare() -> None:
            with plain.open("wb") as out:
                for data in pictures:
                    out.write(data)
                out.flush()
                os.fsync(out.fileno())

        ours, other = in_turn(lambda: save(doc, project), bare, 9)
    report(row("save a project with 50 MB of pictures", ours, other, "1.3"))


if __name__ == "__main__":
    main()
