"""An edited scene equals the same scene opened anew, and an edit costs only what it changes."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Material, PartSet
from lantern.scene.lights import RectangleLight, SpotLight
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Ground, Haze
from tests.core.shapes import no_files, scene_of, slab_mesh, sphere_mesh, square_mesh

MATT = Material(name="matt", base_color=(0.6, 0.5, 0.4), specular_ior=1.0)
GLOSSY = Material(name="glossy", base_color=(0.1, 0.3, 0.8), specular_roughness=0.3)
LAMP = Material(name="lamp", emission_luminance=30)
KEY = RectangleLight(name="Key", position=(0.3, 0.4, 0.3), target=(0, 0, 0), width=0.1, height=0.1, amount=40)
SPOT = SpotLight(name="Spot", position=(-0.3, 0.5, 0.2), target=(0, 0, 0), amount=5, unit="cd")


def room():
    """A ball, a lamp and a card on ground, two lights."""
    return scene_of(
        (sphere_mesh(0.06, 16), GLOSSY),
        (sphere_mesh(0.02, 8), LAMP),
        (slab_mesh(0.01, 0.05), MATT),
        lights=(KEY, SPOT),
        ground=Ground(enabled=True, height=-0.1),
    )


def at(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


@pytest.fixture
def scene_and_asset():
    scene, asset = room()
    places = {"p0": at(0, -0.03, 0), "p1": at(0.12, 0, 0.02), "p2": at(-0.12, 0, 0)}
    parts = {key: part.model_copy(update={"matrix": places[key]}) for key, part in scene.parts.items()}
    return scene.model_copy(update={"parts": parts}), asset


def part(scene, key, **changes):
    return {"parts": scene.parts | {key: scene.parts[key].model_copy(update=changes)}}


def material(scene, key, **changes):
    return {"materials": scene.materials | {key: scene.materials[key].model_copy(update=changes)}}


def light(scene, key, **changes):
    return {"lights": scene.lights | {key: scene.lights[key].model_copy(update=changes)}}


EDITS = {
    "a colour": lambda s: material(s, "p0", base_color=(0.9, 0.1, 0.1)),
    "glass": lambda s: material(s, "p0", transmission_weight=1.0),
    "a part moved": lambda s: part(s, "p0", matrix=at(0.05, 0, 0.05)),
    "the lamp moved": lambda s: part(s, "p1", matrix=at(-0.02, 0.1, 0.1)),
    "the lamp dimmed": lambda s: material(s, "p1", emission_luminance=5),
    "the lamp hidden": lambda s: part(s, "p1", visible=False),
    "the card glows": lambda s: material(s, "p2", emission_luminance=20),
    "a part takes another material": lambda s: part(s, "p2", material="p1"),
    "a light moved": lambda s: light(s, "l0", position=(-0.2, 0.3, 0.4)),
    "a light off": lambda s: light(s, "l0", enabled=False),
    "a part unlit by a light": lambda s: light(s, "l0", unlit_parts=("p0",)),
    "no shadow of the card": lambda s: part(s, "p2", casts_shadow=False),
    "a light more": lambda s: {"lights": s.lights | {"l2": SPOT.model_copy(update={"position": (0.1, 0.5, 0.5)})}},
    "haze": lambda s: {"haze": Haze(enabled=True, sight=FREE_PATHS_OF_SIGHT * 2.0)},
    "the ground lower": lambda s: {"ground": s.ground.model_copy(update={"height": -0.15})},
    "sky": lambda s: {"sky": s.sky.model_copy(update={"enabled": True, "elevation": 40.0})},
}


def film_of(engine, samples):
    film = Film(24, 24)
    engine.trace(film, samples)
    assert engine.ray_counts().not_finite == 0
    return film


@pytest.mark.parametrize("name", EDITS)
def test_an_edited_scene_equals_one_opened_anew(scene_and_asset, name):
    """There and back and there again: whatever is kept from before, the expectation of every pixel is the same."""
    scene, asset = scene_and_asset
    changed = scene.model_copy(update=EDITS[name](scene))
    edited, fresh = Engine(2), Engine(2)
    edited.open(scene, no_files, asset)
    for document in (changed, scene, changed):
        edited.apply(document, no_files)
    fresh.open(changed, no_files, asset)
    assert edited.compile_counts.full == 1 and edited.compile_counts.mesh_trees == 3
    films = [film_of(engine, 256) for engine in (edited, fresh)]
    pictures = [film.radiance().mean(axis=2, dtype=np.float64) for film in films]
    errors = [film.relative_errors() * film.radiance().mean(axis=2) for film in films]
    blocks = [picture.reshape(6, 4, 6, 4).mean((1, 3)) for picture in pictures]
    spread = np.sqrt(sum((error.reshape(6, 4, 6, 4) ** 2).sum((1, 3)) for error in errors)) / 16
    floor = 0.01 * pictures[1].mean()
    assert (np.abs(blocks[0] - blocks[1]) < 5 * spread + floor).all()
    assert np.array_equal(films[0].parts(), films[1].parts())
    edited.close()
    fresh.close()


def test_moving_a_light_measures_no_glowing_mesh_again(scene_and_asset):
    scene, asset = scene_and_asset
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    lights = engine.compiled._lights
    rows = engine.compile_counts.part_rows
    moved = scene.model_copy(update=EDITS["a light moved"](scene))
    engine.apply(moved, no_files)
    after = engine.compiled._lights
    assert list(after.emissive.values()) == list(lights.emissive.values()), "the very same tables"
    assert engine.compile_counts.part_rows == rows, "and no part is written"
    engine.apply(moved.model_copy(update=EDITS["the lamp moved"](moved)), no_files)
    again = engine.compiled._lights
    assert list(again.emissive.values()) != list(after.emissive.values())
    assert engine.compile_counts.part_rows == rows + 1
    engine.close()


RESTARTS = {
    "look": False, "print": False, "proof": False, "part_sets": False,
    "camera": True, "lights": True, "environment": True, "ground": True, "haze": True, "backdrop": True,
    "shutter": True, "rendering": True,
}  # fmt: skip
CHANGES = {
    "look": {"exposure": 1.5}, "print": {"samples": 99}, "proof": {"samples": 77}, "camera": {"focal_length": 33.0},
    "environment": {"rotation": 12.0}, "ground": {"height": -0.3}, "haze": {"enabled": True},
    "backdrop": {"color": (0.3, 0.3, 0.3)}, "shutter": {"closes": 0.02}, "rendering": {"sample_limit": 9.0},
}  # fmt: skip


@pytest.mark.parametrize("section", RESTARTS)
def test_samples_are_kept_whenever_they_still_show_the_document(section):
    scene, asset = scene_of((square_mesh(), MATT))
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    if section == "lights":
        change = {"lights": {"l": KEY}}
    elif section == "part_sets":
        change = {"part_sets": {"s": PartSet(name="S", parts=("p0",))}}
    else:
        change = {section: getattr(scene, section).model_copy(update=CHANGES[section])}
    edited = type(scene).model_validate(scene.model_copy(update=change).model_dump())
    assert edited != scene
    assert engine.apply(edited, no_files).restarts == RESTARTS[section]
    assert not engine.apply(edited, no_files).restarts, "the same document again is no change"
    engine.close()
