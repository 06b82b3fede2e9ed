"""GLB export: what stands in a scene as nodes, meshes, materials, lights, a camera and motion (glTF 2.0).

In: parts where they stand, what they are made of, lights, a camera. Out: the bytes of a GLB, and what it could not say.
Called by `engine.exporting`. Lengths are metres, +Y is up, light is in cd and lx, as the standard has them.
"""

import math
from itertools import accumulate
from typing import Any

import numpy as np
from scipy.linalg import polar
from scipy.spatial.transform import Rotation

from lantern.assets.mesh import Mesh, carried
from lantern.assets.writers.content import Content, Copies, Placed, Written, looking
from lantern.assets.writers.gltf_buffer import ARRAY, ELEMENTS, GlbBuffer
from lantern.assets.writers.gltf_materials import MaterialWriter
from lantern.scene.lights import DirectionalLight, LightBase, PointLight, SpotLight

PUNCTUAL, INSTANCING, VARIANTS = "KHR_lights_punctual", "EXT_mesh_gpu_instancing", "KHR_materials_variants"
_SHEAR = 1e-4
"""Of the size of a matrix: beyond it, it is no translation, rotation and scale."""


def write_glb(content: Content) -> Written:
    """The GLB of a scene. Meshes that several parts wear in one material are written once."""
    return _Writer(content).write()


class _Writer:
    def __init__(self, content: Content) -> None:
        self._content = content
        self._buffer = GlbBuffer()
        self._lost: list[str] = []
        self._materials = MaterialWriter(self._buffer, content.textures, self._lost)
        self._worn: dict[str, int] = {}
        self._firsts = list(accumulate((len(one.variants) for one in content.variants), initial=0))
        """The number of the first variant of each set."""
        self._instances = False
        self._primitives: dict[int, dict[str, Any]] = {}
        self._meshes: dict[tuple[int, str, tuple[tuple[tuple[int, int], str], ...]], int] = {}
        self._json: dict[str, list[dict[str, Any]]] = {"nodes": [], "meshes": []}
        self._channels: list[dict[str, Any]] = []
        self._samplers: list[dict[str, Any]] = []

    def write(self) -> Written:
        content, nodes = self._content, self._json["nodes"]
        for part in content.parts:
            self._add_part(part)
        lights: list[dict[str, Any]] = []
        for light in content.lights:
            if (said := self._light(light)) is None:
                continue
            where = _columns(looking(light.position, light.target))
            extension = {PUNCTUAL: {"light": len(lights)}}
            nodes.append({"name": light.name, "matrix": where, "extensions": extension})
            lights.append(said)
        camera = self._camera()
        document: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Velvet Lantern"},
            "scene": 0,
            "scenes": [{"name": content.name, "nodes": list(range(len(nodes)))}],
            **self._json,
            "materials": self._materials.materials,
            "textures": self._materials.textures,
            "images": self._materials.images,
            "samplers": self._materials.samplers,
            "cameras": camera,
            "animations": self._animations(),
            "extensions": ({PUNCTUAL: {"lights": lights}} if lights else {})
            | ({VARIANTS: {"variants": self._variants()}} if content.variants else {}),
        }
        used = (
            self._materials.extensions
            | ({PUNCTUAL} if lights else set())
            | ({INSTANCING} if self._instances else set())
            | ({VARIANTS} if content.variants else set())
        )
        return Written(self._buffer.packed(document | {"extensionsUsed": sorted(used)}), self._lost)

    def _variants(self) -> list[dict[str, Any]]:
        """The format has one list of them: of several sets the names say of which they are."""
        sets = self._content.variants
        return [{"name": name if len(sets) == 1 else f"{one.name}: {name}"} for one in sets for name in one.variants]

    def _add_part(self, part: Placed) -> None:
        if part.copies is not None:
            self._add_copies(part, part.copies)
            return
        node: dict[str, Any] = {"name": part.name, "mesh": self._mesh(part)}
        if len(part.matrices) == 1:
            node["matrix"] = _columns(part.matrices[0])
        else:
            node |= self._moving(part, len(self._json["nodes"]))
        self._json["nodes"].append(node)

    def _add_copies(self, part: Placed, copies: Copies) -> None:
        """One node for all copies; the extension lays nothing between them and the mesh, which takes the matrix in."""
        if not len(copies.places):
            return
        primitive = self._primitive(carried(self._content.meshes[part.mesh], part.matrices[0]))
        mesh = self._dressed(part, primitive)
        rows = {"TRANSLATION": copies.places, "ROTATION": copies.turns, "SCALE": np.repeat(copies.sizes[:, None], 3, 1)}
        attributes = {name: self._buffer.accessor(values.astype(np.float32)) for name, values in rows.items()}
        extension = {INSTANCING: {"attributes": attributes}}
        self._json["nodes"].append({"name": part.name, "mesh": mesh, "extensions": extension})
        self._instances = True

    def _mesh(self, part: Placed) -> int:
        """The number of a part's mesh in its material."""
        worn = part.mesh, part.material, tuple(part.variants.items())
        if worn not in self._meshes:
            mesh = self._content.meshes[part.mesh]
            if part.mesh not in self._primitives:
                if mesh.shapes is not None:
                    self._lost.append(f"mesh {part.mesh}: how its shape changes")
                self._primitives[part.mesh] = self._primitive(mesh)
            self._meshes[worn] = self._dressed(part, self._primitives[part.mesh])
        return self._meshes[worn]

    def _dressed(self, part: Placed, primitive: dict[str, Any]) -> int:
        """The number of a new mesh; its colours are left out when they do not tint its material."""
        attributes = primitive["attributes"]
        if not self._content.materials[part.material].vertex_colors:
            attributes = {key: value for key, value in attributes.items() if key != "COLOR_0"}
        worn = primitive | {"attributes": attributes, "material": self._material(part.material)}
        if part.variants:
            numbers: dict[int, list[int]] = {}
            for (group, variant), material in part.variants.items():
                numbers.setdefault(self._material(material), []).append(self._firsts[group] + variant)
            mappings = [{"material": number, "variants": variants} for number, variants in numbers.items()]
            worn["extensions"] = {VARIANTS: {"mappings": mappings}}
        self._json["meshes"].append({"name": part.name, "primitives": [worn]})
        return len(self._json["meshes"]) - 1

    def _material(self, key: str) -> int:
        if key not in self._worn:
            self._worn[key] = self._materials.add(self._content.materials[key])
        return self._worn[key]

    def _primitive(self, mesh: Mesh) -> dict[str, Any]:
        attributes = {
            "POSITION": self._buffer.accessor(mesh.positions, ARRAY, bounds=True),
            "NORMAL": self._buffer.accessor(mesh.normals, ARRAY),
        }
        if mesh.tangents is not None:
            attributes["TANGENT"] = self._buffer.accessor(_unit_tangents(mesh.tangents), ARRAY)
        for set_number, uvs in enumerate(() if mesh.uvs is None else mesh.uvs):
            attributes[f"TEXCOORD_{set_number}"] = self._buffer.accessor(uvs, ARRAY)
        if mesh.colors is not None:
            attributes["COLOR_0"] = self._buffer.accessor(np.clip(mesh.colors, 0, 1).astype(np.float32), ARRAY)
        indices = self._buffer.accessor(mesh.indices.ravel().astype(np.uint32), ELEMENTS)
        return {"attributes": attributes, "indices": indices}

    def _moving(self, part: Placed, node: int) -> dict[str, Any]:
        """Translation, rotation and scale of a node that moves, as it is at its first key; channels for all of them."""
        moves, turns, sizes = part.matrices[:, :3, 3], [], []
        sheared = False
        for matrix in part.matrices:
            turned, stretch = polar(matrix[:3, :3])
            if np.linalg.det(turned) < 0:
                turned, stretch = -turned, -stretch
            off = np.abs(stretch - np.diag(np.diag(stretch))).max()
            sheared |= bool(off > _SHEAR * np.abs(stretch).max())
            turns.append(Rotation.from_matrix(turned).as_quat())
            sizes.append(np.diag(stretch))
        if sheared:
            self._lost.append(f"{part.name}: its motion slants it, which is left out")
        quaternions = np.array(turns)
        flips = np.cumprod(np.where(np.einsum("ki,ki->k", quaternions[1:], quaternions[:-1]) < 0, -1.0, 1.0))
        quaternions[1:] *= flips[:, None]
        times = self._buffer.accessor(part.moments.astype(np.float32), bounds=True)
        values = {"translation": moves, "rotation": quaternions, "scale": np.array(sizes)}
        for path, rows in values.items():
            output = self._buffer.accessor(rows.astype(np.float32))
            self._samplers.append({"input": times, "output": output, "interpolation": "LINEAR"})
            target = {"node": node, "path": path}
            self._channels.append({"sampler": len(self._samplers) - 1, "target": target})
        return {path: rows[0].tolist() for path, rows in values.items()}

    def _animations(self) -> list[dict[str, Any]]:
        return [{"name": "Motion", "channels": self._channels, "samplers": self._samplers}] if self._channels else []

    def _light(self, light: LightBase) -> dict[str, Any] | None:
        """What the extension says of a light in cd or lx; None for one that it has no word for."""
        kind = {PointLight: "point", SpotLight: "spot", DirectionalLight: "directional"}.get(type(light))
        if kind is None:
            self._lost.append(f"light {light.name!r}: glTF knows lights without extent alone")
            return None
        said = {"name": light.name, "type": kind, "color": list(light.color), "intensity": light.amount}
        if isinstance(light, SpotLight):
            outer = min(math.radians(light.cone) / 2, math.pi / 2)
            said["spot"] = {"outerConeAngle": outer, "innerConeAngle": outer * (1 - light.softness)}
        return said

    def _camera(self) -> list[dict[str, Any]]:
        camera = self._content.camera
        if camera.projection != "perspective":
            self._lost.append("the camera: only perspective ones are written")
            return []
        height = 2 * math.atan(camera.sensor_width / self._content.aspect / (2 * camera.focal_length))
        matrix = looking(camera.position, camera.target, camera.roll)
        self._json["nodes"].append({"name": "Camera", "camera": 0, "matrix": _columns(matrix)})
        return [
            {
                "type": "perspective",
                "perspective": {"yfov": height, "aspectRatio": self._content.aspect, "znear": 0.001},
            }
        ]


def _columns(matrix: np.ndarray) -> list[float]:
    return [float(v) for v in matrix.T.ravel()]


def _unit_tangents(tangents: np.ndarray) -> np.ndarray:
    """Tangents of length 1 with a handedness of 1 or -1, as the standard asks."""
    length = np.linalg.norm(tangents[:, :3], axis=1, keepdims=True)
    unit = np.where(length > 1e-12, tangents[:, :3] / np.maximum(length, 1e-12), [1.0, 0.0, 0.0])
    return np.column_stack([unit, np.where(tangents[:, 3] < 0, -1.0, 1.0)]).astype(np.float32)
