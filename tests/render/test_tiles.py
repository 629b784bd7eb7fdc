"""Which tiles are uploaded, kept and dropped."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image

from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.render import tiles
from dimetron.render.headless import offscreen
from dimetron.render.tiles import GUTTER, TILE, TileStore

SIZE = (400, 300)
CORNERS = np.array([(-200, 0, 200), (200, 0, 200), (200, 0, -200), (-200, 0, -200)], float)


@pytest.fixture
def store() -> Iterator[TileStore]:
    with offscreen(SIZE) as (renderer, _):
        yield renderer.tiles


def noise(side: int = 4000) -> Pyramid:
    rng = np.random.default_rng(2)
    return build(Image.fromarray(rng.integers(0, 256, (side, side), dtype=np.uint8)))


def draw(store: TileStore, pyramid: Pyramid, mm_per_px: float, at: tuple[float, float]) -> int:
    """Frames until nothing finer is to come."""
    camera = OrthoCamera(View.FRONT, (at[0], 0.0, at[1]), mm_per_px, SIZE)
    ends = tiles.clip_space(CORNERS[None], camera.clip_matrix(np.zeros(3), 1000.0))[0]
    for frame in range(1, 60):
        store.begin_frame()
        store.draw(pyramid, ends, SIZE, 1.0)
        if not store.waiting:
            return frame
    raise AssertionError("tiles never came to an end")


def test_a_small_view_of_a_large_picture_uploads_little(store: TileStore) -> None:
    pyramid = noise()
    draw(store, pyramid, 2.0, (0.0, 0.0))
    # 200 px on the pane: the whole picture would be 16 MB.
    assert store.texture_bytes < 200_000


def test_only_the_part_in_view_is_uploaded_at_full_size(store: TileStore) -> None:
    pyramid = noise()
    draw(store, pyramid, 0.1, (-150.0, 150.0))
    one = (TILE + 2 * GUTTER) ** 2 * 1.25
    assert store.texture_bytes < 8 * one


def test_tiles_stay_for_the_next_frame_and_go_with_their_picture(store: TileStore) -> None:
    pyramid = noise()
    draw(store, pyramid, 0.1, (0.0, 0.0))
    before = store.texture_bytes
    assert draw(store, pyramid, 0.1, (0.0, 0.0)) == 1
    assert store.texture_bytes == before
    store.keep_only([pyramid])
    assert store.texture_bytes == before
    store.keep_only([])
    assert store.texture_bytes == 0


def test_memory_stays_within_its_budget(store: TileStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tiles, "BUDGET_BYTES", 3_000_000)
    pyramid = noise()
    for x in range(-180, 181, 40):
        draw(store, pyramid, 0.1, (float(x), 0.0))
        assert store.texture_bytes < 3_000_000 + 400_000


def test_a_large_picture_comes_coarse_first(
    store: TileStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tiles, "UPLOAD_BYTES", 300_000)
    assert draw(store, noise(), 0.1, (0.0, 0.0)) > 1
