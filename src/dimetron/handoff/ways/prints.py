"""Prints: views at true scale on paper, tiled over pages."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.formats.filenames import free_file, plain_stem
from dimetron.formats.handover import exported_mesh
from dimetron.formats.outlined import views_of
from dimetron.formats.paper.pages import PAPERS, Page, Paper, pages
from dimetron.formats.paper.seen import seen_view
from dimetron.formats.paper.svg import svg_of
from dimetron.handoff.views import ALL, VIEWS, view_key
from dimetron.handoff.way import Given, Way
from dimetron.mesh.parameters import choice, length, number, switch
from dimetron.mesh.seen_lines import Together

_PAPERS = tuple((name, name.upper() if len(name) < 3 else name.capitalize()) for name in PAPERS)
_LYING = {"fewer": None, "upright": False, "lying": True}


@dataclass(frozen=True)
class PrintOptions:
    """How views are printed."""

    kind: str = choice("pdf", (("pdf", "PDF"), ("svg", "SVG, a file a page")), title="format")
    view: str = choice(ALL, VIEWS, title="views")
    scale: float = number(
        1.0, low=0.001, high=1000.0, title="scale 1 :",
        hint="2 prints it half as large, 0.5 twice as large",
    )  # fmt: skip
    paper: str = choice("a4", _PAPERS)
    lying: str = choice(
        "fewer",
        (("fewer", "either"), ("upright", "upright"), ("lying", "lying")),
        title="paper lies",
    )
    margin: float = length(10.0, low=0.0, high=100.0, hint="What a printer leaves free all round")
    overlap: float = length(
        10.0, low=0.0, high=100.0, hint="What neighbouring pages both show, to join them"
    )
    drawings: bool = switch(True, title="drawings")
    lines: bool = switch(True, title="lines of the meshes")
    outlines: bool = switch(False, title="traced outlines")


def laid_out(given: Given, how: PrintOptions) -> dict[str, list[Page]]:
    """The pages of each view, by its title. Raises ExportError, MeshError, PictureError."""
    doc = given.doc
    paper = Paper(how.paper, 1 / how.scale, how.margin, how.overlap, _LYING[how.lying])
    meshes = Together(
        [exported_mesh(item) for item in doc.meshes if how.lines and doc.visible(item)]
    )
    found = {}
    views = views_of(doc, view_key(how.view))
    for count, view in enumerate(views):
        given.progress(count / len(views))
        seen = seen_view(doc, view, meshes, how.drawings, how.outlines)
        if seen.box is not None or len(views) == 1:
            found[seen.title] = pages(seen, paper)
    return found


def write(given: Given, how: PrintOptions) -> dict[str, bytes]:
    """See ``Way.write``. Raises ExportError, MeshError, PictureError."""
    from dimetron.formats.paper.pdf import pdf_of  # only a PDF needs it

    found = laid_out(given, how)
    if how.kind == "pdf":
        every = [page for some in found.values() for page in some]
        return {f"{given.stem}.pdf": pdf_of(every, given.stem)}
    files: dict[str, bytes] = {}
    for title, some in found.items():
        stem = plain_stem(title.lower(), "view")
        for at, page in enumerate(some, 1):
            files[free_file(f"{stem}-{at:03}", ".svg", files)] = svg_of(page)
    return files


WAY = Way(
    "prints",
    "Prints",
    "Prints…",
    "Views at true scale on paper, over as many pages as they take, with marks to join them",
    40,
    PrintOptions,
    lambda how: ".pdf" if how.kind == "pdf" else "",
    write,
)
