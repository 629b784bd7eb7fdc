"""Solids to draw sheets of, besides the demo's props."""

from __future__ import annotations

from functools import cache

import manifold3d
import numpy as np

from dimetron.demo import can, clock, odo
from dimetron.demo.solids import as_mesh, smooth_path, tube, turned_body
from dimetron.mesh.mesh import Mesh

_Solid = manifold3d.Manifold


@cache
def jug() -> Mesh:
    body = turned_body(
        [(0, 0), (48, 0), (62, 30), (58, 80), (36, 120), (40, 150), (37, 150), (33, 122), (0, 100)]
    )
    handle = tube(
        smooth_path([(0, 38, 140), (0, 78, 130), (0, 92, 90), (0, 60, 50)], 40), 7.0, 24, 1.3
    )
    spout = tube(smooth_path([(0, -34, 132), (0, -46, 146), (0, -62, 152)], 12), 12.0, 24)
    return as_mesh(body + handle + spout)


@cache
def bracket() -> Mesh:
    plate = _Solid.cube((120.0, 80.0, 14.0)) + _Solid.cube((120.0, 14.0, 90.0))
    rib = _Solid.extrude(manifold3d.CrossSection([np.array([[0, 0], [60, 0], [0, 66]])]), 12.0)
    plate += rib.rotate((90, 0, 90)).translate((54.0, 12.0, 12.0))
    for x in (25.0, 95.0):
        plate -= _Solid.cylinder(30.0, 9.0, 9.0, 40).translate((x, 55.0, -5.0))
        plate -= _Solid.cylinder(30.0, 11.0, 11.0, 40).rotate((90, 0, 0)).translate((x, 20, 62.0))
    return as_mesh(plate)


@cache
def cottage() -> Mesh:
    walls = _Solid.cube((160.0, 110.0, 80.0))
    gable = manifold3d.CrossSection([np.array([[-10.0, 74], [120, 74], [55, 140]])])
    roof = _Solid.extrude(gable, 180.0).rotate((90, 0, 90)).translate((-10.0, 0.0, 0.0))
    chimney = _Solid.cube((18.0, 18.0, 60.0)).translate((112.0, 30.0, 92.0))
    door = _Solid.cube((26.0, 8.0, 52.0)).translate((66.0, -4.0, 0.0))
    windows = _Solid.cube((28.0, 8.0, 26.0)).translate((18.0, -4.0, 34.0)) + _Solid.cube(
        (28.0, 8.0, 26.0)
    ).translate((114.0, -4.0, 34.0))
    return as_mesh(walls + roof + chimney - door - windows)


@cache
def boat() -> Mesh:
    path = smooth_path([(0, -150, 42), (0, -110, 34), (0, 0, 28), (0, 100, 32), (0, 128, 34)], 40)
    wide = np.interp(np.linspace(0, 1, 40), [0, 0.25, 0.6, 1], [3, 26, 31, 22])
    hull = tube(path, wide, 40, 1.5) - _Solid.cube((200.0, 400.0, 60.0), True).translate((0, 0, 70))
    cabin = _Solid.cube((46.0, 70.0, 34.0), True).translate((0.0, 40.0, 50.0))
    mast = _Solid.cylinder(120.0, 3.5, 2.5, 24).translate((0.0, -30.0, 38.0))
    return as_mesh(hull + cabin + mast)


OBJECTS = (can.solid, odo.solid, clock.solid, jug, bracket, cottage, boat)
