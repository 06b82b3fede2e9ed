"""Anything a document may say, and geometry that nobody would make on purpose: no NaN, no hang, no crash.

`LANTERN_EXAMPLES=20000 ./test tests/verification/test_robustness.py` looks longer; the default ends within a minute.
"""

import os

import numpy as np
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Rendering, Scene
from lantern.scene.lights import SphereLight
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Environment, Ground, Haze, Sky
from tests.core.shapes import light_of, no_files, sphere_mesh, square_mesh

EXAMPLES = int(os.environ.get("LANTERN_EXAMPLES", "300"))
EDGES = st.sampled_from([0.0, 1e-6, 0.5, 1.0])
UNIT = st.one_of(EDGES, st.floats(0, 1, width=32))
COLOR = st.tuples(UNIT, UNIT, UNIT)
PLACE = st.tuples(*(st.floats(-1, 1, width=32),) * 3)


def _fields() -> dict[str, st.SearchStrategy]:
    """A strategy for every number and colour of a material, straight from its model."""
    found: dict[str, st.SearchStrategy] = {}
    for name, info in Material.model_fields.items():
        limits = {k: getattr(m, k) for m in info.metadata for k in ("ge", "le") if hasattr(m, k)}
        if info.annotation is bool:
            found[name] = st.booleans()
        elif info.annotation is float:
            low, high = limits["ge"], limits["le"]
            found[name] = st.one_of(st.sampled_from([low, high]), st.floats(low, high, width=32))
        elif info.annotation is int:
            found[name] = st.integers(-3, 3)
        elif name.endswith(("_color", "_scale", "_scatter")):
            found[name] = COLOR
    return found


MATERIALS = st.builds(Material, name=st.just("m"), **_fields())
LIGHTS = st.builds(
    light_of,
    st.sampled_from(["rectangle", "disk", "sphere", "tube", "point", "spot"]),
    name=st.just("l"),
    position=PLACE,
    target=PLACE,
    width=st.sampled_from([0.0, 1e-6, 0.3, 100.0]),
    height=st.sampled_from([0.0, 1e-6, 0.3, 100.0]),
    length=st.sampled_from([0.0, 1e-6, 0.3, 100.0]),
    radius=st.sampled_from([0.0, 1e-6, 0.1, 10.0]),
    cone=st.sampled_from([0.1, 40.0, 180.0]),
    softness=UNIT,
    unit=st.sampled_from(["lm", "cd", "lx"]),
    amount=st.sampled_from([0.0, 1.0, 1e9]),
    seen_by_camera=st.booleans(),
)


def _strip(mesh: Mesh) -> Mesh:
    """The same mesh with triangles of no area and normals of no length among its own."""
    indices = mesh.indices.copy()
    indices[::7, 2] = indices[::7, 1]
    normals = mesh.normals.copy()
    normals[::11] = 0
    return Mesh(mesh.positions, indices, normals, mesh.uvs, mesh.tangents)


def _check(scene: Scene, asset: ImportedAsset) -> None:
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    film = Film(12, 12, aovs=True)
    assert engine.trace(film, 4)
    assert engine.ray_counts().not_finite == 0
    assert np.isfinite(film.rows["radiance"]).all() and (film.rows["radiance"] >= 0).all()
    engine.close()


@settings(max_examples=EXAMPLES, suppress_health_check=list(HealthCheck))
@given(
    outer=MATERIALS,
    inner=MATERIALS,
    lights=st.lists(LIGHTS, max_size=3),
    scale=st.sampled_from([1e-6, 1.0, 1e6]),
    inside=st.booleans(),
    haze=st.booleans(),
    sky=st.booleans(),
    catches=st.booleans(),
    filtered=st.booleans(),
)
def test_random_scenes_stay_finite(outer, inner, lights, scale, inside, haze, sky, catches, filtered):
    """Two balls, one inside the other and touching it, of any materials, under any lights, at any scale."""
    asset = ImportedAsset("test", "none", [_strip(sphere_mesh(0.2 * scale, 10)), square_mesh(0.5 * scale)])
    identity = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)
    half = (0.5, 0, 0, 0, 0, 0.5, 0, -0.1 * scale, 0, 0, 0.5, 0)
    parts = {
        "outer": Part(name="o", mesh=0, material="outer", matrix=identity),
        "same": Part(name="s", mesh=0, material="inner", matrix=identity),
        "inner": Part(name="i", mesh=0, material="inner", matrix=half),
        "flat": Part(name="f", mesh=1, material="outer", matrix=(1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0)),
    }
    near = 0.05 if inside else 1.0
    _check(
        Scene(
            parts=parts,
            materials={"outer": outer, "inner": inner},
            lights={f"l{i}": light for i, light in enumerate(lights)},
            camera=Camera(
                position=(0, 0, near * scale), target=(0, 0, 0), f_number=2, focus_distance=max(scale, 0.001)
            ),
            ground=Ground(enabled=catches, height=-0.2 * min(scale, 1000), reflection=0.05),
            haze=Haze(enabled=haze, sight=FREE_PATHS_OF_SIGHT * 0.5, anisotropy=0.9),
            sky=Sky(enabled=sky),
            backdrop=Backdrop(kind="environment"),
            environment=Environment(intensity=0.0 if lights else 1.0),
            rendering=Rendering(caustics="filtered" if filtered else "exact"),
        ),
        asset,
    )


@pytest.mark.parametrize("position", [(0, 0, 0.1), (0.2, 0, 0), (0, 0, 0.2)])
def test_camera_inside_and_on_the_surface(position):
    glass = Material(name="m", transmission_weight=1)
    asset = ImportedAsset("test", "none", [sphere_mesh(0.2)])
    scene = Scene(
        parts={"p": Part(name="p", mesh=0, material="m")},
        materials={"m": glass},
        camera=Camera(position=position, target=(0, 0.01, 0)),
    )
    _check(scene, asset)


def test_a_light_inside_glass_shines():
    glass = Material(name="m", transmission_weight=1, specular_roughness=0.3)
    light = SphereLight(name="l", position=(0, 0, 0), target=(0, -1, 0), radius=0.05, unit="cd", amount=10)
    asset = ImportedAsset("test", "none", [sphere_mesh(0.2)])
    scene = Scene(
        parts={"p": Part(name="p", mesh=0, material="m")},
        materials={"m": glass},
        lights={"l": light},
        environment=Environment(intensity=0),
        camera=Camera(position=(0, 0, 1), target=(0, 0, 0)),
        ground=Ground(enabled=False),
        backdrop=Backdrop(color=(0, 0, 0)),
    )
    _check(scene, asset)
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    film = Film(24, 24)
    engine.trace(film, 64)
    engine.close()
    assert film.radiance()[12, 12].min() > 1


@example(vertices=[(0, 0, 0)] * 3)
@example(vertices=[(1e-30, 0, 0), (0, 1e-30, 0), (0, 0, 1e-30)])
@settings(max_examples=30)
@given(vertices=st.lists(PLACE, min_size=3, max_size=9))
def test_any_triangles(vertices):
    """Slivers, points, repeated vertices."""
    positions = np.array(vertices, np.float32)
    indices = np.array([[i, (i + 1) % len(vertices), (i + 2) % len(vertices)] for i in range(len(vertices))], np.uint32)
    normals = np.zeros_like(positions)
    asset = ImportedAsset("test", "none", [Mesh(positions, indices, normals, None, None)])
    scene = Scene(
        parts={"p": Part(name="p", mesh=0, material="m")},
        materials={"m": Material(name="m", emission_luminance=1, transmission_weight=0.5)},
        camera=Camera(position=(0, 0, 2), target=(0, 0, 0)),
    )
    _check(scene, asset)
