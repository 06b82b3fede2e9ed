"""Edits reach the compiled scene by the cheapest way, and show."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Material
from tests.core.shapes import no_files, one_part


@pytest.fixture
def engine():
    scene, asset = one_part(Material(name="m", base_color=(0.2, 0.2, 0.2)))
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    yield engine
    engine.close()


def picture(engine):
    film = Film(32, 32)
    engine.trace(film, 8)
    return film


def edited(scene, **sections):
    return scene.model_copy(update=sections)


def test_a_colour_changes_one_row(engine):
    before = picture(engine).means().radiance
    counts = engine.compile_counts
    rows = counts.material_rows
    bright = {"m": engine.scene.materials["m"].model_copy(update={"base_color": (0.9, 0.9, 0.9)})}
    change = engine.apply(edited(engine.scene, materials=bright), no_files)
    assert change.restarts and not change.recompiled
    assert (counts.material_rows, counts.mesh_trees, counts.full) == (rows + 1, 1, 1)
    assert picture(engine).means().radiance[16, 16].mean() > before[16, 16].mean() * 2


def test_moving_and_hiding_a_part_rebuilds_no_mesh(engine):
    part = engine.scene.parts["part"]
    away = part.model_copy(update={"matrix": (1, 0, 0, 5, 0, 1, 0, 0, 0, 0, 1, 0)})
    engine.apply(edited(engine.scene, parts={"part": away}), no_files)
    assert (picture(engine).parts() == -1).all()
    engine.apply(edited(engine.scene, parts={"part": part}), no_files)
    assert (picture(engine).parts() == 0).any()
    engine.apply(edited(engine.scene, parts={"part": part.model_copy(update={"visible": False})}), no_files)
    assert (picture(engine).parts() == -1).all()
    assert engine.compile_counts.mesh_trees == 1 and engine.compile_counts.full == 1


def test_exposure_restarts_nothing(engine):
    look = engine.scene.look.model_copy(update={"exposure": 2.0})
    assert not engine.apply(edited(engine.scene, look=look), no_files).restarts


def test_another_name_restarts_nothing_and_is_known(engine):
    scene = engine.scene
    parts = {"part": scene.parts["part"].model_copy(update={"name": "Foot"})}
    materials = {"m": scene.materials["m"].model_copy(update={"name": "Oak"})}
    assert not engine.apply(edited(scene, parts=parts, materials=materials), no_files).restarts
    assert engine.scene.parts["part"].name == "Foot"


def test_a_mirrored_part_keeps_its_outside(engine):
    """A negative scale flips the winding; normals must still point out of the sphere."""
    mirrored = engine.scene.parts["part"].model_copy(update={"matrix": (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)})
    glass = {"m": Material(name="m", transmission_weight=1, specular_roughness=0.2)}
    engine.apply(edited(engine.scene, parts={"part": mirrored}, materials=glass), no_files)
    layers = picture(engine).means()
    assert layers.normal[16, 16] @ np.array([0, 0, 1]) > 0.9
    assert layers.radiance[10:22, 10:22].mean() == pytest.approx(1, abs=0.05)


def test_kernels_do_no_arithmetic_in_double_precision():
    """Numba widens a bare literal to float64; one of them in the pixel loop costs more than it looks."""
    from numba import types

    from lantern.transport.passes import trace_tiles

    trace_tiles.compile((types.uint64, types.uint64, types.uint64))
    for compiled in trace_tiles.overloads.values():
        # `inspect_llvm` shows nothing of a kernel that came from the disk cache; the module kept for linking does.
        lines = str(compiled.library._get_module_for_linking()).splitlines()
        assert sum("fmul" in line and " float " in line for line in lines) > 1000
        assert [line for line in lines if " double " in line and "=" in line] == []
