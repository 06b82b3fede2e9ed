"""Images of what a part wears: every place of it, as the proof has it, laid out flat.

In: a compiled scene, a part of it, its mesh with coordinates that give each place texels of its own. Out: a plain
material with images, and what these could not say. Called by `baking`.
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import distance_transform_edt

from lantern.assets.mesh import Mesh
from lantern.assets.textures import CLAMP, Texture
from lantern.color import encode_srgb
from lantern.compile.compiled import CompiledScene
from lantern.preview.baking import BAKED, SITE, baked
from lantern.scene.document import Material
from lantern.scene.inputs import Parameter
from lantern.scene.sources import LitBallSource
from lantern.scene.texture_use import TextureUse
from lantern.shaping.unwrapping import texels_of

_WITHIN = 2
"""Places along each side of a texel that it is the mean of: patterns finer than texels become their mean."""
_ROWS = 64
"""Rows of texels that are looked at together."""
_EVEN = 1.5 / 255
"""What varies by less is one number."""
_IN_IMAGES: set[Parameter] = {
    "base_color", "base_weight", "base_metalness", "specular_roughness", "transmission_weight", "transmission_tint",
    "geometry_opacity", "bump", "emission_color", "emission_luminance", "coat_weight", "coat_roughness", "fuzz_weight",
}  # fmt: skip
"""Parameters that are looked at; coat and fuzz become their means, which is said by what they are."""
_PARTS = {name: np.dtype(BAKED.dtype)[name].shape or (1,) for name in BAKED.dtype.names or ()}


@dataclass(frozen=True, eq=False)
class BakedLook:
    """A material with images, by their places in `textures`, and words for what they do not say."""

    material: Material
    textures: list[Texture]
    lost: list[str]


def bake(compiled: CompiledScene, key: str, mesh: Mesh, worn: Material, size: int, threads: int) -> BakedLook:
    """What the part of a key wears, as images of `size` texels along a side, by the mesh's first set of coordinates.

    `worn` says what does not vary. The mesh has tangents (`with_tangents`), and its triangles in the order of the part.
    """
    values = _means(compiled, key, mesh, size, threads)
    lost = _not_in_images(worn)
    worn = worn.model_copy(update=_plain(worn))
    made = _Images()
    changes: dict[str, object] = {**made.color(values, worn), **made.surface(values), **made.emission(values)}
    changes |= made.transmission(values, worn) | made.normals(values, worn)
    for name, field, word in (
        ("coat", "coat_weight", "how its coat varies"), ("coat_roughness", "coat_roughness", "how rough its coat is"),
        ("fuzz", "fuzz_weight", "how its fuzz varies"),
    ):  # fmt: skip
        changes[field] = float(np.clip(values[name].mean(), 0.0, 1.0))
        if values["coat" if "coat" in name else name].max() > 0 and np.ptp(values[name]) > 0.02:
            lost.append(word)
    return BakedLook(worn.model_copy(update=changes), made.textures, lost)


def _not_in_images(worn: Material) -> list[str]:
    """What varies of a material that the images do not say, or say of one view alone."""
    lost = [f"how its {_called(name)} varies" for name in worn.inputs if name not in _IN_IMAGES]
    seen = [_called(name) for name, one in worn.inputs.items() if isinstance(one.source, LitBallSource)]
    return lost + [f"its {name} by a lit ball, but as this camera sees it" for name in seen]


def _called(name: str) -> str:
    """What a parameter of a material is called, within a sentence."""
    title = Material.model_fields[name].title or name
    return title[0].lower() + title[1:]


def with_tangents(mesh: Mesh) -> Mesh:
    """A mesh whose tangents follow its first set of coordinates, across seams of none: the mean over triangles."""
    assert mesh.uvs is not None
    corners, uv = mesh.positions[mesh.indices].astype(np.float64), mesh.uvs[0][mesh.indices].astype(np.float64)
    e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    d1, d2 = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    area = d1[:, 0] * d2[:, 1] - d2[:, 0] * d1[:, 1]
    # Weighted by the triangle's area on the surface, for the coordinates are divided out.
    along = (e1 * d2[:, 1:] - e2 * d1[:, 1:]) * np.sign(area)[:, None]
    weight = np.linalg.norm(np.cross(e1, e2), axis=1) / np.maximum(np.linalg.norm(along, axis=1), 1e-30)
    sums, hands = np.zeros((len(mesh.positions), 3)), np.zeros(len(mesh.positions))
    for corner in range(3):
        np.add.at(sums, mesh.indices[:, corner], along * weight[:, None])
        np.add.at(hands, mesh.indices[:, corner], area)
    normals = mesh.normals.astype(np.float64)
    sums -= normals * np.einsum("ij,ij->i", sums, normals)[:, None]
    length = np.linalg.norm(sums, axis=1, keepdims=True)
    across = np.cross(normals, np.where(np.abs(normals[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-30)
    unit = np.where(length > 1e-12, sums / np.maximum(length, 1e-30), across)
    # v runs downwards (glTF 2.0, section 3.9.3), hence the sign.
    return replace(mesh, tangents=np.column_stack([unit, np.where(hands > 0, -1.0, 1.0)]).astype(np.float32))


def _plain(worn: Material) -> dict[str, object]:
    """A material without what is in the images."""
    textures = {name: None for name in Material.model_fields if name.endswith("_texture")}
    return {**textures, "inputs": {}, "layers": (), "base_weight": 1.0, "vertex_colors": False, "bump": 0.0}


def _means(compiled: CompiledScene, key: str, mesh: Mesh, size: int, threads: int) -> dict[str, np.ndarray]:
    """(size, size, n) of each value by its name; normals in tangent space. What lies nowhere is as its next."""
    assert mesh.uvs is not None
    fine = texels_of(mesh.uvs[0], mesh.indices, size * _WITHIN)
    facing = _facings(compiled, key, mesh)
    found = {name: np.zeros((size, size, *shape), np.float32) for name, shape in _PARTS.items()}
    met = np.zeros((size, size), bool)
    for top in range(0, size, _ROWS):
        rows = slice(top * _WITHIN, min(top + _ROWS, size) * _WITHIN)
        there = fine.triangle[rows] >= 0
        if not there.any():
            continue
        sites = SITE.zeros(int(there.sum()))
        sites["primitive"] = fine.triangle[rows][there]
        sites["u"], sites["v"] = fine.u[rows][there], fine.v[rows][there]
        sites["facing"] = facing[sites["primitive"]]
        made = baked(compiled, key, sites, threads)
        counts = np.maximum(_summed(there[..., None].astype(np.float32)), 1e-9)
        met[top : top + _ROWS] = counts[..., 0] > 0.5
        for name, shape in _PARTS.items():
            dense = np.zeros((*there.shape, *shape), np.float32)
            dense[there] = made[name].reshape(len(sites), *shape)
            found[name][top : top + _ROWS] = _summed(dense) / counts
    nearest = distance_transform_edt(~met, return_distances=False, return_indices=True)
    found = {name: values[tuple(nearest)] for name, values in found.items()}
    triangle, u, v = (_any_of(each, fine.triangle >= 0)[tuple(nearest)] for each in (fine.triangle, fine.u, fine.v))
    own = found["normal"].astype(np.float64) @ compiled.pose_of(key)[:, :3]
    found["normal"] = _in_tangents(mesh, mesh.indices[np.maximum(triangle, 0)], u, v, own)
    return found


def _any_of(values: np.ndarray, there: np.ndarray) -> np.ndarray:
    """Of the places of each texel one that is there."""
    inner = (values.shape[0] // _WITHIN, _WITHIN, values.shape[1] // _WITHIN, _WITHIN)
    grouped, known = (
        each.reshape(inner).swapaxes(1, 2).reshape(inner[0], inner[2], _WITHIN**2) for each in (values, there)
    )
    return np.asarray(np.take_along_axis(grouped, known.argmax(axis=2)[..., None], axis=2)[..., 0])


def _summed(dense: np.ndarray) -> np.ndarray:
    """Sums over the places of each texel."""
    height, width, channels = dense.shape
    return np.asarray(dense.reshape(height // _WITHIN, _WITHIN, width // _WITHIN, _WITHIN, channels).sum(axis=(1, 3)))


def _facings(compiled: CompiledScene, key: str, mesh: Mesh) -> np.ndarray:
    """(m, 3) unit normals of the triangles in the world."""
    corners = mesh.positions[mesh.indices].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    placed = across @ np.linalg.inv(compiled.pose_of(key)[:, :3])
    return np.asarray(placed / np.maximum(np.linalg.norm(placed, axis=1, keepdims=True), 1e-30))


def _in_tangents(mesh: Mesh, corners: np.ndarray, u: np.ndarray, v: np.ndarray, own: np.ndarray) -> np.ndarray:
    """(h, w, 3) normals of the mesh's space in the frames of its normals and tangents (glTF 2.0, section 3.9.3).

    At barycentrics (h, w) on triangles of the vertices (h, w, 3).
    """
    assert mesh.tangents is not None
    u, v = u[..., None].astype(np.float64), v[..., None].astype(np.float64)

    def blended(rows: np.ndarray) -> np.ndarray:
        a, b, c = (rows[corners[..., corner]] for corner in range(3))
        return np.asarray(a * (1 - u - v) + b * u + c * v)

    normal, tangent = _unit(blended(mesh.normals)), blended(mesh.tangents[:, :3])
    tangent = _unit(tangent - normal * (tangent * normal).sum(axis=-1, keepdims=True))
    bitangent = np.cross(normal, tangent) * mesh.tangents[corners[..., 0], 3][..., None]
    return _unit(np.stack([(own * axis).sum(axis=-1) for axis in (tangent, bitangent, normal)], axis=-1))


def _unit(rows: np.ndarray) -> np.ndarray:
    return np.asarray(rows / np.maximum(np.linalg.norm(rows, axis=-1, keepdims=True), 1e-30))


class _Images:
    """The images of one look, and the fields of a material that refer to them."""

    def __init__(self) -> None:
        self.textures: list[Texture] = []

    def _add(self, values: np.ndarray) -> TextureUse:
        """An image of (h, w, channels) within [0, 1], as stored."""
        self.textures.append(Texture(np.ascontiguousarray(np.rint(values * 255).astype(np.uint8)), CLAMP, CLAMP))
        return TextureUse(texture=len(self.textures) - 1)

    def color(self, values: dict[str, np.ndarray], worn: Material) -> dict[str, object]:
        """The colour, with the opacity where that varies."""
        color, opacity = encode_srgb(np.clip(values["color"], 0, 1)), np.clip(values["opacity"], 0, 1)
        white: dict[str, object] = {"base_color": (1.0, 1.0, 1.0), "transmission_tint": (1.0, 1.0, 1.0)}
        if np.ptp(opacity) <= _EVEN:
            alpha = float(opacity.mean())
            return {
                **white, "base_color_texture": self._add(color), "alpha_mode": "opaque",
                "geometry_opacity": alpha if alpha < 1 - _EVEN else 1.0,
            }  # fmt: skip
        mode = worn.alpha_mode if worn.alpha_mode != "opaque" else "blend"
        use = self._add(np.concatenate([color, opacity], axis=2))
        return {**white, "base_color_texture": use, "alpha_mode": mode, "geometry_opacity": 1.0}

    def surface(self, values: dict[str, np.ndarray]) -> dict[str, object]:
        """Roughness and metalness, in the channels that glTF has them in (2.0, section 5.22.5)."""
        rough, metal = np.clip(values["roughness"], 0, 1), np.clip(values["metalness"], 0, 1)
        if np.ptp(rough) <= _EVEN and np.ptp(metal) <= _EVEN:
            return {"specular_roughness": float(rough.mean()), "base_metalness": float(metal.mean())}
        use = self._add(np.concatenate([np.zeros_like(rough), rough, metal], axis=2))
        return {"metallic_roughness_texture": use, "specular_roughness": 1.0, "base_metalness": 1.0}

    def emission(self, values: dict[str, np.ndarray]) -> dict[str, object]:
        """Luminance in one number, the brightest, and an image of shares of it."""
        brightest = float(values["emission"].max())
        plain: dict[str, object] = {"emission_lumens": None, "emission_temperature": None}
        if brightest <= 0:
            return plain | {"emission_luminance": 0.0}
        shares = np.clip(values["emission"] / brightest, 0, 1)
        if np.ptp(shares, axis=(0, 1)).max() <= _EVEN:
            color = tuple(float(v) for v in shares.mean(axis=(0, 1)))
            return plain | {"emission_luminance": brightest, "emission_color": color}
        use, white = self._add(encode_srgb(shares)), (1.0, 1.0, 1.0)
        return plain | {"emission_luminance": brightest, "emission_color": white, "emission_texture": use}

    def transmission(self, values: dict[str, np.ndarray], worn: Material) -> dict[str, object]:
        """How clear it is, which is nothing where the inside is not to be had."""
        clear = np.clip(values["transmission"], 0, 1)
        if worn.transmission_weight <= 0 and clear.max() <= _EVEN:
            return {"transmission_weight": 0.0}
        if np.ptp(clear) <= _EVEN:
            return {"transmission_weight": float(clear.mean())}
        return {"transmission_weight": 1.0, "transmission_texture": self._add(np.repeat(clear, 3, axis=2))}

    def normals(self, values: dict[str, np.ndarray], worn: Material) -> dict[str, object]:
        """Normals in tangent space, where they are others than those of the mesh."""
        normal = _unit(values["normal"])
        if np.abs(normal[..., :2]).max() < 0.01:
            return {}
        use = self._add(np.clip(normal * 0.5 + 0.5, 0, 1))
        # What stands out stands out under the coat as well.
        coat = use if worn.coat_weight > 0 else None
        return {"normal_texture": use, "normal_scale": 1.0, "coat_normal_texture": coat, "coat_normal_scale": 1.0}
