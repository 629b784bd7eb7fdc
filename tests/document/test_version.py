"""Versions of meshes: kept, returned to, saved, and gone with their mesh."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh, without_item
from dimetron.document.model import Document, with_item
from dimetron.document.serial import from_json, parsed, to_json
from dimetron.document.version import returned, versions_of, with_version
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box


def test_a_version_is_kept_and_returned_to(tmp_path: Path) -> None:
    doc, body = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    doc, first = with_version(doc, body)
    was = doc.mesh(body).mesh
    doc = with_item(doc, body, mesh=by_name("subdivide")(was).mesh)
    doc, _ = with_version(doc, body, "finer")
    assert [v.name for v in versions_of(doc, body)] == ["body, version 1", "finer"]
    save(doc, tmp_path / "p.dimetron")
    again = load(tmp_path / "p.dimetron").document
    back = returned(again, first)
    assert np.array_equal(back.mesh(body).mesh.positions, was.positions)
    assert len(versions_of(back, body)) == 2, "they stay"
    assert not versions_of(without_item(again, body), body)
    with pytest.raises(KeyError):
        returned(without_item(again, body), first)


def test_a_project_of_format_10_has_plain_meshes_and_no_versions() -> None:
    doc, body = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    tree = to_json(doc)
    tree["version"] = 10
    del tree["versions"]
    for key in ("smooth", "colour", "opacity", "guide"):
        del tree["meshes"][0][key]
    mesh = doc.mesh(body).mesh
    read = from_json(parsed(json.dumps(tree).encode(), "old"), {}, {body: mesh}, "old")
    assert read.meshes[0] == doc.meshes[0]
    assert not read.further
