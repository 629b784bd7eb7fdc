"""The command line: scripts and pipelines without a window, or the window itself.

Results go to standard output, as JSON with ``--json``; progress to standard error. The exit code
is 0, or 2 with one line on standard error.
"""

from __future__ import annotations

import argparse
import gc
import logging
import os
import re
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn

from dimetron import __version__, console, log
from dimetron.counting import counted

VIEWS = ("front", "back", "left", "right", "top", "bottom", "3d")
MAX_SIDE = 16384
#: What a rendered view can be written as, by the ending of its name.
PICTURES = {
    ".png": "PNG",
    ".jpg": "JPEG",
    ".jpeg": "JPEG",
    ".webp": "WEBP",
    ".tif": "TIFF",
    ".tiff": "TIFF",
    ".bmp": "BMP",
}
COMMANDS = (
    *("demo", "info", "split", "register", "render", "export", "bring", "mesh", "trace"),
    *("block", "check", "package"),
)
UNITS = ("mm", "cm", "m", "in", "ft")
PROJECTIONS = ("third-angle", "first-angle")


class Fault(Exception):
    """What goes to standard error as one line, with exit code 2."""


class _Parser(argparse.ArgumentParser):
    #: Told below the help; worked out only when somebody asks.
    more: Callable[[], str] | None = None

    def format_help(self) -> str:
        return super().format_help() + (self.more() if self.more is not None else "")

    def error(self, message: str) -> NoReturn:
        raise Fault(f"{message}; see “{self.prog} --help”")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="dimetron", description="Measured image planes for modeling.")
    parser.add_argument("--version", action="version", version=f"Dimetron {__version__}")
    commands = parser.add_subparsers(dest="command")
    demo = commands.add_parser("demo", help="open a demo project, or write it as a file")
    demo.add_argument("name", nargs="?")
    demo.add_argument("--write", type=Path, metavar="PROJECT")
    info = commands.add_parser("info", help="what is in a project")
    info.add_argument("project", type=Path)
    info.add_argument("--json", action="store_true")
    split = commands.add_parser("split", help="cut a sheet into its views")
    split.add_argument("sheet", type=Path)
    split.add_argument("--out", type=Path, required=True, metavar="DIR")
    split.add_argument("--projection", choices=PROJECTIONS)
    split.add_argument("--json", action="store_true")
    _register_parser(commands.add_parser("register", help="register drawings by marks"))
    render = commands.add_parser("render", help="draw a view of a project as a picture")
    render.add_argument("project", type=Path)
    render.add_argument("--view", choices=VIEWS, required=True)
    render.add_argument("--size", default="1280x800", type=_size, metavar="WxH")
    render.add_argument("out", type=Path)
    export = commands.add_parser("export", help="export meshes and image planes")
    export.add_argument("project", type=Path)
    export.add_argument("--to", type=Path, required=True, metavar="OUT")
    export.add_argument("--what", default="meshes", help="meshes,planes,outlines,lines")
    export.add_argument("--unit", choices=UNITS, help="if not as the format's standard says")
    export.add_argument("--up", choices=("z", "y"), help="if not as the format's standard says")
    bring = commands.add_parser("bring", help="bring pictures and meshes into a project")
    bring.add_argument("project", type=Path)
    bring.add_argument("file", type=Path, nargs="+")
    bring.add_argument("--out", type=Path, metavar="PROJECT")
    bring.add_argument("--unit", choices=UNITS, help="what the numbers of mesh files are")
    bring.add_argument("--up", choices=("z", "y"), help="the axis that is up in mesh files")
    bring.add_argument("--json", action="store_true")
    mesh = commands.add_parser("mesh", help="read, change and write meshes")
    mesh.more = _operations
    mesh.add_argument("input", type=Path, nargs="+", metavar="IN")
    mesh.add_argument("--out", type=Path, required=True, metavar="OUT")
    mesh.add_argument("--do", action="append", default=[], metavar="OPERATION")
    mesh.add_argument("--unit", choices=UNITS, help="of OUT, if not as its standard says")
    mesh.add_argument("--up", choices=("z", "y"), help="of OUT, if not as its standard says")
    mesh.add_argument("--json", action="store_true")
    _outline_parsers(commands)
    return parser


def _outline_parsers(commands: Any) -> None:
    trace = commands.add_parser("trace", help="a picture's ink as Bézier outlines")
    trace.add_argument("picture", type=Path)
    trace.add_argument("--out", type=Path, required=True, metavar="OUT")
    trace.add_argument(
        "--line",
        choices=("centre", "edge", "auto"),
        default="auto",
        help="the middle of lines, the edge of areas, or each as it is drawn",
    )
    trace.add_argument(
        "--miss", type=float, default=0.5, metavar="PX", help="how far off the ink at most"
    )
    trace.add_argument("--mm-per-px", type=float, metavar="S", help="write mm instead of pixels")
    trace.add_argument("--json", action="store_true")
    block = commands.add_parser("block", help="a solid from the drawings' outlines")
    block.add_argument("project", type=Path)
    block.add_argument("--out", type=Path, required=True, metavar="MESH|PROJECT")
    block.add_argument(
        "--what", choices=("hull", "quads"), default="hull", help="as cut, or as even quads"
    )
    block.add_argument("--json", action="store_true")
    check = commands.add_parser(
        "check", help="how far meshes miss their drawings, and their health"
    )
    check.add_argument("project", type=Path)
    check.add_argument("--json", action="store_true")
    package = commands.add_parser("package", help="everything another program needs, in a folder")
    package.add_argument("project", type=Path)
    package.add_argument("--out", type=Path, required=True, metavar="FOLDER")


def _operations() -> str:
    from dimetron.mesh_command import listed  # only who asks waits for them

    return f"\noperations, done in the order given:\n{listed()}\n"


def _register_parser(register: argparse.ArgumentParser) -> None:
    register.add_argument("project", type=Path, nargs="?")
    register.add_argument("--drawing", action="append", default=[], metavar="VIEW=FILE")
    register.add_argument("--marks", type=Path, metavar="MARKS.csv")
    register.add_argument("--length", action="append", default=[], metavar="A,B=LENGTH")
    register.add_argument("--extent", action="append", default=[], metavar="width=LENGTH")
    register.add_argument("--out", type=Path, metavar="PROJECT")
    register.add_argument("--json", action="store_true")


def _size(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d{1,5})x(\d{1,5})", text)
    if match is None:
        raise argparse.ArgumentTypeError(f"“{text}” is not a size such as 1280x800")
    w, h = int(match[1]), int(match[2])
    if not (1 <= w <= MAX_SIDE and 1 <= h <= MAX_SIDE):
        raise argparse.ArgumentTypeError(f"a side must be 1 to {MAX_SIDE} pixels")
    return w, h


def main(argv: Sequence[str] | None = None, framed: Callable[[], None] | None = None) -> int:
    """Run the command line; returns the exit code. ``framed``: see ``app.start.run``."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    log.begin()
    try:
        if not arguments:
            return _window(None, None, framed)
        if arguments[0] not in COMMANDS and not arguments[0].startswith("-"):
            return _open(arguments)
        return _run(_parser().parse_args(arguments))
    except (Fault, console.Unheard) as fault:
        console.note(str(fault))
        return 2
    except MemoryError:
        console.note("this needs more memory than there is; close other programs, or bring less")
        return 2
    except OSError as error:
        console.note(f"{_file_of(error)}{error.strerror or error}")
        return 2
    except Exception as error:
        logging.getLogger(__name__).exception("not foreseen")
        console.note(
            f"{type(error).__name__}: {error}. This is a fault of Dimetron’s; please report it, "
            f"with {log.log_file()}"
        )
        return 2


def _file_of(error: OSError) -> str:
    return f"{error.filename}: " if error.filename else ""


def _open(arguments: list[str]) -> int:
    path = Path(arguments[0])
    # Not Path.exists, which raises where a folder may not be looked into.
    if not os.path.lexists(path):
        raise Fault(
            f"{arguments[0]}: there is no such project file or command; see “dimetron --help”"
        )
    if len(arguments) > 1:
        raise Fault(f"{arguments[1]}: one window opens one project; give a single file")
    if path.suffix != ".dimetron":
        raise Fault(
            f"{arguments[0]} is no .dimetron project; open the window and drop pictures on it"
        )
    return _window(path, None)


def _window(
    project: Path | None, demo: str | None, framed: Callable[[], None] | None = None
) -> int:
    # What is loaded now stays for good: looking through it for garbage only delays the start.
    gc.disable()
    try:
        from dimetron.app.start import NoDisplay, run
    except ImportError as error:
        raise Fault(
            f"the window cannot be loaded: {error}; install what is missing (on Debian and Ubuntu "
            "./run setup does)"
        ) from error

    gc.freeze()
    gc.enable()
    try:
        return run(project, demo, framed)
    except NoDisplay as error:
        raise Fault(str(error)) from error
    finally:
        # What was kept from the collector is collected at the end, or bindings tell of leaks.
        gc.unfreeze()


def _run(given: argparse.Namespace) -> int:
    from dimetron.demo.shelf import UnknownDemo
    from dimetron.document.atomic import WriteError
    from dimetron.document.serial import ProjectError
    from dimetron.imaging.errors import PictureError

    work = {
        "demo": _demo,
        "info": _info,
        "split": _split,
        "register": _register,
        "render": _render,
        "export": _export,
        "bring": _bring,
        "mesh": _mesh,
        "trace": _trace,
        "block": _block,
        "check": _check,
        "package": _package,
    }[given.command]
    try:
        return work(given)
    except (ProjectError, WriteError, UnknownDemo, PictureError) as error:
        raise Fault(str(error)) from error


def _demo(given: argparse.Namespace) -> int:
    from dimetron.demo import project, shelf
    from dimetron.document.container import save

    name = given.name or project.DEFAULT
    if name not in project.PROPS:
        raise shelf.UnknownDemo(f"There is no demo “{name}”; there is {', '.join(project.PROPS)}.")
    if given.write is None:
        return _window(None, name)
    console.progress("Drawing the demo…")
    save(shelf.project(name), given.write)
    return 0


def _loaded(path: Path) -> Any:
    from dimetron.document.container import load

    opened = load(path)
    for note in opened.notes:
        console.note(f"{path.name}: {note}")
    return opened.document


def _info(given: argparse.Namespace) -> int:
    from dimetron.document.describe import described, in_words

    told = described(_loaded(given.project))
    if given.json:
        console.say_json(told)
    else:
        console.say(in_words(told))
    return 0


def _split(given: argparse.Namespace) -> int:
    from dimetron.document.atomic import write_bytes
    from dimetron.geometry.views import Projection
    from dimetron.imaging.files import file_bytes
    from dimetron.imaging.read import decode
    from dimetron.registration.onsheet.cut import cut_views

    picture = decode(file_bytes(given.sheet), given.sheet.name)
    console.progress(f"Looking for the views on {given.sheet.name}…")
    projection = Projection(given.projection) if given.projection else None
    split, drawings = cut_views(picture.image, projection)
    for left in (v for v in split.found if not v.sure):
        name = f"the {left.view.value} view" if left.view else "a drawing"
        console.note(f"{name} is left out: {left.doubt}")
    if not drawings:
        raise Fault(
            f"{given.sheet}: no views could be told apart on it; split it by hand in the window"
        )
    told = []
    try:
        given.out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Fault(f"{given.out}: this folder cannot be made: {error.strerror}") from error
    for view, drawing in zip(split.views, drawings, strict=True):
        assert view.view is not None
        file = f"{view.view.value}.png"
        write_bytes(given.out / file, drawing)
        told.append(
            {"view": view.view.value, "corners_px": view.corners.round(2).tolist(), "file": file}
        )
    answer = {"straightened_deg": round(split.skew.deg, 4), "views": told}
    if given.json:
        console.say_json(answer)
    else:
        files = (f"{view['view']:8}{given.out / str(view['file'])}" for view in told)
        console.say("\n".join((f"straightened by {split.skew.deg:.2f}°", *files)))
    return 0


def _register(given: argparse.Namespace) -> int:
    from dimetron import register_command
    from dimetron.formats.marks import MarksError
    from dimetron.geometry.lengths import LengthError
    from dimetron.geometry.placement import PlacementError
    from dimetron.registration.problem import RegistrationError

    try:
        return register_command.run(given)
    except (
        register_command.RegisterFault,
        MarksError,
        LengthError,
        PlacementError,
        RegistrationError,
    ) as error:
        raise Fault(str(error)) from error


def _render(given: argparse.Namespace) -> int:
    import io

    from dimetron.document.atomic import write_bytes
    from dimetron.geometry.views import View
    from dimetron.render.headless import NoOpenGL, TooLarge, render_picture

    kind = PICTURES.get(given.out.suffix.lower())
    if kind is None:
        raise Fault(f"{given.out}: choose a name ending in {', '.join(PICTURES)}")
    document = _loaded(given.project)
    view = None if given.view == "3d" else View(given.view)
    try:
        picture = render_picture(document, view, given.size)
    except (NoOpenGL, TooLarge) as error:
        raise Fault(str(error)) from error
    out = io.BytesIO()
    picture.save(out, kind)
    write_bytes(given.out, out.getvalue())
    return 0


def _export(given: argparse.Namespace) -> int:
    from dimetron.formats.export import export
    from dimetron.formats.format import standard
    from dimetron.formats.handover import ExportError

    document = _loaded(given.project)
    unit, up = standard(given.to)
    what = tuple(part.strip() for part in given.what.split(",") if part.strip())
    try:
        export(document, given.to, what=what, unit=given.unit or unit, up=given.up or up)
    except ExportError as error:
        raise Fault(str(error)) from error
    return 0


def _bring(given: argparse.Namespace) -> int:
    from dimetron.document.container import save
    from dimetron.document.model import Document
    from dimetron.formats.bringing import with_files
    from dimetron.formats.format import MeshFileError

    before = _loaded(given.project) if os.path.lexists(given.project) else Document()
    try:
        document, told = with_files(before, given.file, given.unit, given.up)
    except MeshFileError as error:
        raise Fault(str(error)) from error
    save(document, given.out or given.project)
    if given.json:
        console.say_json(told)
        return 0
    for mesh in told["meshes"]:
        size = " × ".join(f"{mm:g}" for mm in mesh["size_mm"])
        faces = counted(mesh["faces"], "face", "faces")
        console.say("\n  ".join((f"{mesh['name']}: {faces}, {size} mm", *mesh["odd"])))
    for sheet in told["sheets"]:
        w, h = sheet["size_px"]
        console.say(f"{sheet['file']}: {w} × {h} px")
    return 0


def _mesh(given: argparse.Namespace) -> int:
    from dimetron import mesh_command
    from dimetron.formats.format import MeshFileError
    from dimetron.formats.handover import ExportError
    from dimetron.mesh.arrays import MeshError

    try:
        return mesh_command.run(given)
    except (mesh_command.MeshFault, ExportError, MeshFileError, MeshError) as error:
        raise Fault(str(error)) from error


def _trace(given: argparse.Namespace) -> int:
    from dimetron import trace_command
    from dimetron.outlines.path import OutlineError

    try:
        return trace_command.run(given)
    except OutlineError as error:
        raise Fault(f"{given.picture}: {_as_clause(str(error))}") from error
    except trace_command.TraceFault as error:
        raise Fault(str(error)) from error


def _as_clause(sentence: str) -> str:
    """A sentence as it goes on after a colon."""
    return sentence[:1].lower() + sentence[1:].rstrip(".")


def _block(given: argparse.Namespace) -> int:
    from dimetron import block_command
    from dimetron.formats.handover import ExportError
    from dimetron.mesh.arrays import MeshError
    from dimetron.outlines.path import OutlineError

    try:
        return block_command.run(given)
    except (OutlineError, MeshError) as error:
        raise Fault(f"{given.project}: {_as_clause(str(error))}") from error
    except ExportError as error:
        raise Fault(str(error)) from error


def _check(given: argparse.Namespace) -> int:
    from dimetron import check_command
    from dimetron.mesh.arrays import MeshError

    try:
        return check_command.run(given)
    except (check_command.CheckFault, MeshError) as error:
        raise Fault(str(error)) from error


def _package(given: argparse.Namespace) -> int:
    from dimetron import package_command
    from dimetron.formats.handover import ExportError
    from dimetron.mesh.arrays import MeshError

    try:
        return package_command.run(given)
    except (ExportError, MeshError) as error:
        raise Fault(str(error)) from error
