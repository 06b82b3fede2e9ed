"""Light where two features meet: each of these was wrong while either feature alone was right."""

import math

import numpy as np
import pytest

from lantern.assets.mesh import Mesh
from lantern.color import LUMINANCE
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.kernel.spectrum import XYZ_TO_RGB
from lantern.scene.document import Camera, Material, PartKey, Shutter
from lantern.scene.lights import RectangleLight, SphereLight
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Environment, Haze
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import WHITE, no_files, scene_of, slab_mesh, sphere_mesh, spot_radiance, square_mesh, traced

TABLE = Camera(position=(0, 1.0, 0.0001), target=(0, 0, 0), focal_length=800)
"""Looks straight down on a few millimetres around the origin."""
PATCH = square_mesh(0.05)
NOTHING = Material(name="nothing", geometry_opacity=0.0)
EVEN = {"environment": Environment(intensity=1.0)}


def moved(mesh, x=0.0, y=0.0, z=0.0):
    return Mesh(mesh.positions + np.float32([x, y, z]), mesh.indices, mesh.normals, mesh.uvs, mesh.tangents)


def lamp(**changes):
    """A square light of 100 cd/m² over the table."""
    chosen = {"width": 0.4, "height": 0.4, "unit": "cd/m²", "amount": 100.0} | changes
    return RectangleLight(name="l", position=(0, 0.5, 0), target=(0, 0, 0), **chosen)


def luminance_on_table(*others, material=WHITE, samples=1024, change=None, **scene_changes):
    """(green radiance of the table's middle, its standard error) under other pieces; `change` edits the parts."""
    scene, asset = scene_of((PATCH, material), *others, camera=TABLE, **scene_changes)
    if change is not None:
        scene = scene.model_copy(update={"parts": change(dict(scene.parts))})
    mean, error = spot_radiance(traced(scene, asset, samples), 12)
    return float(mean[1]), error


def unseen(parts):
    """The camera looks through the second part."""
    return parts | {"p1": parts["p1"].model_copy(update={"seen_by_camera": False})}


# Volumes


def test_light_behind_rough_glass_is_dimmed_by_what_is_behind_it():
    """A slab of rough glass before a bright spot of the sky: absorption of 1e-7 a metre takes nothing away."""
    clear = Material(name="g", transmission_weight=1, specular_roughness=0.5)
    faint = clear.model_copy(update={"transmission_color": (math.exp(-1e-4),) * 3, "transmission_depth": 1000.0})
    sky = np.zeros((64, 128, 3), np.float32)
    sky[30:34, 62:66] = 150  # around -Z, behind the slab
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100)
    found = []
    for glass in (clear, faint):
        scene, asset = scene_of((slab_mesh(0.02, 20), glass), camera=camera, **EVEN)
        found.append(float(traced(scene, asset, 256, environment=sky).radiance()[..., 1].mean()))
    assert found[0] > 10 and found[1] == pytest.approx(found[0], rel=0.005)


@pytest.mark.parametrize("panes", [0, 2])
def test_haze_dims_alike_through_panes_that_are_not_there(panes):
    """Beer's law over 1.5 m of absorbing and scattering air, whatever is invisible on the way."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0)
    invisible = [(slab_mesh(0.01, 3), NOTHING) for _ in range(panes)]
    pieces = [(moved(mesh, z=0.4 * (i + 1)), material) for i, (mesh, material) in enumerate(invisible)]
    camera = Camera(position=(0, 0, 1.5), target=(0, 0, 0), focal_length=400)
    black_air = Haze(enabled=True, sight=FREE_PATHS_OF_SIGHT * 0.75, color=(0.001,) * 3)
    scene, asset = scene_of((slab_mesh(1e-4, 0.5), glow), *pieces, camera=camera, haze=black_air)
    measured, error = spot_radiance(traced(scene, asset, 2048), 16)
    assert measured[1] == pytest.approx(100 * math.exp(-2), abs=4 * error + 0.05)


def test_a_hole_leads_out_of_a_volume():
    """A tinted block with holes for half of its faces: light that came in by a face is clear again behind a hole."""
    tinted = Material(
        name="t", transmission_weight=1, specular_ior=1.0, specular_roughness=0, geometry_opacity=0.5,
        transmission_color=(0.2,) * 3, transmission_depth=0.02,
    )  # fmt: skip
    scene, asset = scene_of(
        (slab_mesh(0.02, 20), tinted), camera=Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100),
        backdrop=Backdrop(kind="environment"), **EVEN,
    )  # fmt: skip
    mean, error = spot_radiance(traced(scene, asset, 2048), 16)
    assert mean[1] == pytest.approx(0.5 * 1 + 0.5 * 0.2, abs=4 * error + 0.003)


# Holes


def test_a_lamp_behind_an_invisible_pane_lights_once():
    bare, _ = luminance_on_table(lights=(lamp(),))
    pane = moved(square_mesh(0.5), y=0.4)
    behind, error = luminance_on_table((pane, NOTHING), lights=(lamp(),))
    assert behind == pytest.approx(bare, abs=4 * error + 0.002 * bare)


def test_depth_is_of_what_is_seen_through_a_hole():
    scene, asset = scene_of((sphere_mesh(0.1), WHITE), (moved(slab_mesh(0.01, 1), z=0.5), NOTHING))
    film = traced(scene, asset, 16)
    assert film.means().depth[32, 32] == pytest.approx(0.9, abs=0.003)


@pytest.mark.parametrize("opacity", [0.25, 1.0])
def test_a_glowing_sheet_lights_by_its_opacity(opacity):
    """A lamp of triangles that is three quarters holes lights a quarter as much, and is as bright to the eye."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0, geometry_opacity=opacity)
    sheet = Mesh(PATCH.positions * 4 + np.float32([0, 0.5, 0]), PATCH.indices[:, ::-1], -PATCH.normals, None, None)
    whole, _ = luminance_on_table((sheet, glow.model_copy(update={"geometry_opacity": 1.0})), change=unseen)
    holed, error = luminance_on_table((sheet, glow), change=unseen)
    assert holed == pytest.approx(opacity * whole, abs=4 * error + 0.005 * whole)


# Who sees whom


def test_a_part_that_casts_no_shadow_lets_all_light_by():
    """Under an even sky a matt table below a black board is as bright as an open one: 0.5, as half is table-grey."""
    grey = WHITE.model_copy(update={"base_color": (0.5,) * 3})
    black = Material(name="b", base_color=(0, 0, 0), specular_ior=1.0)
    board = (moved(square_mesh(0.3), y=0.05), black)

    def change(parts):
        return parts | {"p1": parts["p1"].model_copy(update={"casts_shadow": False, "seen_by_camera": False})}

    found, error = luminance_on_table(board, material=grey, change=change, **EVEN)
    assert found == pytest.approx(0.5, abs=4 * error + 0.003)


def test_a_part_that_only_casts_shadow_is_shade_for_every_way_of_finding_light():
    """Seen by nobody, the board still keeps the sky from the table: nothing but the rim of the horizon is left."""
    black = Material(name="b", base_color=(0, 0, 0), specular_ior=1.0)
    board = (moved(square_mesh(0.3), y=0.05), black)

    def unseen_by_all(parts):
        hidden = {"seen_in_reflections": False, "seen_by_camera": False}
        return parts | {"p1": parts["p1"].model_copy(update=hidden)}

    seen, _ = luminance_on_table(board, change=unseen, **EVEN)
    found, error = luminance_on_table(board, change=unseen_by_all, **EVEN)
    assert found == pytest.approx(seen, abs=4 * error + 0.002)


def test_a_place_that_receives_no_shadow_sees_through_everything():
    board = (moved(square_mesh(0.3), y=0.05), Material(name="b", base_color=(0, 0, 0), specular_ior=1.0))

    def change(parts):
        return {
            "p0": parts["p0"].model_copy(update={"receives_shadow": False}),
            "p1": parts["p1"].model_copy(update={"seen_by_camera": False}),
        }

    found, error = luminance_on_table(board, change=change, **EVEN)
    assert found == pytest.approx(1.0, abs=4 * error + 0.005)


def test_a_light_not_seen_in_reflections_lights_matt_and_no_gloss():
    matt, _ = luminance_on_table(lights=(lamp(),))
    hidden, error = luminance_on_table(lights=(lamp(seen_in_reflections=False),))
    assert hidden == pytest.approx(matt, abs=4 * error + 0.002 * matt)
    for roughness in (0.0, 0.3):
        metal = Material(name="m", base_metalness=1, base_color=(1, 1, 1), specular_roughness=roughness)
        assert luminance_on_table(lights=(lamp(),), material=metal)[0] > 50
        assert luminance_on_table(lights=(lamp(seen_in_reflections=False),), material=metal)[0] == 0


def test_a_light_that_casts_no_shadow_shines_through_a_board():
    board = (moved(square_mesh(0.3), y=0.05), Material(name="b", base_color=(0, 0, 0), specular_ior=1.0))
    bare, _ = luminance_on_table(lights=(lamp(),))
    found, error = luminance_on_table(board, lights=(lamp(casts_shadow=False),), change=unseen)
    assert found == pytest.approx(bare, abs=4 * error + 0.003 * bare)


def test_light_is_not_in_the_way_of_light():
    """A large dim light before a small bright one: a matt table gets both, however it finds them."""
    near = lamp(width=2.0, height=2.0, amount=1.0)
    far = SphereLight(name="f", position=(0, 2, 0), target=(0, 0, 0), radius=0.5, unit="cd/m²", amount=100)
    both, error = luminance_on_table(lights=(near, far))
    alone = luminance_on_table(lights=(near,))[0] + luminance_on_table(lights=(far,))[0]
    assert both == pytest.approx(alone, abs=5 * error + 0.002 * alone)


def test_skin_that_is_not_seen_in_reflections_still_scatters():
    skin = Material(name="s", subsurface_weight=1, subsurface_color=(0.9,) * 3, subsurface_radius=0.01, specular_ior=1)
    scene, asset = scene_of((sphere_mesh(0.1), skin), **EVEN)
    hidden = {"p0": scene.parts["p0"].model_copy(update={"seen_in_reflections": False})}
    seen, _ = spot_radiance(traced(scene, asset, 256), 12)
    found, error = spot_radiance(traced(scene.model_copy(update={"parts": hidden}), asset, 256), 12)
    # Its own hollows are filled by the sky instead of by itself: on a ball there are none.
    assert found[1] == pytest.approx(seen[1], abs=4 * error + 0.02)


# Layers and faces


def _glow_seen(material, camera_height=1.0):
    """Green radiance of a glowing table from straight above, or from below."""
    camera = Camera(position=(0, camera_height, 0.0001), target=(0, 0, 0), focal_length=800)
    scene, asset = scene_of((PATCH, material), camera=camera)
    return float(spot_radiance(traced(scene, asset, 64), 12)[0][1])


def test_light_of_a_surface_comes_from_beneath_its_coat():
    """Half of the coat's colour at normal incidence, times what its boundary lets out (OpenPBR 1.1, section 3.10)."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0)
    coated = glow.model_copy(update={"coat_weight": 1.0, "coat_color": (0.25,) * 3, "coat_roughness": 0.0})
    fresnel = ((1.6 - 1) / (1.6 + 1)) ** 2
    # What goes round between coat and black base is lost: K of section 3.10.2 for a smooth base is Fresnel's.
    assert _glow_seen(glow) == pytest.approx(100, rel=1e-3)
    assert _glow_seen(coated.model_copy(update={"coat_darkening": 0.0})) == pytest.approx(
        100 * 0.5 * (1 - fresnel), rel=0.01
    )


def test_a_coat_dims_a_glowing_mesh_alike_for_the_eye_and_for_what_it_lights():
    sheet = Mesh(PATCH.positions * 4 + np.float32([0, 0.5, 0]), PATCH.indices[:, ::-1], -PATCH.normals, None, None)
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0)
    coated = glow.model_copy(update={"coat_weight": 1.0, "coat_color": (0.25,) * 3, "coat_darkening": 0.0})
    bare, _ = luminance_on_table((sheet, glow), change=unseen)
    under, _ = luminance_on_table((sheet, coated), change=unseen)
    assert 0.4 < under / bare < 0.5, "between half, straight down, and what slant absorbs besides"


@pytest.mark.parametrize("switch", ["double_sided", "geometry_thin_walled"])
def test_the_back_of_what_is_two_sided_is_as_its_front(switch):
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0)
    assert _glow_seen(glow, -1.0) == 0
    assert _glow_seen(glow.model_copy(update={switch: True}), -1.0) == pytest.approx(100, rel=1e-3)
    velvet = Material(name="v", base_color=(0, 0, 0), fuzz_weight=1, fuzz_roughness=1, specular_ior=1.0)
    scene, asset = scene_of((PATCH, velvet.model_copy(update={switch: True})), camera=TABLE, **EVEN)
    front, _ = spot_radiance(traced(scene, asset, 256), 12)
    below = TABLE.model_copy(update={"position": (0, -1.0, 0.0001)})
    back, error = spot_radiance(traced(scene.model_copy(update={"camera": below}), asset, 256), 12)
    assert front[1] > 0.05 and back[1] == pytest.approx(front[1], abs=5 * error + 0.002)


def test_a_glowing_sheet_of_two_sides_lights_both():
    sheet = moved(square_mesh(0.2), y=0.5)  # faces up, away from the table
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0, double_sided=True)
    turned = Mesh(sheet.positions, sheet.indices[:, ::-1], -sheet.normals, None, None)
    down, _ = luminance_on_table((turned, glow.model_copy(update={"double_sided": False})), change=unseen)
    both, error = luminance_on_table((sheet, glow), change=unseen)
    assert both == pytest.approx(down, abs=4 * error + 0.003 * down)


def test_a_thin_wall_is_alike_from_both_sides():
    """At a slant, where the inside of glass would reflect all: both faces let the same light through."""
    pane = Material(name="p", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0.1)
    behind = np.zeros((64, 128, 3), np.float32)
    behind[:, 32:96] = 1  # the half sphere around -Z
    found = []
    for turn in (1, -1):
        matrix = (0.5, 0, turn * 0.866, 0, 0, turn, 0, 0, -turn * 0.866, 0, 0.5, 0)  # 60° to the view
        sheet = slab_mesh(1e-6, 5)
        front = Mesh(sheet.positions[:4], sheet.indices[:2], sheet.normals[:4], None, None)
        scene, asset = scene_of((front, pane), **EVEN)
        scene = scene.model_copy(update={"parts": {"p0": scene.parts["p0"].model_copy(update={"matrix": matrix})}})
        found.append(spot_radiance(traced(scene, asset, 256, environment=behind), 12)[0][1])
    assert found[0] > 0.7 and found[1] == pytest.approx(found[0], rel=0.02)


# Motion


def test_what_moves_is_framed_where_it_is():
    away = (1, 0, 0, 5.0, 0, 1, 0, 0, 0, 0, 1, 0)
    scene, asset = scene_of((sphere_mesh(0.1), WHITE))
    keyed = scene.parts["p0"].model_copy(update={"keys": (PartKey(time=0, matrix=away),)})
    engine = Engine(1)
    engine.open(scene.model_copy(update={"parts": {"p0": keyed}}), no_files, asset)
    for low, high in (engine.compiled.bounds(), engine.compiled.rough_bounds()):
        assert (low[0], high[0]) == (pytest.approx(4.9, abs=1e-3), pytest.approx(5.1, abs=1e-3))
    assert engine.compiled.probe_sites().part.max() == 0
    engine.close()


def test_bounds_hold_what_moves_while_the_shutter_is_open():
    keys = tuple(PartKey(time=t, matrix=(1, 0, 0, 2.0 * t, 0, 1, 0, 0, 0, 0, 1, 0)) for t in (0.0, 1.0))
    scene, asset = scene_of((sphere_mesh(0.1), WHITE), shutter=Shutter(opens=0, closes=1))
    engine = Engine(1)
    engine.open(
        scene.model_copy(update={"parts": {"p0": scene.parts["p0"].model_copy(update={"keys": keys})}}), no_files, asset
    )
    low, high = engine.compiled.rough_bounds()
    engine.close()
    assert (low[0], high[0]) == (pytest.approx(-0.1, abs=1e-3), pytest.approx(2.1, abs=1e-3))


# Edits


@pytest.mark.parametrize(
    "change",
    [
        lambda scene: {"materials": {"p0": WHITE.model_copy(update={"base_color_texture": TextureUse(texture=3)})}},
        lambda scene: {
            "lights": {f"l{i}": lamp(unlit_parts=(f"x{i}",)) for i in range(40)},
            "parts": {"p0": scene.parts["p0"].model_copy(update={"matrix": (9.0, *scene.parts["p0"].matrix[1:])})},
        },
    ],
    ids=["a texture that is not there", "too many choices of unlit parts"],
)
def test_a_refused_edit_leaves_nothing_behind(change):
    scene, asset = scene_of((sphere_mesh(0.1), WHITE), lights=(lamp(),), **EVEN)
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    before = Film(16, 16)
    engine.trace(before, 4)
    with pytest.raises(ValueError, match=r"texture|unlit"):
        engine.apply(scene.model_copy(update=change(scene)), no_files)
    engine.apply(scene.model_copy(update={"backdrop": Backdrop(color=(0.1, 0, 0))}), no_files)
    engine.apply(scene, no_files)
    after = Film(16, 16)
    engine.trace(after, 4)
    engine.close()
    assert (before.rows == after.rows).all()


def test_luminance_weights_are_those_of_the_primaries():
    """Said once: the middle row of the matrix that takes Rec. 709 to XYZ."""
    assert np.linalg.inv(XYZ_TO_RGB)[1] == pytest.approx(LUMINANCE, abs=1e-4)
