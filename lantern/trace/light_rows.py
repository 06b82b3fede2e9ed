"""The lights of a scene as tables: which there are, how they are grouped and linked, what emits.

In: the document, world-space meshes of emissive parts, profiles. Out: `LightRows`. Called by `trace.compiled`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.light.daylight import SUN_RADIUS, SunPosition, direct_illuminance, sun_color
from lantern.light.emissive import EmissiveTriangles, emissive_triangles
from lantern.light.emitters import LUMINANCE, Emitters, build_emitters, profile_table, proxies
from lantern.light.profiles import Profile
from lantern.motion.poses import is_open, mesh_poses, part_poses
from lantern.scene.document import Light, Material, Part, Scene, TextureUse
from lantern.surface.textures import CLAMP, MIRROR
from lantern.trace.embree import MeshTree
from lantern.trace.layout import EMISSIVE_GROUP, ENVIRONMENT_GROUP, LIGHT_GROUPS

ENVIRONMENT_NAME, EMISSIVE_NAME = "environment", "emissive"
MOST_LINKS = 31
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


def light_groups(scene: Scene) -> tuple[str, ...]:
    """Names of the light groups in the order of their numbers; all beyond the last number share it."""
    named = dict.fromkeys(light.group for light in scene.lights.values() if light.enabled)
    return (ENVIRONMENT_NAME, EMISSIVE_NAME, *(n for n in named if n not in (ENVIRONMENT_NAME, EMISSIVE_NAME)))


def _links(lights: Sequence[Light], part_keys: Sequence[str]) -> tuple[list[int], np.ndarray]:
    """(linking set of each light, -1 for all parts; link bits of each part)."""
    sets = list(dict.fromkeys(light.unlit_parts for light in lights if light.unlit_parts))
    if len(sets) > MOST_LINKS:
        raise ValueError(f"lights: {len(sets)} different choices of unlit parts, at most {MOST_LINKS} are possible")
    bits = np.full(max(len(part_keys), 1), -1, np.int32)
    for bit, unlit in enumerate(sets):
        for number, key in enumerate(part_keys):
            if key in unlit:
                bits[number] &= ~(1 << bit)
    return [sets.index(light.unlit_parts) if light.unlit_parts else -1 for light in lights], bits


def emission_luminance(material: Material, mesh: Mesh, textures: Sequence[Texture]) -> np.ndarray:
    """Mean luminance [cd/m²] of each triangle of a mesh, its emission texture taken at four points."""
    flat = float(np.array(material.emission_color) @ LUMINANCE) * material.emission_luminance
    use = material.emission_texture
    count = len(mesh.indices)
    if use is None or mesh.uvs is None:
        return np.full(count, flat)
    corners = mesh.uvs[mesh.indices]
    points = [corners.mean(axis=1)]
    points += [0.6 * corners[:, i] + 0.2 * corners[:, (i + 1) % 3] + 0.2 * corners[:, (i + 2) % 3] for i in range(3)]
    values = np.mean([_texture_luminance(textures[use.texture], use, p) for p in points], axis=0)
    color = float(np.array(material.emission_color) @ LUMINANCE)
    lit = values * material.emission_luminance * color
    return np.maximum(lit, _LEAST_SHARE * float(lit.max(initial=0.0)))


def _texture_luminance(texture: Texture, use: TextureUse, uv: np.ndarray) -> np.ndarray:
    a, b, c, d, e, f = use.matrix
    height, width = texture.texels.shape[:2]
    u, v = a * uv[:, 0] + b * uv[:, 1] + c, d * uv[:, 0] + e * uv[:, 1] + f
    x = (_folded(u, texture.wrap_u) * width).astype(int).clip(0, width - 1)
    y = (_folded(v, texture.wrap_v) * height).astype(int).clip(0, height - 1)
    encoded = texture.texels[y, x, :3] / 255.0
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ LUMINANCE)


def _folded(t: np.ndarray, wrap: int) -> np.ndarray:
    if wrap == CLAMP:
        return np.clip(t, 0, 1)
    if wrap == MIRROR:
        t = np.mod(t, 2)
        return np.where(t > 1, 2 - t, t)
    return np.mod(t, 1)


def _glow(material: Material) -> tuple[object, ...]:
    """What the light of a glowing part depends on."""
    return material.emission_luminance, material.emission_color, material.emission_texture


def signature(scene: Scene) -> tuple[object, ...]:
    """Everything the lights depend on; they are built again when it changes."""
    emissive = {key for key, m in scene.materials.items() if m.emission_luminance > 0 and max(m.emission_color) > 0}
    glowing = tuple(
        (key, part.matrix, part.keys, part.mesh, *_glow(scene.materials[part.material]))
        for key, part in scene.parts.items()
        if part.visible and part.material in emissive
    )
    return tuple(scene.lights.items()), scene.sky, glowing, tuple(scene.parts), scene.shutter if glowing else None


def build_light_rows(
    scene: Scene,
    meshes: Sequence[Mesh],
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
    used = [profiles.get(light.profile.sha256) if light.profile else None for light in lights]
    known = before.emissive if before else {}
    emissive: dict[object, EmissiveTriangles] = {}
    for number, part in enumerate(scene.parts.values()):
        material = scene.materials[part.material]
        if part.visible and material.emission_luminance > 0 and max(material.emission_color) > 0:
            key = (number, part.matrix, part.keys, part.mesh, scene.shutter, _glow(material))
            triangles = known.get(key) or _triangles_of(number, part, material, meshes[part.mesh], textures, scene)
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
    return LightRows(emitters, profile_table(used), owners, tree, groups, part_links, emissive)


def _triangles_of(
    number: int, part: Part, material: Material, mesh: Mesh, textures: Sequence[Texture], scene: Scene
) -> EmissiveTriangles | None:
    """Glowing triangles of a part where it stands; None when it moves."""
    poses = part_poses(part, scene.shutter)
    if len(poses) > 1 or (mesh.shapes is not None and is_open(scene.shutter)):
        # Rays are not aimed at what moves while the shutter is open; it lights by being met.
        return None
    matrix, positions = poses[0], mesh.positions
    if mesh.shapes is not None:
        positions = mesh_poses(mesh.shapes.times, mesh.shapes.positions, scene.shutter)[0]
    world = positions.astype(np.float64) @ matrix[:, :3].T + matrix[:, 3]
    corners = world[mesh.indices]
    if np.linalg.det(matrix[:, :3]) < 0:
        corners = corners[:, [0, 2, 1]]
    return emissive_triangles(number, corners, emission_luminance(material, mesh, textures), EMISSIVE_GROUP)
