"""OBJ export: an OBJ, its MTL and its images in one zip ("Object Files (.obj)", "MTL material format", with the
additions for physically based shading).

In: a `Content`. Out: the bytes of a zip, and what it could not say. Called by `engine.exporting`. Everything stands
where it is at the document's moment, in metres; copies are written out.
"""

import io
import zipfile
from collections.abc import Iterator, Mapping

import numpy as np
from scipy.spatial.transform import Rotation

from lantern.assets.mesh import Mesh, carried
from lantern.assets.textures import CLAMP, Texture
from lantern.assets.writers.content import Content, Placed, Written, unsaid
from lantern.assets.writers.images import png_of
from lantern.color import encode_srgb
from lantern.scene.document import Material
from lantern.scene.texture_use import TextureUse

MOST_TRIANGLES = 5_000_000
"""That a file of text may hold; copies beyond it are left out."""
_UNSAID = (
    ("subsurface_weight", "subsurface"), ("thin_film_weight", "its thin film"),
    ("coat_color", "the colour of its coat"), ("transmission_depth", "the colour of its depth"),
    ("transmission_dispersion_scale", "dispersion"),
)  # fmt: skip


def write_obj(content: Content, stem: str = "model") -> Written:
    """The zip of a scene; `stem` is what its files are called."""
    writer = _Writer(content, stem)
    return Written(writer.packed(), writer.lost)


class _Writer:
    def __init__(self, content: Content, stem: str) -> None:
        self._content, self._stem = content, stem
        self.lost: list[str] = []
        self._images: dict[tuple[int, int], str] = {}
        self._files: dict[str, bytes] = {}
        self._counts = np.array([1, 1, 1])  # numbers of the next position, coordinate and normal
        self._room = MOST_TRIANGLES

    def packed(self) -> bytes:
        names = _words(self._content.materials)
        objects = [self._object(part, names) for part in self._content.parts]
        if self._content.lights:
            self.lost.append("lights: OBJ has none")
        self.lost.append("the camera: OBJ has none")
        lines = [f"# {self._content.name}", f"mtllib {self._stem}.mtl", *objects]
        worn = {part.material for part in self._content.parts}
        library = [self._material(names[key], self._content.materials[key]) for key in names if key in worn]
        found = io.BytesIO()
        with zipfile.ZipFile(found, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(f"{self._stem}.obj", "\n".join(lines) + "\n")
            archive.writestr(f"{self._stem}.mtl", "\n\n".join(library) + "\n")
            for name, data in self._files.items():
                archive.writestr(name, data, zipfile.ZIP_STORED)
        return found.getvalue()

    def _object(self, part: Placed, names: Mapping[str, str]) -> str:
        mesh = self._content.meshes[part.mesh]
        if mesh.shapes is not None or len(part.matrices) > 1:
            self.lost.append(f"{part.name}: how it moves or changes its shape")
        if mesh.uvs is not None and len(mesh.uvs) > 1:
            self.lost.append(f"{part.name}: OBJ has one set of texture coordinates")
        lines = [f"o {' '.join(part.name.split()) or 'part'}", f"usemtl {names[part.material]}"]
        for matrix in _matrices(part):
            if self._room < mesh.triangles:
                self.lost.append(f"{part.name}: copies beyond {MOST_TRIANGLES / 1e6:.0f} million triangles in all")
                break
            self._room -= mesh.triangles
            lines += self._faces(carried(mesh, matrix), colored=self._content.materials[part.material].vertex_colors)
        return "\n".join(lines)

    def _faces(self, mesh: Mesh, *, colored: bool) -> Iterator[str]:
        rows = mesh.positions
        if colored and mesh.colors is not None:
            rows = np.column_stack([rows, encode_srgb(np.clip(mesh.colors[:, :3], 0, 1))])
        yield _table("v", rows)
        number = mesh.indices.astype(np.int64)
        columns = [number + self._counts[0]]
        if mesh.uvs is not None:
            # An OBJ's v runs up from the lower edge.
            yield _table("vt", mesh.uvs[0] * [1, -1] + [0, 1])
            columns.append(number + self._counts[1])
            self._counts[1] += len(mesh.positions)
        yield _table("vn", mesh.normals)
        columns.append(number + self._counts[2])
        self._counts[[0, 2]] += len(mesh.positions)
        corner = "%d/%d/%d" if mesh.uvs is not None else "%d//%d"
        corners = np.stack(columns, axis=2).reshape(len(number), -1)
        yield "\n".join([f"f {corner} {corner} {corner}" % tuple(row) for row in corners.tolist()])

    def _material(self, word: str, m: Material) -> str:
        self.lost += unsaid(m, _UNSAID)
        base = [c * m.base_weight for c in m.base_color]
        lines = [
            f"newmtl {word}", "Kd " + _numbers(base), "Ks " + _numbers([m.specular_weight * 0.5] * 3),
            f"Pr {m.specular_roughness:.6g}", f"Pm {m.base_metalness:.6g}", f"Ni {m.specular_ior:.6g}",
        ]  # fmt: skip
        if m.transmission_weight > 0:
            lines += ["illum 7", f"d {1 - m.transmission_weight:.6g}", "Tf " + _numbers(m.transmission_tint)]
        else:
            lines += ["illum 2", f"d {m.geometry_opacity:.6g}"]
        if m.coat_weight > 0:
            lines += [f"Pc {m.coat_weight:.6g}", f"Pcr {m.coat_roughness:.6g}"]
        if m.fuzz_weight > 0:
            lines.append(f"Ps {m.fuzz_weight:.6g}")
        if m.specular_roughness_anisotropy > 0:
            turn = m.tangent_rotation / 360 % 1
            lines += [f"aniso {m.specular_roughness_anisotropy:.6g}", f"anisor {turn:.6g}"]
        if m.emission_luminance > 0:
            lines.append("Ke " + _numbers([c * m.emission_luminance for c in m.emission_color]))
        return "\n".join([*lines, *self._maps(m)])

    def _maps(self, m: Material) -> Iterator[str]:
        if m.base_color_texture:
            yield "map_Kd " + self._map(m.base_color_texture, (0, 1, 2))
            if m.alpha_mode != "opaque":
                yield "map_d " + self._map(m.base_color_texture, (3,))
        if m.metallic_roughness_texture:
            yield "map_Pr " + self._map(m.metallic_roughness_texture, (1,))
            yield "map_Pm " + self._map(m.metallic_roughness_texture, (2,))
        if m.emission_texture:
            yield "map_Ke " + self._map(m.emission_texture, (0, 1, 2))
        if m.normal_texture:
            yield f"norm -bm {m.normal_scale:.6g} " + self._map(m.normal_texture, (0, 1, 2))

    def _map(self, use: TextureUse, channels: tuple[int, ...]) -> str:
        """Options and name of an image: some channels of a texture."""
        texture = self._content.textures[use.texture]
        key = use.texture, channels[0]
        if key not in self._images:
            self._images[key] = f"{self._stem}-{len(self._images) + 1}.png"
            self._files[self._images[key]] = png_of(_channels(texture, channels), self.lost)
        a, b, c, d, e, f = use.matrix
        if b or d:
            self.lost.append("an image that is turned on its surface: OBJ can only shift and size it")
        laid = f"-s {a:.6g} {e:.6g} 1 -o {c:.6g} {1 - e - f:.6g} 0 " if (a, c, e, f) != (1, 0, 1, 0) else ""
        return f"{'-clamp on ' if texture.wrap_u == CLAMP else ''}{laid}{self._images[key]}"


def _channels(texture: Texture, wanted: tuple[int, ...]) -> np.ndarray:
    """(h, w, channels) of those of a texture; of one that has fewer, its last."""
    count = texture.texels.shape[2]
    # Grey with alpha is stored in two channels.
    grey = count <= 2
    picked = [count - 1 if grey and n == 3 else 0 if grey else min(n, count - 1) for n in wanted]
    return np.ascontiguousarray(texture.texels[..., picked])


def _matrices(part: Placed) -> Iterator[np.ndarray]:
    if part.copies is None:
        yield part.matrices[0]
        return
    turns = Rotation.from_quat(part.copies.turns).as_matrix() if len(part.copies.places) else np.zeros((0, 3, 3))
    for place, turn, size in zip(part.copies.places, turns, part.copies.sizes, strict=True):
        over = np.eye(4)
        over[:3, :3], over[:3, 3] = turn * size, place
        yield over @ part.matrices[0]


def _words(materials: Mapping[str, Material]) -> dict[str, str]:
    """A name without spaces, which no other material has, by key."""
    found: dict[str, str] = {}
    for key, material in materials.items():
        word = "_".join(material.name.split()) or "material"
        found[key] = word if word not in found.values() else f"{word}_{key}"
    return found


def _table(word: str, rows: np.ndarray) -> str:
    line = word + " %.7g" * rows.shape[1]
    return "\n".join([line % tuple(row) for row in rows.tolist()])


def _numbers(values: object) -> str:
    return " ".join(f"{v:.6g}" for v in np.asarray(values, np.float64))
