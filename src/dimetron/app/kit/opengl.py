"""Whether this machine can draw the board at all, asked before a board is made."""

from __future__ import annotations

from PySide6.QtGui import QOffscreenSurface, QOpenGLContext, QSurfaceFormat

NEEDED = (3, 3)
_ADVICE = "install or update the graphics driver (Mesa’s software driver will do)"
UNKNOWN = f"The board needs OpenGL 3.3 and it could not be started; {_ADVICE}."


def wanted_format() -> QSurfaceFormat:
    """OpenGL 3.3 core; the board smooths its own framebuffer."""
    wanted = QSurfaceFormat()
    wanted.setVersion(3, 3)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(0)
    wanted.setSwapInterval(0)
    return wanted


def opengl_problem() -> str:
    """A sentence on what is missing, or an empty one."""
    context = QOpenGLContext()
    context.setFormat(wanted_format())
    if not context.create():
        return f"The board needs OpenGL 3.3 and this machine offers none; {_ADVICE}."
    surface = QOffscreenSurface()
    surface.setFormat(context.format())
    surface.create()
    if not context.makeCurrent(surface):
        return UNKNOWN
    have = context.format().version()
    context.doneCurrent()
    if tuple(have) < NEEDED:
        return f"The board needs OpenGL 3.3 and this machine offers {have[0]}.{have[1]}; {_ADVICE}."
    return ""
