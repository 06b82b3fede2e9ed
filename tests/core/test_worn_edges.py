"""Masks by edges and crevices, rendered: in metres, on fillets, folds and balls, broken up, and of too many edges."""

import numpy as np
import pytest

from lantern.assets.mesh import Mesh, flat_shaded
from lantern.compile import edge_rows
from lantern.compile.compiled import CompiledScene
from lantern.compile.edge_rows import EdgeRows, WantedEdges
from lantern.scene.document import Part
from lantern.scene.forms import BoxForm
from lantern.scene.sources import CrevicesSource, EdgesSource
from lantern.shaping.edges import edge_grid, mesh_edges, thinned
from lantern.shaping.forms import form_mesh
from tests.core.shapes import box_mesh, sphere_mesh
from tests.core.test_inputs import CAMERA, SIDE, means
from tests.core.test_layers import BLACK, OTHERS, RED, WHITE, alone, laid, near


def profile(mesh, source, width, camera=CAMERA, **fields):
    """How white a row of pixels through the middle of the picture is."""
    scene, asset = laid(BLACK, WHITE, mesh, mask=near(source, width=width))
    parts = {"part": scene.parts["part"].model_copy(update=fields)}
    scene = scene.model_copy(update={"camera": camera, "parts": parts})
    return means(scene, asset, 64).albedo[SIDE // 2, 2:-2, 0]


def smooth(t):
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


@pytest.mark.parametrize("unit", [0.001, 1.0, 300.0])
def test_an_edge_is_worn_as_far_as_its_width_says(unit):
    """In metres of the scene, whatever the unit of the mesh; the border rises smoothly from there to the edge."""
    half = 0.4 / unit
    mesh = box_mesh((-half,) * 3, (half,) * 3)
    row = profile(mesh, EdgesSource, 0.1, size=unit)
    across = ((np.arange(SIDE) + 0.5) / SIDE - 0.5)[2:-2]
    inside = np.abs(across) < 0.38
    wanted = smooth(1 - (0.4 - np.abs(across)) / 0.1)
    assert row[inside] == pytest.approx(wanted[inside], abs=0.04)
    assert profile(mesh, CrevicesSource, 0.1, size=unit)[inside].max() < 0.01


@pytest.mark.parametrize("edge", [0.0, 0.004])
def test_a_fillet_is_worn_as_the_edge_that_it_rounds(edge):
    """A block with rounded edges, narrow beside the width: the faces next to it are worn as well."""
    form = BoxForm(width=0.8, height=0.8, depth=0.8, edge=edge)
    scene, asset = laid(BLACK, WHITE, mask=near(EdgesSource, width=0.1))
    part = Part(name="Block", form=form, material="m", offset=(0.0, -0.4, 0.0))
    row = means(scene.model_copy(update={"parts": {"part": part}}), asset, 64).albedo[SIDE // 2, 2:-2, 0]
    across = np.abs(((np.arange(SIDE) + 0.5) / SIDE - 0.5)[2:-2])
    inside = across < 0.38
    assert row[inside] == pytest.approx(smooth(1 - (0.4 - across) / 0.1)[inside], abs=0.08)


def test_of_edges_side_by_side_one_is_kept_and_the_nearest_is_as_near():
    mesh = form_mesh(BoxForm(width=0.5, height=0.3, depth=0.2, edge=0.01))
    every, reach = mesh_edges(mesh).chosen(0.05), 0.05
    some = thinned(every, reach)
    assert len(some) < 0.2 * len(every) and (every[:, 18] > 0).all()

    def nearest(edges, place):
        begin, along = edges[:, :3], edges[:, 3:6] - edges[:, :3]
        share = np.einsum("ei,ei->e", place - begin, along) / np.maximum(np.einsum("ei,ei->e", along, along), 1e-30)
        away = place - begin - along * np.clip(share, 0, 1)[:, None]
        return np.linalg.norm(away, axis=1).min()

    for place in mesh.positions[:: len(mesh.positions) // 200].astype(float):
        true = nearest(every, place)
        assert 0 <= nearest(some, place) - true < 0.25 * reach or true > reach


def test_too_many_edges_are_said_and_the_rest_is_shown(monkeypatch):
    """A relief of a million ridges would have the picture stand still."""
    scene, asset = laid(RED, OTHERS["brass"], box_mesh((-0.4,) * 3, (0.4,) * 3), mask=near(EdgesSource, width=0.1))
    plain = means(*alone(RED, box_mesh((-0.4,) * 3, (0.4,) * 3))).albedo
    monkeypatch.setattr("lantern.compile.edge_rows.MOST_EDGES", 11)
    compiled = CompiledScene(scene, asset, None)
    assert compiled.problems == ["Part: its edges are not looked for, because it has 12 of them, and 11 are the most"]
    assert np.abs(means(scene, asset).albedo - plain).max() < 1e-3
    assert compiled.update(scene.model_copy(update={"camera": scene.camera})) and len(compiled.problems) == 1


def angle_mesh():
    """Two square metres that meet at a right angle like an open book: seen along -Z, the fold is at x = 0."""
    left = np.array([[-0.5, -0.5, 0.5], [0, -0.5, 0], [0, 0.5, 0], [-0.5, 0.5, 0.5]])
    right = left[::-1] * np.array([-1, 1, 1])
    points = np.concatenate([left, right])
    faces = np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]])
    return Mesh(*flat_shaded(points.astype(np.float32), faces.astype(np.uint32))[:3], None, None)


@pytest.mark.parametrize("turned", [False, True])
def test_a_fold_is_a_crevice_from_inside_and_an_edge_from_outside(turned):
    """What leads inwards is told from what sticks out; turning the faces round exchanges them."""
    mesh = angle_mesh()
    inwards, outwards = (profile(mesh, s, 0.2, inside_out=turned).max() for s in (CrevicesSource, EdgesSource))
    if turned:
        inwards, outwards = outwards, inwards
    assert inwards > 0.9 and outwards < 0.01


def test_what_is_round_is_near_an_edge_as_its_curvature_asks():
    """Of a ball, the width over its radius; inside out it is a hollow."""
    ball = sphere_mesh(0.4, 96)
    for source, turned, wanted in ((EdgesSource, False, smooth(0.5)), (CrevicesSource, False, 0.0)):
        row = profile(ball, source, 0.2, inside_out=turned)
        assert row[SIDE // 2 - 8 : SIDE // 2 + 8] == pytest.approx(wanted, abs=0.03)


def test_a_grain_breaks_up_the_border_and_another_seed_elsewhere():
    mesh, found = box_mesh((-0.4,) * 3, (0.4,) * 3), []
    for seed in (1, 2):
        mask = near(EdgesSource, width=0.15, contrast=0.9, breakup=0.8, grain=0.06, seed=seed)
        found.append(means(*laid(BLACK, WHITE, mesh, mask=mask), 64).albedo[8:-8, 8:-8, 0])
    band = found[0][4:-4, 1:6]
    assert 0.15 < band.mean() < 0.95 and band.std() > 0.2
    assert np.abs(found[0] - found[1]).mean() > 0.02
    assert found[0][20:-20, 20:-20].max() < 0.01, "nothing beyond the width"


def test_to_go_back_to_a_material_makes_no_grid_anew(monkeypatch):
    """Two variants, one of them with worn edges, are switched by its rows as they were; they fill no memory."""
    mesh = box_mesh((-0.5,) * 3, (0.5,) * 3)
    part, pose = Part(name="Box", material="worn"), np.eye(3, 4)
    worn = [WantedEdges(0, part, mesh, pose, 0.1, rounds=False)]
    other = [WantedEdges(0, part, mesh, pose, 0.05, rounds=True)]
    made = []
    monkeypatch.setattr(edge_rows, "edge_grid", lambda *args: made.append(args) or edge_grid(*args))
    rows = EdgeRows()
    assert rows.bring(worn) == [0]
    first = rows.rows.copy()
    for asked in (other, worn, [], worn):
        rows.bring(asked)
    assert np.array_equal(rows.rows, first) and len(made) == 2
    monkeypatch.setattr(edge_rows, "KEPT_BYTES", 0)
    rows.bring([])
    rows.bring(worn)
    assert len(made) == 3
