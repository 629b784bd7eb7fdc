"""The finished can against the shape its drawings were made from."""

from __future__ import annotations

import pytest
import shapely

from dimetron.demo import can, modelled
from dimetron.demo.project import project
from dimetron.geometry.views import View
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.smooth_surface import exported
from tests.mesh.truth import sound


def outer(mesh: Mesh, view: View) -> shapely.LinearRing:
    whole = shapely.union_all([shapely.Polygon(p).buffer(0) for p in outline_of(mesh, view)])
    largest = max(getattr(whole, "geoms", [whole]), key=lambda part: part.area)
    return shapely.LinearRing(largest.exterior.coords)


@pytest.mark.parametrize("view", [View.FRONT, View.RIGHT, View.TOP])
def test_its_outline_lies_within_two_per_cent_everywhere(view: View) -> None:
    smooth = joined([exported(mesh, 2) for mesh in modelled.parts().values()])
    miss = shapely.hausdorff_distance(outer(smooth, view), outer(can.solid(), view), densify=0.02)
    assert miss < 0.02 * can.LENGTH_MM


def test_its_cages_are_sound_and_of_quads() -> None:
    for name, mesh in modelled.parts().items():
        assert sound(mesh).volume_mm3 > 0, name
        assert (mesh.topology.sizes == 4).all(), name


def test_the_demo_shows_its_smooth_surfaces_over_the_drawings() -> None:
    doc = project("modelled-can")
    assert [m.name for m in doc.meshes] == ["body", "spout", "handle", "stay"]
    assert all(m.smooth.view == 2 for m in doc.meshes)
    assert len(doc.drawings) == 3
