"""Whether this machine can draw the board at all, asked before a board is made."""

from __future__ import annotations

from PySide6.QtGui import QOffscreenSurface, QOpenGLContext

from dimetron.app.board.widget import wanted_format

NEEDED = (3, 3)


def opengl_problem() -> str:
    """A sentence on what is missing, or an empty one."""
    context = QOpenGLContext()
    context.setFormat(wanted_format())
    advice = "install or update the graphics driver (Mesa’s software driver will do)"
    if not context.create():
        return f"The board needs OpenGL 3.3 and this machine offers none; {advice}."
    surface = QOffscreenSurface()
    surface.setFormat(context.format())
    surface.create()
    if not context.makeCurrent(surface):
        return f"The board needs OpenGL 3.3 and it could not be started; {advice}."
    have = context.format().version()
    context.doneCurrent()
    if tuple(have) < NEEDED:
        return f"The board needs OpenGL 3.3 and this machine offers {have[0]}.{have[1]}; {advice}."
    return ""
