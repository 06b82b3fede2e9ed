"""The lights of a scene as tables: which there are, how they are grouped and linked, what emits.

In: the document, world-space meshes of emissive parts, profiles. Out: `LightRows`. Called by `compile.compiled`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.color import LUMINANCE, decode_srgb
from lantern.compile.operations import lifted
from lantern.compile.stock import Stock, shape_of
from lantern.light.daylight import SUN_RADIUS, SunPosition, direct_illuminance, sun_color
from lantern.light.emissive import EmissiveTriangles, GlowingPart, emissive_triangles
from lantern.light.emitters import Emitters, build_emitters, profile_table, proxies
from lantern.light.profiles import Profile
from lantern.motion.poses import is_open, mesh_poses, part_poses
from lantern.pattern.images import folded
from lantern.rays.embree import MeshTree
from lantern.rays.layout import EMISSIVE_GROUP, ENVIRONMENT_GROUP, LIGHT_GROUPS
from lantern.scene.document import Material, Part, Scene
from lantern.scene.lights import Light, profile_of
from lantern.scene.placing import Places, stands
from lantern.scene.texture_use import TextureUse

ENVIRONMENT_NAME, EMISSIVE_NAME = "environment", "emissive"
_LEAST_SHARE = 0.02
"""A triangle is never taken to be darker than this share of its part's brightest: its texture is only sampled."""


@dataclass(frozen=True, eq=False)
class LightRows:
    """Everything that kernels need to know of the lights."""

    emitters: Emitters
    profiles: np.ndarray
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


def emission_luminance(material: Material, mesh: Mesh, textures: Sequence[Texture]) -> np.ndarray:
    """Mean luminance [cd/m²] of each triangle of a mesh, its emission texture taken at four points.

    What coat, fuzz and holes take away is left out: it decides how often light is aimed there, not how much comes.
    """
    flat = float(np.array(material.emission_color) @ LUMINANCE) * lifted(material).emission_luminance
    use = material.emission_texture
    if use is None or mesh.uvs is None or use.uv_set >= len(mesh.uvs):
        return np.full(len(mesh.indices), flat)
    corners = mesh.uvs[use.uv_set][mesh.indices]
    points = [corners.mean(axis=1)]
    points += [0.6 * corners[:, i] + 0.2 * corners[:, (i + 1) % 3] + 0.2 * corners[:, (i + 2) % 3] for i in range(3)]
    lit = flat * np.mean([_texture_luminance(textures[use.texture], use, p) for p in points], axis=0)
    return np.maximum(lit, _LEAST_SHARE * float(lit.max(initial=0.0)))


def _texture_luminance(texture: Texture, use: TextureUse, uv: np.ndarray) -> np.ndarray:
    """(n,) relative luminance of the texels at coordinates (n, 2)."""
    a, b, c, d, e, f = use.matrix
    height, width, channels = texture.texels.shape
    u, v = a * uv[:, 0] + b * uv[:, 1] + c, d * uv[:, 0] + e * uv[:, 1] + f
    x = (folded(u, texture.wrap_u) * width).astype(int).clip(0, width - 1)
    y = (folded(v, texture.wrap_v) * height).astype(int).clip(0, height - 1)
    stored = texture.texels[y, x]
    whole = np.iinfo(stored.dtype).max if stored.dtype.kind == "u" else 1
    linear = decode_srgb(stored / whole)
    return np.asarray(linear[:, :3] @ LUMINANCE if channels >= 3 else linear[:, 0])


def glows(material: Material) -> bool:
    """Whether a material sends out light of its own."""
    return lifted(material).emission_luminance > 0 and max(material.emission_color) > 0


def _glow(material: Material) -> tuple[object, ...]:
    """What the light of a glowing part depends on."""
    return (
        lifted(material).emission_luminance, material.emission_color, material.emission_texture, material.double_sided,
        material.geometry_thin_walled,
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
    return tuple(scene.lights.items()), scene.sky, glowing, tuple(scene.parts), where


def build_light_rows(
    scene: Scene,
    stock: Stock,
    textures: Sequence[Texture],
    profiles: Mapping[str, Profile],
    before: LightRows | None = None,
) -> LightRows:
    """Tables of the lights of a scene; `profiles` are by the SHA-256 of their files, `before` is how it was."""
    lights = [light for light in scene.lights.values() if light.enabled]
    groups = light_groups(scene)
    link_numbers, part_links = _links(lights, list(scene.parts))
    entries = [
        (light, min(groups.index(light.group), LIGHT_GROUPS - 1), link)
        for light, link in zip(lights, link_numbers, strict=True)
    ]
    used = [profiles.get(file.sha256) if (file := profile_of(light)) else None for light in lights]
    known = before.emissive if before else {}
    emissive: dict[object, EmissiveTriangles] = {}
    places = Places.of(scene)
    for number, part in enumerate(scene.parts.values()):
        material = scene.materials[part.material]
        if part.visible and glows(material):
            mesh = stock.meshes[stock.numbers[number]]
            key = (number, mesh, _shines(part), places.over(part).tobytes(), scene.shutter, _glow(material))
            triangles = known.get(key) or _triangles_of(number, part, material, mesh, textures, scene, places)
            if triangles is not None:
                emissive[key] = triangles
    sun = None
    if scene.sky.enabled and scene.sky.sun:
        place = SunPosition(scene.sky.azimuth, scene.sky.elevation)
        illuminance = direct_illuminance(place.elevation, scene.sky.turbidity) * scene.environment.intensity
        color = sun_color(place.elevation, scene.sky.turbidity)
        sun = (place.direction(), SUN_RADIUS, illuminance, color, ENVIRONMENT_GROUP)
    emitters = build_emitters(entries, used, list(emissive.values()), sun, before.emitters if before else None)
    positions, indices, owners = proxies(emitters.lights, emitters.shapes)
    tree = MeshTree(positions, indices) if len(indices) else None
    apart = any(not (light.casts_shadow and light.seen_in_reflections) for light in lights)
    return LightRows(emitters, profile_table(used), owners, tree, groups, part_links, emissive, apart)


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
