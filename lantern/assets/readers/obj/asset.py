"""OBJ import with its MTL and textures ("Object files (.obj)", version 3.0, 1995).

In: a source. Out: an `ImportedAsset` with a part for each group and material. Called by `reading`. It has no unit and
no upright axis: taken as metres, with Y up.
"""

import codecs
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import tinyobjloader

from lantern.assets.cage import Cage, Channel, cage_of_faces
from lantern.assets.corners import mesh_of_corners
from lantern.assets.imported import DEFAULT, ImportedAsset, Progress
from lantern.assets.keys import unique_key
from lantern.assets.mesh import Mesh
from lantern.assets.polygons import triangulated
from lantern.assets.readers.obj.materials import MtlReader
from lantern.assets.readers.obj.mtl import MtlMaterial, parse_mtl
from lantern.assets.smoothing import smooth_mesh
from lantern.assets.source import Neighbours, Source
from lantern.color import decode_srgb
from lantern.scene.document import Part
from lantern.scene.fields import FAR

_STATEMENT = re.compile(rb"[ \t]*(?:v[nt]?[ \t]+[-+.\dniNI]|[flp][ \t]+-?\d|(?:o|g|s|usemtl|mtllib|usemap|cstype)\b)")
_MOST = 0.8
"""Share of the lines of an OBJ that are statements which are known here."""
_USE = re.compile(rb"^[ \t]*usemtl[ \t]+(.*?)[ \t]*\r?$", re.MULTILINE)
_UNSEEN = re.compile(rb"^[ \t]*(?:[lp]|curv2?|surf)[ \t]", re.MULTILINE)
_SMOOTHING = re.compile(rb"^[ \t]*s[ \t]+[1-9]", re.MULTILINE)
_LIBRARY = re.compile(rb"^[ \t]*mtllib[ \t]+(.*?)[ \t]*\r?$", re.MULTILINE)


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as text most of whose lines are statements of an OBJ, or with a long remark."""
    text = _plain(head)
    if b"\0" in text:
        return False
    lines = text.split(b"\n") if size <= len(head) else text.split(b"\n")[:-1]
    lines = [line for line in lines if line.strip()]
    said = [line for line in lines if not line.lstrip().startswith(b"#")]
    if not said:
        return bool(lines) and size > len(head)
    return sum(_STATEMENT.match(line) is not None for line in said) >= _MOST * len(said)


def _plain(data: bytes) -> bytes:
    """Text in two bytes a letter, which a mark at its beginning tells, in UTF-8."""
    if data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        return data[: len(data) // 2 * 2].decode("utf-16", "replace").encode()
    return data.removeprefix(codecs.BOM_UTF8)


def read(source: Source, progress: Progress) -> ImportedAsset:
    """Every group with its materials. Raises AssetError when it is damaged or has no triangles."""
    data = _plain(source.path.read_bytes())
    asset = ImportedAsset(Path(source.name).stem[:200] or "asset", "OBJ")
    asset.problems.append("OBJ says no unit: taken as metres")
    if _UNSEEN.search(data):
        asset.problems.append("lines, points and curves are not drawn")
    if _SMOOTHING.search(data) and not re.search(rb"^[ \t]*vn[ \t]", data, re.MULTILINE):
        asset.problems.append("smoothing groups are not used: surfaces are smooth up to an angle")
    neighbours = Neighbours(source)
    progress("Reading materials", 0.1)
    library = _library(data, neighbours, asset)
    uses = list(dict.fromkeys(_text(name) for name in _USE.findall(data)))
    progress("Reading meshes", 0.3)
    shapes, arrays = _parsed(source, data, uses)
    progress("Smoothing", 0.6)
    made = _Made(asset, uses, library, MtlReader(asset, neighbours), arrays)
    for shape in shapes:
        made.add(source, shape)
    return asset


def _text(name: bytes) -> str:
    try:
        return name.decode()
    except UnicodeDecodeError:
        return name.decode("latin-1")


def _library(data: bytes, neighbours: Neighbours, asset: ImportedAsset) -> dict[str, MtlMaterial]:
    found: dict[str, MtlMaterial] = {}
    for statement in dict.fromkeys(_LIBRARY.findall(data)):
        # One line may name several files, or one whose name has spaces.
        mentioned = _text(statement)
        names = [mentioned] if neighbours.find(mentioned) else mentioned.split()
        for name in names:
            if path := neighbours.find(name):
                found |= parse_mtl(_text(path.read_bytes()))
            else:
                asset.problems.append(f"material file {name[:120]!r} is missing")
    return found


def _parsed(source: Source, data: bytes, uses: list[str]) -> tuple[list[Any], dict[str, np.ndarray]]:
    """The library's shapes, whose materials are numbers into `uses`, and the arrays that they point into."""
    numbers = {name: f"usemtl m{number}".encode() for number, name in enumerate(uses)}
    plain = _USE.sub(lambda match: numbers[_text(match[1])], _LIBRARY.sub(b"", data))
    known = "".join(f"newmtl m{number}\n" for number in range(len(uses)))
    reader, config = tinyobjloader.ObjReader(), tinyobjloader.ObjReaderConfig()
    config.triangulate = False  # it would look up vertices that are not there
    read = reader.ParseFromString("mtllib known\n" + plain.decode("latin-1"), known, config)
    if not read:
        raise source.fail(f"is a damaged OBJ ({' '.join(reader.Error().split())[:160] or 'it cannot be read'})")
    attributes = reader.GetAttrib()
    positions = np.array(attributes.vertices, np.float32).reshape(-1, 3)
    arrays = {
        "positions": positions,
        "normals": np.array(attributes.normals, np.float32).reshape(-1, 3),
        "uvs": np.array(attributes.texcoords, np.float32).reshape(-1, 2),
        "colors": np.array(attributes.colors, np.float32).reshape(-1, 3),
    }
    return list(reader.GetShapes()), arrays


class _Made:
    """Makes parts of shapes."""

    def __init__(
        self,
        asset: ImportedAsset,
        uses: list[str],
        library: dict[str, MtlMaterial],
        materials: MtlReader,
        arrays: dict[str, np.ndarray],
    ) -> None:
        self._asset, self._uses, self._library, self._materials = asset, uses, library, materials
        self._arrays = arrays
        colors = arrays["colors"]
        # The library fills in white where the file says nothing.
        self._colored = len(colors) == len(arrays["positions"]) and bool((colors != 1).any())
        self._keys: dict[int, str] = {}

    def add(self, source: Source, shape: Any) -> None:
        """The parts of one shape. Raises AssetError when it points at what is not there."""
        mesh, name = shape.mesh, (_text(shape.name.encode("latin-1")).strip() or self._asset.name)[:180]
        counts = np.array(mesh.num_face_vertices, np.int64)
        vertices = np.array(mesh.vertex_indices(), np.int64)
        if not len(vertices):
            self._asset.problems.append(f"{name}: has no triangles and is left out")
            return
        if counts.sum() != len(vertices) or vertices.min() < 0 or vertices.max() >= len(self._arrays["positions"]):
            raise source.fail(f"{name}: has a face of a vertex that is not there")
        used = self._arrays["positions"][vertices]
        if not np.isfinite(used).all() or np.abs(used).max() > FAR:
            raise source.fail(f"{name}: has vertices that are no numbers, or lie beyond {FAR:g} m")
        triangles, faces = triangulated(counts, used)
        named = {"positions": vertices, "normals": mesh.normal_indices(), "uvs": mesh.texcoord_indices()}
        corners = {kind: np.array(numbers, np.int64)[triangles] for kind, numbers in named.items()}
        worn = np.array(mesh.material_ids, np.int64)[faces]
        different = np.unique(worn)
        for number in different:
            chosen = worn == number
            made = self._mesh({key: array[chosen] for key, array in corners.items()})
            if made.triangles == 0:
                continue
            whole = {kind: np.asarray(numbers, np.int64) for kind, numbers in named.items()}
            made = replace(made, cage=self._cage(counts, whole, np.array(mesh.material_ids, np.int64) == number))
            own = name if len(different) == 1 else f"{name} {self._name_of(int(number))}"[:200]
            self._asset.meshes.append(made)
            self._asset.parts[unique_key(own, self._asset.parts)] = Part(
                name=own, mesh=len(self._asset.meshes) - 1, material=self._key(int(number))
            )

    def _mesh(self, corners: dict[str, np.ndarray]) -> Mesh:
        vertices, indices = np.unique(corners["positions"], return_inverse=True)
        indices = indices.reshape(-1, 3)
        positions = self._arrays["positions"][vertices]
        coordinates = self._of_corners("uvs", corners)
        uvs = None if coordinates is None else (coordinates * [1, -1] + [0, 1])[None].astype(np.float32)
        colors = None
        if self._colored:
            shades = decode_srgb(self._arrays["colors"][corners["positions"].ravel()])
            colors = np.column_stack([shades, np.ones(len(shades))])
        normals = self._of_corners("normals", corners)
        if normals is None:
            return smooth_mesh(positions, indices, colors, uvs)
        return mesh_of_corners(positions, indices, normals, uvs, colors)

    def _cage(self, counts: np.ndarray, corners: dict[str, np.ndarray], chosen: np.ndarray) -> Cage | None:
        """The faces of one material as the file has them."""
        three = np.repeat(chosen, counts)
        indices, stored = corners["uvs"][three], self._arrays["uvs"]
        has_uvs = len(stored) and len(indices) and indices.min() >= 0 and indices.max() < len(stored)
        uvs = [Channel((stored * [1, -1] + [0, 1]).astype(np.float32), indices)] if has_uvs else []
        vertices = corners["positions"][three]
        colors = None
        if self._colored:
            shades = decode_srgb(self._arrays["colors"])
            colors = Channel(np.column_stack([shades, np.ones(len(shades))]), vertices)
        return cage_of_faces(self._arrays["positions"], counts[chosen], vertices, uvs, colors)

    def _of_corners(self, kind: str, corners: dict[str, np.ndarray]) -> np.ndarray | None:
        """(3m, width) of what the corners say; None unless all of them do, with numbers."""
        places, values = corners[kind].ravel(), self._arrays[kind]
        if not len(values) or places.min() < 0 or places.max() >= len(values):
            return None
        found = values[places]
        return found if np.isfinite(found).all() else None

    def _name_of(self, number: int) -> str:
        return self._uses[number] if 0 <= number < len(self._uses) else "without material"

    def _key(self, number: int) -> str:
        """Key of a material, made when it is first worn."""
        if number not in self._keys:
            name = self._name_of(number)[:200] or "Material"
            said = self._library.get(self._name_of(number))
            if said is None:
                if number >= 0:
                    self._asset.problems.append(f"material {name!r} is not described in a file that came with it")
                material = DEFAULT.model_copy(update={"name": name if number >= 0 else DEFAULT.name})
            else:
                material = self._materials.convert(name, said)
            self._keys[number] = unique_key(name if number >= 0 else "default", self._asset.materials)
            self._asset.materials[self._keys[number]] = material.model_copy(update={"vertex_colors": self._colored})
        return self._keys[number]
