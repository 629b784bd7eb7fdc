"""Making a photo flat: from four corners of a rectangle, or from a circle and its centre."""

from __future__ import annotations

import numpy as np

from dimetron.imaging.flat import Circle, FrameError, Matrix, Points, Rectangle, unbulged
from dimetron.imaging.flat import projected as _projected

#: Corners or points nearer to a line than this share of their spread are as good as on it.
_FLAT = 0.02


def flattened(
    known: Rectangle | Circle, size_px: tuple[int, int], bulge: float = 0.0
) -> tuple[Matrix, float | None]:
    """(3, 3) from unbulged pixels to flat ones, and their size in mm if it is known.

    Flat pixels are about as large as the photo's own. Raises FrameError.
    """
    if isinstance(known, Rectangle):
        return _from_rectangle(known, size_px, bulge)
    return _from_circle(known, size_px, bulge)


def _from_rectangle(
    known: Rectangle, size_px: tuple[int, int], bulge: float
) -> tuple[Matrix, float | None]:
    check_corners(known.corners)
    if not all(np.isfinite(s) and s > 0 for s in known.sides):
        raise FrameError("The sides of the rectangle must be more than zero.")
    corners = unbulged(np.array(known.corners), size_px, bulge)
    lengths = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    w, h = known.sides
    # The longest side keeps its pixels, so that nothing of the photo's detail is lost.
    px_per = max(lengths[0] / w, lengths[2] / w, lengths[1] / h, lengths[3] / h)
    flat = np.array([[0, 0], [w, 0], [w, h], [0, h]]) * px_per
    return homography(corners, flat), (1.0 / px_per if known.measured else None)


def check_corners(corners: Points | tuple[tuple[float, float], ...]) -> None:
    """Raise FrameError unless the four corners go clockwise round a convex area."""
    c = np.array(corners, dtype=np.float64)
    if c.shape != (4, 2) or not np.isfinite(c).all():
        raise FrameError("Four corners are needed.")
    along = np.roll(c, -1, axis=0) - c
    following = np.roll(along, -1, axis=0)
    turns = along[:, 0] * following[:, 1] - along[:, 1] * following[:, 0]
    spread = float(np.ptp(c, axis=0).max()) ** 2
    if spread == 0 or (np.abs(turns) < _FLAT * spread).any():
        raise FrameError("Three of the corners lie in a line; mark the four corners anew.")
    if not (np.all(turns > 0) or np.all(turns < 0)):
        raise FrameError("The corners are crossed; mark them in turn round the rectangle.")
    if turns[0] < 0:
        raise FrameError("Mark the corners clockwise, beginning at the top left.")


def homography(source: Points, target: Points) -> Matrix:
    """(3, 3) through four or more point pairs (n, 2), least squares (direct linear transform)."""
    to_a, to_b = _conditioned(source), _conditioned(target)
    a, b = _projected(to_a, source), _projected(to_b, target)
    one, zero = np.ones(len(a)), np.zeros(len(a))
    x, y, u, v = a[:, 0], a[:, 1], b[:, 0], b[:, 1]
    rows = np.concatenate(
        [
            np.stack([x, y, one, zero, zero, zero, -u * x, -u * y, -u], axis=1),
            np.stack([zero, zero, zero, x, y, one, -v * x, -v * y, -v], axis=1),
        ]
    )
    h = np.linalg.svd(rows)[2][-1].reshape(3, 3)
    matrix = np.linalg.inv(to_b) @ h @ to_a
    return np.asarray(matrix / matrix[2, 2])


def _conditioned(points: Points) -> Matrix:
    """Hartley's normalisation: to the middle, a mean distance of the square root of two."""
    middle = points.mean(axis=0)
    spread = float(np.linalg.norm(points - middle, axis=1).mean()) / np.sqrt(2)
    s = 1.0 / max(spread, 1e-12)
    return np.array([[s, 0, -s * middle[0]], [0, s, -s * middle[1]], [0, 0, 1.0]])


def _from_circle(
    known: Circle, size_px: tuple[int, int], bulge: float
) -> tuple[Matrix, float | None]:
    """The polar of a circle's centre is the plane's horizon; with that gone, an affine map makes
    the conic round (Hartley and Zisserman, Multiple View Geometry, 2nd ed., 2.7 and 8.10)."""
    if len(known.rim) < 5:
        raise FrameError("Mark the circle’s rim at five points or more.")
    rim = unbulged(np.array(known.rim), size_px, bulge)
    centre = unbulged(np.array(known.centre), size_px, bulge)
    to_unit = _conditioned(rim)
    points, middle = _projected(to_unit, rim), _projected(to_unit, centre)
    conic = _conic(points)
    horizon = conic @ np.array([*middle, 1.0])
    if abs(horizon[2]) < 1e-9:
        raise FrameError("The centre lies outside of the circle; mark it anew.")
    level = np.array([[1, 0, 0], [0, 1, 0], horizon / horizon[2]])
    affine = np.linalg.inv(level).T @ conic @ np.linalg.inv(level)
    shape = affine[:2, :2]
    values, axes = np.linalg.eigh(shape if np.trace(shape) > 0 else -shape)
    if values.min() <= 1e-9 * values.max():
        raise FrameError("These points do not lie on a circle seen askew; mark the rim anew.")
    rounding = axes @ np.diag(np.sqrt(values / values.min())) @ axes.T
    flat = np.eye(3)
    flat[:2, :2] = rounding
    matrix = flat @ level @ to_unit
    ring = _projected(matrix, rim)
    radius = float(np.linalg.norm(ring - _projected(matrix, centre), axis=1).mean())
    wanted = float(np.ptp(rim, axis=0).max()) / 2
    scale = np.diag([wanted / radius, wanted / radius, 1.0])
    mm = known.diameter_mm / (2 * wanted) if known.diameter_mm > 0 else None
    return scale @ matrix, mm


def _conic(points: Points) -> Matrix:
    """The conic (3, 3) through five or more points, least squares."""
    x, y = points.T
    rows = np.stack([x * x, x * y, y * y, x, y, np.ones(len(x))], axis=1)
    a, b, c, d, e, f = np.linalg.svd(rows)[2][-1]
    conic = np.array([[a, b / 2, d / 2], [b / 2, c, e / 2], [d / 2, e / 2, f]])
    if np.linalg.det(conic[:2, :2]) <= 1e-12:
        raise FrameError("These points do not lie on a circle seen askew; mark the rim anew.")
    return conic


def bulge_from_lines(lines: list[Points], size_px: tuple[int, int]) -> float:
    """The bulge that makes marked lines straight: each (n, 2) with three points or more.

    Least squares of the points' distances from their own straight line. Raises FrameError.
    """
    from scipy.optimize import minimize_scalar

    if not any(len(line) >= 3 for line in lines):
        raise FrameError("Mark three points or more along something straight.")

    def bent(k: float) -> float:
        total = 0.0
        for line in lines:
            p = unbulged(line, size_px, k)
            away = p - p.mean(axis=0)
            # Over the length, or shrinking everything would look straight.
            values = np.linalg.svd(away, compute_uv=False)
            total += float(values[1] ** 2 / max(values[0] ** 2, 1e-12))
        return total

    return float(minimize_scalar(bent, bounds=(-0.4, 0.4), method="bounded").x)
