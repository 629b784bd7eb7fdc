"""Standard sheets after a life in a workshop, and objects cut from photos by themselves."""

from __future__ import annotations

import numpy as np

from benchmarks.photos import photos
from benchmarks.prepare import judged
from benchmarks.timing import fact, report
from benchmarks.wear import WEARS, cases
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import Figure
from dimetron.imaging.medium import medium_of
from dimetron.registration.onsheet.views import sheet_views

#: Sheets of each way of use, and photos of three views each, that nothing was tuned on.
SHEETS, SHEETS_FIRST, PHOTOS, PHOTOS_FIRST = 8, 9000, 16, 500
#: What is cut out is right from here on.
_IOU = 0.90


def used() -> list[dict[str, object]]:
    rows = []
    for how in WEARS:
        views = right = wrong = 0
        for wanted, drawn in cases(how, SHEETS, SHEETS_FIRST):
            split = sheet_views(drawn.picture, wanted.projection)
            sure = {v.view: v.corners for v in split.found if v.sure}
            good, bad = judged(wanted, drawn, sure)
            views, right, wrong = views + len(wanted.views), right + good, wrong + bad
        words = f"{100 * right / views:.0f} %, {100 * wrong / views:.0f} %"
        rows.append(fact(f"{how}: {views} views found, named and sure; wrong", words, "95, 0 %"))
    return rows


def cut_out() -> list[dict[str, object]]:
    by_ground: dict[str, list[float]] = {}
    known = 0
    for number in range(PHOTOS_FIRST, PHOTOS_FIRST + PHOTOS):
        ground, _, views = photos(number)
        for photo in views:
            known += medium_of(photo.picture).kind is Kind.PHOTO
            medium = medium_of(photo.picture, Figure(Kind.PHOTO))
            there, true = medium.cover(photo.picture) > 0.5, photo.mask > 0.5
            shared = (there & true).sum() / (there | true).sum()
            by_ground.setdefault(ground, []).append(float(shared))
    rows = [fact("photos told from drawings", f"{known} of {3 * PHOTOS}", f"{3 * PHOTOS}")]
    for ground, shares in by_ground.items():
        good = 100 * np.mean(np.array(shares) >= _IOU)
        words = f"{good:.0f} %, {np.median(shares):.3f}"
        rows.append(fact(f"cut from {ground}: IoU {_IOU:.2f} or more; median", words, "90 %, 0.97"))
    return rows


def main() -> None:
    report(*used(), *cut_out())


if __name__ == "__main__":
    main()
