"""The lights of a scene as tables: which there are, how they are grouped and linked, what emits.

In: the document, world-space meshes of emissive parts, profiles. Out: `LightRows`. Called by `compile.compiled`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.compile.dresses import Shining
from lantern.compile.glow import emission_luminance, glows
from lantern.compile.operations import lifted
from lantern.compile.stock import Stock, shape_of
from lantern.light.daylight import SUN_RADIUS, sun_of, sunlight
from lantern.light.emissive import EmissiveTriangles, GlowingPart, emissive_triangles
from lantern.light.emitters import Emitters, build_emitters, profile_table, proxies
from lantern.light.profiles import Profile
from lantern.light.shaping import shapings_of
from lantern.motion.poses import is_open, mesh_poses, part_poses
from lantern.rays.embree import MeshTree
from lantern.rays.layout import EMISSIVE_GROUP, ENVIRONMENT_GROUP, MOST_GROUPS
from lantern.scene.document import Material, Part, Scene
from lantern.scene.lights import Light, profile_of
from lantern.scene.lit import environment_intensity, lit_lights
from lantern.scene.placing import Places, stands

ENVIRONMENT_NAME, EMISSIVE_NAME = "environment", "emissive"


@dataclass(frozen=True, eq=False)
class LightRows:
    """Everything that kernels need to know of the lights."""

    emitters: Emitters
    profiles: np.ndarray
    shapings: np.ndarray
    gates: np.ndarray  # images in the gates of spots
    owners: np.ndarray
    tree: MeshTree | None
    groups: tuple[str, ...]
    part_links: np.ndarray  # (parts,) int32
    emissive: dict[object, EmissiveTriangles]  # by all that they depend on
    apart: bool  # some light casts no shadow, or is not seen in reflections


def light_groups(scene: Scene) -> tuple[str, ...]:
    """Names of the light groups in the order of their numbers; all beyond the last number share it."""
    named = dict.fromkeys(light.group for light in scene.lights.values() if light.enabled)
    return (ENVIRONMENT_NAME, EMISSIVE_NAME, *(n for n in named if n not in (ENVIRONMENT_NAME, EMISSIVE_NAME)))


def _links(lights: Sequence[Light], part_keys: Sequence[str]) -> tuple[list[int], np.ndarray]:
    """(linking set of each light, -1 for all parts; link bits of each part)."""
    different = dict.fromkeys(light.unlit_parts for light in lights if light.unlit_parts)
    sets = {unlit: bit for bit, unlit in enumerate(different)}
    numbers = {key: number for number, key in enumerate(part_keys)}
    bits = np.full(max(len(part_keys), 1), -1, np.int32)
    for unlit, bit in sets.items():
        bits[[numbers[key] for key in unlit if key in numbers]] &= ~(1 << bit)
    return [sets.get(light.unlit_parts, -1) for light in lights], bits


def _glow(material: Material) -> tuple[object, ...]:
    """What the light of a glowing part depends on."""
    return (
        lifted(material).emission_luminance, material.emission_color, material.emission_texture, material.double_sided,
        material.geometry_thin_walled, material.emission_lumens, material.emission_temperature,
    )  # fmt: skip


def _shines(part: Part) -> tuple[object, ...]:
    """What the light of a glowing part depends on besides its material."""
    return stands(part), shape_of(part), part.seen_in_reflections, part.inside_out, part.strewn is None


def signature(scene: Scene) -> tuple[object, ...]:
    """Everything the lights depend on; they are built again when it changes."""
    emissive = {key for key, material in scene.materials.items() if glows(material)}
    glowing = (
        ()
        if not emissive
        else tuple(
            (key, _shines(part), *_glow(scene.materials[part.material]))
            for key, part in scene.parts.items()
            if part.visible and part.material in emissive
        )
    )
    where = (scene.shutter, scene.asset, scene.part_groups) if glowing else None
    return (
        tuple(scene.lights.items()),
        scene.sky,
        (environment_intensity(scene), scene.environment.tint),
        glowing,
        tuple(scene.parts),
        where,
    )


def build_light_rows(
    scene: Scene,
    stock: Stock,
    textures: Sequence[Texture],
    profiles: Mapping[str, Profile],
    images: Mapping[str, np.ndarray],
    shining: Shining,
    before: LightRows | None = None,
) -> LightRows:
    """Tables of the lights of a scene; `profiles` and the `images` in gates are by the SHA-256 of their files.

    `before` is how it was.
    """
    lights = list(lit_lights(scene).values())
    groups = light_groups(scene)
    link_numbers, part_links = _links(lights, list(scene.parts))
    entries = [
        (light, min(groups.index(light.group), MOST_GROUPS - 1), link)
        for light, link in zip(lights, link_numbers, strict=True)
    ]
    used = [profiles.get(file.sha256) if (file := profile_of(light)) else None for light in lights]
    known = before.emissive if before else {}
    emissive: dict[object, EmissiveTriangles] = {}
    places = Places.of(scene)
    for number, (name, part) in enumerate(scene.parts.items()):
        if part.visible and glows(scene.materials[part.material]):
            material = shining.of_part(scene, name, number, stock, places)
            mesh = stock.meshes[stock.numbers[number]]
            key = (number, mesh, _shines(part), places.over(part).tobytes(), scene.shutter, _glow(material))
            triangles = known.get(key) or _triangles_of(number, part, material, mesh, textures, scene, places)
            if triangles is not None:
                emissive[key] = triangles
    sun = None
    if scene.sky.enabled and scene.sky.sun:
        illuminance, color = sunlight(scene.sky)
        if (illuminance := illuminance * environment_intensity(scene)) > 0:
            color = color * np.array(scene.environment.tint)
            sun = (sun_of(scene.sky).direction(), SUN_RADIUS, illuminance, color, ENVIRONMENT_GROUP)
    shapings, gates, numbers = shapings_of(lights, images)
    emitters = build_emitters(
        entries, used, list(emissive.values()), sun, before.emitters if before else None, shapings=numbers
    )
    positions, indices, owners = proxies(emitters.lights, emitters.shapes)
    tree = MeshTree(positions, indices) if len(indices) else None
    apart = any(not (light.casts_shadow and light.seen_in_reflections) for light in lights)
    return LightRows(emitters, profile_table(used), shapings, gates, owners, tree, groups, part_links, emissive, apart)


def _triangles_of(
    number: int, part: Part, material: Material, mesh: Mesh, textures: Sequence[Texture], scene: Scene, places: Places
) -> EmissiveTriangles | None:
    """Glowing triangles of a part where it stands; None when it moves, or is strewn."""
    if part.strewn is not None:
        # There may be millions of them: like what moves, they light by being met.
        return None
    poses = part_poses(part, scene.shutter, places)
    if len(poses) > 1 or (mesh.shapes is not None and is_open(scene.shutter)):
        # Rays are not aimed at what moves while the shutter is open; it lights by being met.
        return None
    matrix, positions = poses[0], mesh.positions
    if mesh.shapes is not None:
        positions = mesh_poses(mesh.shapes.times, mesh.shapes.positions, scene.shutter)[0]
    world = positions.astype(np.float64) @ matrix[:, :3].T + matrix[:, 3]
    glow = GlowingPart(
        number,
        EMISSIVE_GROUP,
        mirrored=bool(np.linalg.det(matrix[:, :3]) < 0) ^ part.inside_out,
        two_sided=material.double_sided or material.geometry_thin_walled,
        glossy=part.seen_in_reflections,
    )
    return emissive_triangles(glow, world[mesh.indices], emission_luminance(material, mesh, textures))
