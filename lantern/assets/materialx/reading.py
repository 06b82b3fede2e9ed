"""Materials of a file: MaterialX 1.39 by itself, or in a zip with its images.

In: a file, a folder for the images in it. Out: materials with what lies over them, files of images by their SHA-256,
and what could not be had. Called by the server's reader of uploads. Nothing beside the file is read.
"""

import hashlib
import zipfile
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any

import MaterialX as mx
import numpy as np
from pydantic import ValidationError

from lantern.assets.errors import AssetError
from lantern.assets.laid import placement_by_coordinates, turned_over
from lantern.assets.materialx.surfaces import SURFACES, Values
from lantern.assets.materialx.values import Constant, Given, Image, Normals, Reckoner, Value
from lantern.assets.materialx.words import NORMALS, OURS, beyond_openpbr, library, limits, parsed
from lantern.assets.pictures import PictureError, read_picture
from lantern.scene.document import Material
from lantern.scene.inputs import PARAMETERS, MaterialInput
from lantern.scene.layers import MOST_LAYERS, Layer
from lantern.scene.model import FileRef
from lantern.scene.sources import PictureSource
from lantern.scene.texture_use import TextureUse

_LONGEST = 32 << 20
"""Bytes of a document."""
_MOST_FILES, _MOST_MATERIALS = 2000, 200
_CHANNELS = ("red", "green", "blue", "alpha")
_MAPS = {
    ("base_color", None, True): "base_color_texture", ("emission_color", None, True): "emission_texture",
    ("transmission_weight", 0, False): "transmission_texture",
    ("transmission_tint", None, True): "transmission_tint_texture",
}  # fmt: skip
"""What an image of fixed meaning is of: a parameter, the channel of it, whether it is stored as sRGB."""


class MaterialError(AssetError):
    """A file of materials cannot be used; the message names it and says why."""


@dataclass
class ReadMaterials:
    """What a file holds: materials, each with those that lie over it by their keys; images; what was not had."""

    materials: list[tuple[Material, dict[str, Material]]] = field(default_factory=list)
    files: dict[str, str] = field(default_factory=dict)
    """Names by the SHA-256 that the files in the folder are called by."""
    problems: list[str] = field(default_factory=list)


def read_materials(path: Path, name: str, limit: int, folder: Path) -> ReadMaterials:
    """The materials of a file of at most `limit` bytes when unpacked. Raises MaterialError."""
    package = _Package(path, name, limit, folder)
    text = package.document()
    document = mx.createDocument()
    options = mx.XmlReadOptions()
    options.readXIncludeFunction = None
    try:
        mx.readFromXmlString(document, text, mx.FileSearchPath(), options)
        document.setDataLibrary(library())
    except (mx.Exception, mx.ExceptionParseError) as error:
        raise MaterialError(name, f"is no MaterialX that can be read ({str(error)[:200]})") from error
    reader = _Reader(package, Reckoner(package.stored))
    nodes = list(document.getNodes("surfacematerial"))
    nodes = nodes or [node for node in document.getNodes() if node.getCategory() in SURFACES]
    if not nodes:
        raise MaterialError(name, "holds no material")
    for node in nodes[:_MOST_MATERIALS]:
        try:
            reader.read(node)
        except (ValidationError, ValueError, RecursionError) as error:
            reader.found.problems.append(f"{node.getName()}: {str(error).splitlines()[0]}")
    reader.found.files = package.files
    reader.found.problems += [*reader.reckoner.problems, *package.problems]
    if not reader.found.materials:
        raise MaterialError(name, f"holds no material that can be read ({'; '.join(reader.found.problems)[:300]})")
    return reader.found


class _Package:
    """The document and the images of a file."""

    def __init__(self, path: Path, name: str, limit: int, folder: Path) -> None:
        self._path, self._name, self._left, self._folder = path, name, limit, folder
        self._known: dict[str, FileRef | None] = {}
        self.files: dict[str, str] = {}
        self.problems: list[str] = []
        self._names: dict[str, str] | None = None
        if zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as package:
                if len(package.namelist()) > _MOST_FILES:
                    raise MaterialError(name, f"holds more than {_MOST_FILES} files")
                self._names = {str(PurePosixPath(each)): each for each in package.namelist()}

    def document(self) -> str:
        """The text of the document."""
        if self._names is None:
            data = self._path.read_bytes()[: _LONGEST + 1]
        else:
            found = sorted(each for each in self._names if each.lower().endswith(".mtlx"))
            if len(found) != 1:
                raise MaterialError(self._name, f"holds {len(found)} .mtlx files, where one is wanted")
            data = self._unpacked(found[0], _LONGEST)
            self._root = PurePosixPath(found[0]).parent
        if len(data) > _LONGEST:
            raise MaterialError(self._name, f"has more than {_LONGEST >> 20} MiB of text")
        return data.decode("utf-8", "replace")

    def _unpacked(self, name: str, most: int) -> bytes:
        assert self._names is not None
        try:
            with zipfile.ZipFile(self._path) as package, package.open(self._names[name]) as source:
                data = source.read(min(most, self._left) + 1)
        except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, OSError) as error:
            raise MaterialError(self._name, f"cannot be unpacked ({error})") from error
        self._left -= len(data)
        if self._left < 0:
            raise MaterialError(self._name, "is too large when it is unpacked")
        return data

    def stored(self, name: str) -> FileRef | None:
        """An image that the document names; None with a word where it cannot be had."""
        if name not in self._known:
            self._known[name] = self._found(name)
        return self._known[name]

    def _found(self, name: str) -> FileRef | None:
        if self._names is None:
            self.problems.append(f"image {name}: bring the .mtlx in a zip with its images")
            return None
        place = str(self._root / PurePosixPath(name.replace("\\", "/")))
        if place not in self._names:
            self.problems.append(f"image {name}: it is not in the zip")
            return None
        data = self._unpacked(place, self._left)
        digest = hashlib.sha256(data).hexdigest()
        path, called = self._folder / digest, PurePosixPath(place).name[:200]
        path.write_bytes(data)
        try:
            _, repaired = read_picture(path, called, digest)
        except PictureError as error:
            self.problems.append(str(error))
            return None
        self.problems += repaired
        self.files[digest] = called
        return FileRef(sha256=digest, name=called)


@dataclass
class _Reader:
    """One document as materials."""

    package: _Package
    reckoner: Reckoner
    found: ReadMaterials = field(default_factory=ReadMaterials)

    def read(self, node: mx.Node) -> None:
        """Add the material of a node, with those of its layers."""
        shader = node
        if node.getCategory() == "surfacematerial":
            given = node.getInput("surfaceshader")
            shader = None if given is None else given.getConnectedNode()
        called = node.getAttribute("uiname") or node.getName().replace("_", " ")
        if shader is None:
            self.found.problems.append(f"{called}: it has no surface")
            return
        over: dict[str, Material] = {}
        layers: list[Layer] = []
        while shader.getCategory() == "mix":
            above, below = (shader.getInput(each) for each in ("fg", "bg"))
            if above is None or below is None or above.getConnectedNode() is None or below.getConnectedNode() is None:
                self.found.problems.append(f"{called}: a mix without two surfaces")
                return
            key = f"layer-{len(over) + 1}"
            over[key] = self._material(above.getConnectedNode(), None)
            layers.insert(0, self._layer(shader, key))
            shader = below.getConnectedNode()
        if len(layers) > MOST_LAYERS:
            self.found.problems.append(f"{called}: of {len(layers)} layers the lowest {MOST_LAYERS} are taken")
            layers = layers[:MOST_LAYERS]
        lowest = self._material(shader, called).model_copy(update={"layers": tuple(layers)})
        self.found.materials.append((lowest, {layer.material: over[layer.material] for layer in layers}))

    def _layer(self, mix: mx.Node, key: str) -> Layer:
        fields: dict[str, Any] = {"material": key}
        for name in ("coverage", "thickness", "enabled"):
            if mix.hasAttribute(OURS + name):
                fields[name] = parsed(Layer.model_fields[name], mix.getAttribute(OURS + name))
        for name in ("mask", "breakup"):
            node = mix.getDocument().getNode(mix.getAttribute(OURS + name)) if mix.hasAttribute(OURS + name) else None
            value = None if node is None else self.reckoner.of_node(node)
            if isinstance(value, Given):
                fields[name] = value.one
        if "coverage" not in fields:
            share = self.reckoner.of_input(mix, "mix")
            if isinstance(share, Constant):
                fields["coverage"] = min(max(share.value[0], 0.0), 1.0)
            elif isinstance(share, Image):
                fields["mask"] = self._own(share, "mask")
            elif isinstance(share, Given):
                fields["mask"] = share.one
        return Layer.model_validate(fields)

    def _material(self, node: mx.Node, called: str | None) -> Material:
        name = (called or node.getAttribute("uiname") or node.getName().replace("_", " "))[:200]
        read = SURFACES.get(node.getCategory())
        if read is None:
            self.found.problems.append(f"{name}: a surface {node.getCategory()!r} is of no kind that is read")
            return Material(name=name)
        values = read(self.reckoner, node)
        fields: dict[str, Any] = {"name": name, "inputs": {}}
        for each in beyond_openpbr():
            if node.hasAttribute(OURS + each):
                fields[each] = parsed(Material.model_fields[each], node.getAttribute(OURS + each))
        for each in PARAMETERS:
            if node.hasAttribute(f"{OURS}input_{each}"):
                varying = node.getDocument().getNode(node.getAttribute(f"{OURS}input_{each}"))
                value = None if varying is None else self.reckoner.of_node(varying)
                if value is not None:
                    values[each] = value
        self._normals(values, fields)
        self._surface_map(values, fields)
        for each, value in values.items():
            self._take(each, value, fields)
        return Material.model_validate(fields)

    def _normals(self, values: Values, fields: dict[str, Any]) -> None:
        for name, stem in NORMALS.items():
            value = values.pop(name, None)
            use = self._use(value.image) if isinstance(value, Normals) else None
            if isinstance(value, Normals) and use is not None:
                fields[f"{stem}_texture"], fields[f"{stem}_scale"] = use, min(max(value.scale, 0.0), 10.0)

    def _surface_map(self, values: Values, fields: dict[str, Any]) -> None:
        """Roughness and metalness of one image, in the channels that glTF has them in, are one map."""
        rough, metal = values.get("specular_roughness"), values.get("base_metalness")
        if not (isinstance(rough, Image) and isinstance(metal, Image)):
            return
        same = rough.file == metal.file and rough.uv_set == metal.uv_set and np.allclose(rough.matrix, metal.matrix)
        if same and (rough.channel, metal.channel) == (1, 2) and not rough.encoded and _is_plain(rough):
            fields["metallic_roughness_texture"] = self._use(rough)
            for name, image in (("specular_roughness", rough), ("base_metalness", metal)):
                values[name] = _rest(image)

    def _take(self, name: str, value: Value, fields: dict[str, Any]) -> None:
        """Bring a parameter to a value."""
        if isinstance(value, Image):
            stem = _MAPS.get((name, value.channel, value.encoded))
            if stem is not None and _is_plain(value):
                fields[stem] = self._use(value)
                value = _rest(value)
            elif name == "geometry_opacity" and value.channel == 3 and self._is_of_color(value, fields):
                fields.setdefault("alpha_mode", "blend")
                value = _rest(value)
        if isinstance(value, Image):
            one = self._own(value, name)
            if name in PARAMETERS and one is not None:
                fields["inputs"][name] = one
            elif name not in PARAMETERS:
                self.found.problems.append(f"{name}: it can take no image here")
            value = Constant(value.factor or _default(name))
        if isinstance(value, Given):
            fields["inputs"][name] = value.one
            value = Constant(value.constant)
        if isinstance(value, Constant) and name in Material.model_fields and name != "bump":
            fields[name] = _fitting(name, value.value)

    def _is_of_color(self, image: Image, fields: dict[str, Any]) -> bool:
        use: TextureUse | None = fields.get("base_color_texture")
        file = self.package.stored(image.file)
        return use is not None and use.file == file and _is_plain(image)

    def _use(self, image: Image) -> TextureUse | None:
        """An image of fixed meaning; v runs downwards in the document."""
        file = self.package.stored(image.file)
        matrix = tuple(turned_over(image.matrix).ravel().tolist())
        return None if file is None else TextureUse(file=file, uv_set=image.uv_set, matrix=matrix)

    def _own(self, image: Image, name: str) -> MaterialInput | None:
        """An input that looks an image up; None where it cannot be had."""
        file = self.package.stored(image.file)
        if file is None:
            return None
        rows = image.matrix[:, :2]
        sizes = np.linalg.norm(rows, axis=1)
        if sizes.min() < 1e-9 or abs(float(rows[0] @ rows[1])) > 1e-4 * float(sizes.prod()):
            self.found.problems.append(f"{name}: how its image is sheared is left out")
        placement = placement_by_coordinates(image.uv_set, image.matrix)
        source = PictureSource.model_validate({
            "file": file, "channel": "color" if image.channel is None else _CHANNELS[min(image.channel, 3)],
            "decoding": "srgb" if image.encoded else "linear", "wrap": image.wrap, "nearest": image.nearest,
        })  # fmt: skip
        return MaterialInput(
            source=source, placement=placement, combine="replace" if image.factor is None else "multiply"
        )


def _is_plain(image: Image) -> bool:
    return image.wrap == "repeat" and not image.nearest


def _rest(image: Image) -> Value:
    """What is left of an image that has become a map: what it multiplies."""
    if image.over is not None:
        return image.over
    return Constant(image.factor or (1.0,))


def _default(name: str) -> tuple[float, ...]:
    default = Material.model_fields[name].default if name in Material.model_fields else 1.0
    return tuple(default) if isinstance(default, tuple) else (float(default),)


def _fitting(name: str, value: tuple[float, ...]) -> Any:
    """A constant as the field of a material takes it."""
    info = Material.model_fields[name]
    if isinstance(info.default, bool):
        return value[0] > 0.5
    if isinstance(info.default, tuple):
        most = 1e6 if name == "emission_color" else 1.0
        return tuple(min(max(float(v), 0.0), most) for v in np.resize(value, 3))
    low, high = limits(info)
    number = value[0] if np.isfinite(value[0]) else info.default
    return min(max(float(number), low), high)
