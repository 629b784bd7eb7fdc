"""What is drawn, read back from a framebuffer without a window."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.document.parts import Showing
from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.units import Unit
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.mesh import pick
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.patch import Patch
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.render.headless import offscreen, read_picture, scene_of
from dimetron.render.overlays import Label, Marks, PaneBox, Strokes
from dimetron.render.palette import DAY, NIGHT
from dimetron.render.renderer import Renderer
from dimetron.render.scene import MeshItem, PaneScene, PlaneItem, Shading

SIZE = (400, 300)
FRONT = OrthoCamera(View.FRONT, (0.0, 0.0, 0.0), 1.0, SIZE)


@pytest.fixture(scope="module")
def pen() -> Iterator[tuple[Renderer, object]]:
    with offscreen(SIZE) as made:
        yield made


def drawn(pen: tuple[Renderer, object], scene: PaneScene) -> np.ndarray:
    renderer, target = pen
    target.use()
    while renderer.draw(scene):
        pass
    return np.asarray(read_picture(target)).astype(int)


def scene(camera: object = FRONT, shading: Shading = Shading.SOLID, **parts: object) -> PaneScene:
    return PaneScene(camera, shading, (), (), 2000.0, grid=False, **{"palette": DAY}) if not parts \
        else replace(PaneScene(camera, shading, (), (), 2000.0, grid=False), **parts)  # fmt: skip


def level(colour: tuple[float, ...]) -> np.ndarray:
    return np.rint(np.array(colour[:3]) * 255)


def checker(cells: int = 4, cell: int = 50) -> Pyramid:
    """Black and white fields, black at the top left."""
    i = np.arange(cells * cell) // cell
    return build(Image.fromarray((((i[:, None] + i[None]) % 2) * 255).astype(np.uint8)))


def plane(
    pyramid: Pyramid, low: float = -100, high: float = 100, opacity: float = 1.0
) -> PlaneItem:
    corners = np.array([(low, 50, high), (high, 50, high), (high, 50, low), (low, 50, low)], float)
    return PlaneItem("p", corners, pyramid.size_px, pyramid, opacity)


def test_moved_vertices_are_drawn_as_the_moved_mesh_would_be(pen: object) -> None:
    """Whatever was moved before: some, others, all, none."""
    mesh = by_name("subdivide")(box((-80, -80, -80), (80, 80, 80)), levels=4).mesh
    every = np.arange(len(mesh.positions), dtype=np.int32)
    for number, some in enumerate((every[5:600], every[900:1400:3], every, every[:0], every[7:9])):
        by = np.array([3.0 * number, 0.0, -20.0])
        patch = Patch(some, mesh.positions[some] + by)
        item = MeshItem("ball", mesh, patch=patch)
        other = MeshItem(f"moved {number}", patch.applied(mesh))
        other.mesh.__dict__["triangles"] = mesh.triangles
        ours, moved = (drawn(pen, scene(meshes=(m,))) for m in (item, other))
        # But for what rounding does at edges.
        assert (np.abs(ours - moved).max(axis=2) > 8).mean() < 0.002
    back = drawn(pen, scene(meshes=(MeshItem("ball", mesh),)))
    assert np.array_equal(back, drawn(pen, scene(meshes=(MeshItem("again", mesh),))))
    cube = box((-40, -40, -40), (40, 40, 40))
    for corner in range(8):
        one = Patch(np.array([corner], np.int32), cube.positions[[corner]] * 1.8)
        ours = drawn(pen, scene(meshes=(MeshItem("cube", cube, patch=one),)))
        moved = Mesh(one.applied(cube).positions, cube.topology)
        moved.__dict__["triangles"] = cube.triangles
        other = drawn(pen, scene(meshes=(MeshItem(f"cube {corner}", moved),)))
        assert (np.abs(ours - other).max(axis=2) > 8).mean() < 0.002, corner
    assert patch.bounds.tolist() == [
        patch.positions.min(axis=0).tolist(),
        patch.positions.max(axis=0).tolist(),
    ]


def test_a_picture_lies_upright_and_to_the_pixel(pen: object) -> None:
    seen = drawn(pen, scene(planes=(plane(checker()),)))
    # 200 px wide about the middle (200, 150); fields of 50 px.
    assert (seen[55, 105] < 5).all()
    assert (seen[55, 155] > 250).all()
    edge = seen[75, 98:103, 0]
    assert edge[0] == level(DAY.pane)[0]
    assert edge[-1] < 5


def test_fade_mixes_with_the_pane(pen: object) -> None:
    seen = drawn(pen, scene(planes=(plane(checker(), opacity=0.5),)))
    assert np.allclose(seen[55, 105], level(DAY.pane) / 2, atol=2)


def test_picking_agrees_with_the_picture_to_the_pixel(pen: object) -> None:
    mesh = box((-60.3, -10, -40.7), (51.2, 10, 33.1))
    seen = drawn(pen, scene(meshes=(MeshItem("m", mesh),)))
    covered = np.abs(seen - level(DAY.pane)).max(axis=2) > 30
    for y in range(100, 200, 3):
        for x in range(130, 260, 3):
            hit = pick.face_at(mesh, FRONT, (x + 0.5, y + 0.5)) is not None
            near = covered[y - 1 : y + 2, x - 1 : x + 2]
            if near.all() or not near.any():
                assert hit == covered[y, x], (x, y)


def test_a_drawing_never_cuts_the_mesh_in_its_own_view(pen: object) -> None:
    mesh = MeshItem("m", box((-60, -10, -60), (60, 10, 60)))
    for stand in (-500.0, 0.0, 500.0):
        corners = plane(checker()).corners + np.array((0, stand, 0))
        paper = replace(plane(checker()), corners=corners)
        seen = drawn(pen, scene(planes=(paper,), meshes=(mesh,)))
        # White field over the mesh: clay; black field: the drawing's ink still shows.
        black, white = seen[120, 175], seen[120, 225]
        assert np.abs(white - level(DAY.clay)).max() < 60
        assert 20 < black.max() < white.max() - 40


def test_light_lines_on_a_dark_ground_darken_no_mesh(pen: object) -> None:
    """Over a mesh they are ink on it; beside it the drawing is as it came."""
    pixels = np.full((200, 200, 3), (28, 62, 140), np.uint8)
    pixels[40:160:20] = pixels[41:160:20] = (240, 244, 250)
    blue = build(Image.fromarray(pixels))
    assert blue.medium.light
    mesh = MeshItem("body", box((-40, -40, -40), (40, 40, 40)))
    see = Shading.SEE_THROUGH
    alone = drawn(pen, scene(shading=see, meshes=(mesh,)))
    both = drawn(pen, scene(shading=see, planes=(plane(blue),), meshes=(mesh,)))
    ground, line, inside = 160, 150, 200
    assert np.abs(both[ground, inside] - alone[ground, inside]).max() <= 30
    assert both[line, inside].sum() < both[ground, inside].sum() - 90
    assert both[ground, 110] == pytest.approx((28, 62, 140), abs=3)
    assert both[line, 110] == pytest.approx((240, 244, 250), abs=3)
    tinted = replace(plane(blue), showing=Showing(tint=(178, 62, 96)))
    red = drawn(pen, scene(planes=(tinted,)))
    assert red[line, 110] == pytest.approx((178, 62, 96), abs=12)
    assert red[ground, 110] == pytest.approx((255, 255, 255), abs=3)


def test_ink_alone_leaves_the_ground_away(pen: object) -> None:
    """Light lines on a dark ground stand on the board as ink; so do areas in their own colours."""
    pixels = np.full((200, 200, 3), (28, 62, 140), np.uint8)
    pixels[40:160:20] = pixels[41:160:20] = (240, 244, 250)
    lines = replace(plane(build(Image.fromarray(pixels))), showing=Showing(ink_alone=True))
    seen = drawn(pen, scene(planes=(lines,)))
    assert seen[160, 110] == pytest.approx(level(DAY.pane), abs=3)
    assert seen[150, 110] == pytest.approx(level(DAY.ink), abs=12)
    rose = replace(lines, showing=Showing(ink_alone=True, tint=(178, 62, 96)))
    assert drawn(pen, scene(planes=(rose,)))[150, 110] == pytest.approx((178, 62, 96), abs=12)
    for mode in ("RGB", "L", "RGBA"):
        pixels = np.full((200, 200, 3), 40, np.uint8)
        pixels[60:140, 40:160] = 210
        picture = Image.fromarray(pixels)
        if mode == "RGBA":
            picture.putalpha(picture.convert("L").point(lambda v: 255 * (v > 100)))
        area = plane(build(picture.convert(mode)))
        assert area.pyramid is not None and area.pyramid.medium.kind.areas
        alone = drawn(pen, scene(planes=(replace(area, showing=Showing(ink_alone=True)),)))
        assert alone[60, 110] == pytest.approx(level(DAY.pane), abs=3)
        assert alone[150, 200] == pytest.approx((210, 210, 210), abs=3)
        whole = drawn(pen, scene(planes=(area,)))
        ground = level(DAY.pane) if mode == "RGBA" else (40, 40, 40)
        assert whole[60, 110] == pytest.approx(ground, abs=3)


def test_the_ground_of_areas_darkens_no_mesh(pen: object) -> None:
    pixels = np.full((200, 200, 3), (24, 26, 30), np.uint8)
    pixels[60:140, 60:140] = (200, 120, 80)
    area = plane(build(Image.fromarray(pixels)))
    mesh = MeshItem("body", box((-60, -40, -60), (60, 40, 60)))
    parts = {"shading": Shading.SEE_THROUGH, "meshes": (mesh,)}
    bare, both = drawn(pen, scene(**parts)), drawn(pen, scene(planes=(area,), **parts))
    # Beside what is drawn, and on it.
    assert both[100, 200].min() > bare[100, 200].min() - 40
    assert both[150, 200].sum() < bare[150, 200].sum() - 60


def test_see_through_keeps_the_drawing_at_full_strength(pen: object) -> None:
    mesh = MeshItem("m", box((-60, -10, -60), (60, 10, 60)))
    parts = {"planes": (plane(checker()),), "meshes": (mesh,)}
    seen = drawn(pen, scene(shading=Shading.SEE_THROUGH, **parts))
    assert seen[120, 175].max() < 12
    wire = drawn(pen, scene(shading=Shading.WIRE, **parts))
    assert wire[120, 225].min() > 250


def test_selection_is_marked(pen: object) -> None:
    mesh = box((-60, -10, -60), (60, 10, 60))
    front_face = int(np.argmin(mesh.face_normals[:, 1]))
    plain = drawn(pen, scene(meshes=(MeshItem("m", mesh, True, Kind.FACE),)))
    chosen = MeshItem("m", mesh, True, Kind.FACE, np.array([front_face], np.int32))
    seen = drawn(pen, scene(meshes=(chosen,)))
    toward_violet = level(DAY.selection) - plain[150, 200]
    assert (seen[150, 200] - plain[150, 200]) @ toward_violet > 1000
    vertex = MeshItem("m", mesh, True, Kind.VERTEX, np.array([1], np.int32))
    dots = drawn(pen, scene(meshes=(vertex,)))
    x, y = np.rint(FRONT.project(mesh.positions[1])).astype(int)
    assert np.allclose(dots[y - 1, x + 1], level(DAY.selection), atol=25)


def test_the_depth_picture_hides_what_lies_behind(pen: object) -> None:
    renderer, _ = pen
    made = scene(meshes=(MeshItem("m", box((-60, -10, -60), (60, 10, 60))),))
    depths = renderer.depth_picture(made)
    assert depths.shape == (300, 400)
    assert depths[5, 5] == pytest.approx(1)
    assert depths[150, 200] == pytest.approx(-10 / 2000, abs=1e-4)


def test_the_grid_carries_real_units(pen: object) -> None:
    plain = drawn(pen, scene())
    for unit in Unit:
        gridded = drawn(pen, replace(scene(), grid=True, unit=unit))
        assert (np.abs(gridded - plain).max(axis=2) > 20).mean() > 0.03
    night = drawn(pen, replace(scene(), palette=NIGHT))
    assert np.allclose(night[150, 200], level(NIGHT.pane), atol=1)


def test_ticks_stand_where_their_numbers_are_true(pen: object) -> None:
    camera = OrthoCamera(View.FRONT, (20.0, 0.0, 10.0), 1.0, SIZE)
    seen = drawn(pen, replace(scene(camera), grid=True)).sum(axis=2)
    for mm in (-100, 100):
        x, y = (int(n) for n in camera.project(np.array((mm, 0.0, 0.0))))
        assert seen[-3, x - 1 : x + 2].min() < seen[-30, x - 1 : x + 2].min() - 60
        x, y = (int(n) for n in camera.project(np.array((0.0, 0.0, mm))))
        assert seen[y - 1 : y + 2, 2].min() < seen[y - 1 : y + 2, 120].min() - 60


def test_a_long_strip_is_the_same_at_both_ends(pen: object) -> None:
    strip = build(Image.fromarray(np.repeat(np.uint8([[0, 255]]), 3000, 1).repeat(100, 0)))
    corners = np.array([(-150, 0, 2), (150, 0, 2), (150, 0, -3), (-150, 0, -3)], float)
    paper = PlaneItem("p", corners, strip.size_px, strip, 1.0)
    camera = OrthoCamera(View.FRONT, (0.0, 0.0, 0.0), 0.05, SIZE)
    seen = drawn(pen, scene(camera, planes=(paper,)))
    assert (seen[150, 5:195] < 5).all()
    assert (seen[150, 205:395] > 250).all()


def test_a_drawing_seen_from_its_edge_is_a_line(pen: object) -> None:
    camera = OrthoCamera(View.TOP, (0.0, 0.0, 0.0), 1.0, SIZE)
    seen = drawn(pen, scene(camera, planes=(plane(checker()),)))
    changed = np.abs(seen - level(DAY.pane)).max(axis=2) > 30
    x, y = (int(n) for n in camera.project(np.array((0.0, 50.0, 0.0))))
    assert changed[y - 1 : y + 1, x - 90 : x + 90].any(axis=0).all()
    assert not changed[: y - 3].any()
    assert not changed[y + 3 :].any()


def test_a_mesh_hides_what_stands_behind_it_in_the_3d_pane(pen: object) -> None:
    camera = OrbitCamera(mm_per_px=1.0, size=SIZE)
    mesh = (MeshItem("m", box((-40, -40, -40), (40, 40, 40))),)
    alone = drawn(pen, scene(camera, meshes=mesh))
    covered = np.abs(alone - level(DAY.pane_deep)).max(axis=2) > 30
    for way, hidden in ((150.0, True), (-150.0, False)):
        paper = plane(checker())
        paper = replace(paper, corners=paper.corners + np.array(camera.forward) * way)
        seen = drawn(pen, scene(camera, planes=(paper,), meshes=mesh))
        changed = np.abs(seen - alone).max(axis=2) > 8
        assert changed[~covered].any()
        assert (changed[covered].mean() < 0.1) == hidden


def test_zooming_to_a_thousandth_keeps_the_picture_steady(pen: object) -> None:
    """An edge of the checker stays at its pixel while the pane shows less and less around it."""
    for mm_per_px in (1.0, 0.1, 0.01, 0.001):
        camera = OrthoCamera(View.FRONT, (50.0, 0.0, 0.0), mm_per_px, SIZE)
        seen = drawn(pen, scene(camera, planes=(plane(checker(4, 500)),)))
        row = seen[100, :, 0]
        darker = np.flatnonzero(np.diff((row < 128).astype(int)))
        nearest = darker[np.argmin(np.abs(darker - 199.5))]
        # Between two texels the change is smooth: within a texel's width on the pane.
        assert abs(nearest - 199.5) <= max(1.0, 0.1 / mm_per_px)


def test_large_pictures_come_in_tile_by_tile_and_end_sharp(pen: object) -> None:
    renderer, target = pen
    big = checker(40, 100)
    camera = OrthoCamera(View.FRONT, (0.0, 0.0, 0.0), 0.06, SIZE)
    made = scene(camera, planes=(plane(big),))
    target.use()
    rounds = 1
    while renderer.draw(made):
        rounds += 1
    assert rounds < 40
    whole = drawn(pen, scene(planes=(plane(big),)))
    assert whole[100:200, 150:250].mean() == pytest.approx(127, abs=8)


def test_overlays_reach_their_panes_only(pen: object) -> None:
    renderer, target = pen
    line = np.array([(-100.0, 0, 0), (100, 0, 0)])
    marks = (
        Strokes(line, only=View.FRONT),
        Strokes(line + np.array((0, 0, 50)), only=View.TOP),
        Marks(line, "cross"),
        Label(line[0], "412 mm"),
        PaneBox("elevation", (10, 10), (60, 60)),
        PaneBox("plan", (300, 200), (390, 290)),
    )
    made = scene()
    plain = drawn(pen, made)
    renderer.draw_overlays(made, "elevation", marks)
    seen = np.asarray(read_picture(target)).astype(int)
    changed = np.abs(seen - plain).max(axis=2) > 8
    assert changed[150, 200]
    assert not changed[100, 200]
    assert changed[30, 30]
    assert not changed[250, 350]


@pytest.mark.parametrize("shading", Shading)
def test_the_3d_pane_shows_mesh_and_planes(
    pen: object, can_project: Document, shading: Shading
) -> None:
    made = scene_of(can_project, None, SIZE, {})
    assert isinstance(made.camera, OrbitCamera)
    for perspective in (False, True):
        camera = replace(made.camera, perspective=perspective)
        seen = drawn(pen, replace(made, camera=camera, shading=shading))
        assert len(np.unique(seen.reshape(-1, 3), axis=0)) > 20


def test_moving_a_vertex_changes_what_is_drawn(pen: object) -> None:
    mesh = box((-60, -10, -60), (60, 10, 60))
    before = drawn(pen, scene(meshes=(MeshItem("same", mesh),)))
    moved = mesh.with_moved(np.array([5, 7], np.int32), mesh.positions[[5, 7]] + [60, 0, 0])
    after = drawn(pen, scene(meshes=(MeshItem("same", moved),)))
    assert np.abs(after[95, 280] - before[95, 280]).max() > 20
    empty, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "x")
    pen[0].keep_only([scene()])
    assert empty.meshes


@pytest.mark.parametrize("side", [200, 1400])
def test_every_pixel_of_a_picture_is_drawn_where_it_lies(pen: object, side: int) -> None:
    """At a pixel of the pane for each of its own, over the seams of its tiles too."""
    rng = np.random.default_rng(4)
    pixels = rng.integers(0, 256, (side, side), dtype=np.uint8)
    pyramid = build(Image.fromarray(pixels))
    for right, up in ((0.0, 0.0), (310.0, -410.0), (-450.0, 390.0)):
        camera = OrthoCamera(View.FRONT, (right, 0.0, up), 1.0, SIZE)
        seen = drawn(pen, scene(camera, planes=(plane(pyramid, -side / 2, side / 2),)))[..., 0]
        left, top = round(side / 2 + right - 200), round(side / 2 - up - 150)
        x0, x1 = max(0, -left), min(400, side - left)
        y0, y1 = max(0, -top), min(300, side - top)
        if x1 > x0 and y1 > y0:
            wanted = pixels[top + y0 : top + y1, left + x0 : left + x1].astype(int)
            # But for the rim, where it is mixed with the pane.
            off = np.abs(seen[y0:y1, x0:x1] - wanted)[2:-2, 2:-2]
            assert off.max() <= 2, (right, up)
