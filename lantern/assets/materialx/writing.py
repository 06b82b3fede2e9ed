"""Materials of a document as a file: MaterialX 1.39 and its images in a zip.

In: a material, those that lie over it, the textures of the asset, what finds files of one's own. Out: the bytes, and
what other programs will not see. Called by the server.
"""

import io
import math
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

import MaterialX as mx
import numpy as np

from lantern.assets.materialx.words import (
    NORMALS,
    OURS,
    SURFACE,
    beyond_openpbr,
    flat,
    library,
    surface_inputs,
    typed,
)
from lantern.assets.textures import Texture
from lantern.assets.writers.content import Written
from lantern.assets.writers.images import png_of
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Parameter
from lantern.scene.layers import Layer
from lantern.scene.model import FileRef
from lantern.scene.sources import LABELS, FileSource, ImageSource, PictureSource
from lantern.scene.texture_use import TextureUse

Resolver = Callable[[FileRef], Path]
DOCUMENT = "material.mtlx"
_MODES: tuple[Literal["repeat", "clamp", "mirror"], ...] = ("repeat", "clamp", "mirror")
"""In the order of the numbers by which textures say how they go on."""
_WRAPS = {"repeat": "periodic", "clamp": "clamp", "mirror": "mirror"}
_MAPS: dict[str, tuple[tuple[str, int | None], ...]] = {
    "base_color_texture": (("base_color", None),),
    "metallic_roughness_texture": (("specular_roughness", 1), ("base_metalness", 2)),
    "emission_texture": (("emission_color", None),),
    "transmission_texture": (("transmission_weight", 0),),
    "transmission_tint_texture": (("transmission_tint", None),),
}
"""What the images of fixed meaning multiply, and by which channel; None by their colour (glTF 2.0, section 3.9)."""


def write_material(
    material: Material, over: Mapping[str, Material], textures: Sequence[Texture], resolve: Resolver
) -> Written:
    """A zip of a material with what lies `over` it by key, and their images."""
    writer = _Writer(textures, resolve)
    writer.put(material, over)
    valid, said = writer.document.validate()
    if not valid:
        raise ValueError(f"the file would not be valid: {said}")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr(DOCUMENT, mx.writeToXmlString(writer.document, _own_alone()))
        for name, data in writer.files.items():
            package.writestr(name, data)
    return Written(packed.getvalue(), list(dict.fromkeys(writer.lost)))


def _own_alone() -> mx.XmlWriteOptions:
    options = mx.XmlWriteOptions()
    options.elementPredicate = lambda element: not element.hasSourceUri()
    return options


@dataclass(frozen=True)
class _Laid:
    """An image in a file, and how it lies: an affine map (2, 3) of coordinates that run upwards."""

    file: str
    uv_set: int
    matrix: np.ndarray
    wrap: str
    nearest: bool
    encoded: bool


@dataclass
class _Writer:
    """One document in the making."""

    textures: Sequence[Texture]
    resolve: Resolver
    files: dict[str, bytes] = field(default_factory=dict)
    lost: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.document = mx.createDocument()
        self.document.setDataLibrary(library())
        self.document.setColorSpace("lin_rec709")
        self._said: set[str] = set()

    def put(self, material: Material, over: Mapping[str, Material]) -> None:
        """Write a material with its layers."""
        shader = self._surface(material)
        for layer in material.layers:
            shader = self._laid_over(shader, layer, self._surface(over[layer.material]))
        node = self.document.addMaterialNode(self._name(material.name), shader)
        node.setAttribute("uiname", material.name)

    def _name(self, wanted: str) -> str:
        return str(self.document.createValidChildName(mx.createValidName(wanted) or "node"))

    def _node(self, category: str, kind: str, name: str) -> mx.Node:
        return self.document.addNode(category, self._name(name), kind)

    def _attribute(self, element: mx.Element, name: str, text: str) -> None:
        """Say something of our own, declared once in the document."""
        element.setAttribute(OURS + name, text)
        if name not in self._said:
            self._said.add(name)
            declared = self.document.addAttributeDef(f"AD_{OURS}{name}")
            declared.setAttrName(OURS + name)
            declared.setAttribute("elements", f"{SURFACE},mix")
            declared.setType("string")

    def _surface(self, material: Material) -> mx.Node:
        surface = self._node(SURFACE, "surfaceshader", f"{material.name} surface")
        surface.setAttribute("uiname", material.name)
        types = surface_inputs()
        for name in Material.model_fields:
            if name in types:
                value = getattr(material, name)
                surface.addInput(name, types[name]).setValueString(typed(value)[1])
        for name in beyond_openpbr():
            value = getattr(material, name)
            if value is not None and value != Material.model_fields[name].default:
                self._attribute(surface, name, typed(value)[1])
        for name, node in self._varying(material).items():
            if name in types:
                given = (
                    surface.addInput(name, types[name]) if surface.getInput(name) is None else surface.getInput(name)
                )
                given.removeAttribute("value")
                given.setConnectedNode(node)
            else:
                self._attribute(surface, f"input_{name}", node.getName())
        self._normals(surface, material)
        return surface

    def _varying(self, material: Material) -> dict[str, mx.Node]:
        """Nodes of what does not stay as it is: inputs, then the images that multiply them."""
        found: dict[str, mx.Node] = {}
        for name, one in material.inputs.items():
            value = 1.0 if name == "bump" else getattr(material, name)
            node = self._input(one, name, value, material.name)
            if node is not None:
                found[name] = node
        for field_name, targets in _MAPS.items():
            use: TextureUse | None = getattr(material, field_name)
            laid = None if use is None else self._of_map(use, encoded=targets[0][1] is None)
            if laid is None:
                continue
            for target, channel in targets:
                image = self._image(laid, channel, target)
                found[target] = self._times(found.get(target), getattr(material, target), image, target)
        if material.base_color_texture is not None and material.alpha_mode != "opaque":
            laid = self._of_map(material.base_color_texture, encoded=False)
            if laid is not None:
                alpha = self._image(laid, 3, "alpha")
                found["geometry_opacity"] = self._times(
                    found.get("geometry_opacity"), material.geometry_opacity, alpha, "opacity"
                )
        return found

    def _times(self, node: mx.Node | None, constant: object, image: mx.Node, name: str) -> mx.Node:
        """A product of an image and what it multiplies."""
        kind = image.getType()
        product = self._node("multiply", kind, f"{name} times")
        product.addInput("in1", kind).setConnectedNode(image)
        other = product.addInput("in2", kind)
        if node is None:
            other.setValueString(typed(constant)[1])
        else:
            other.setConnectedNode(node)
        return product

    def _normals(self, surface: mx.Node, material: Material) -> None:
        for name, stem in NORMALS.items():
            use: TextureUse | None = getattr(material, f"{stem}_texture")
            laid = None if use is None else self._of_map(use, encoded=False)
            if laid is None:
                continue
            image = self._image(laid, None, f"{stem} map", kind="vector3")
            node = self._node("normalmap", "vector3", stem)
            node.addInput("in", "vector3").setConnectedNode(image)
            node.addInput("scale", "float").setValue(float(getattr(material, f"{stem}_scale")), "float")
            surface.addInput(name, "vector3").setConnectedNode(node)

    def _laid_over(self, below: mx.Node, layer: Layer, above: mx.Node) -> mx.Node:
        """A layer as a mix of two surfaces, by its coverage times its masks."""
        mix = self._node("mix", "surfaceshader", "layer")
        mix.addInput("bg", "surfaceshader").setConnectedNode(below)
        mix.addInput("fg", "surfaceshader").setConnectedNode(above)
        share: mx.Node | None = None
        for name, one in (("mask", layer.mask), ("breakup", layer.breakup)):
            node = None if one is None else self._input(one, name, 1.0, layer.material)
            if node is not None:
                self._attribute(mix, name, node.getName())
                share = self._times(share, layer.coverage, node, name)
        weight = mix.addInput("mix", "float")
        if share is None:
            weight.setValue(float(layer.coverage), "float")
        else:
            weight.setConnectedNode(share)
        for name, value in (("coverage", layer.coverage), ("thickness", layer.thickness), ("enabled", layer.enabled)):
            self._attribute(mix, name, typed(value)[1])
        return mix

    def _input(self, one: MaterialInput, name: Parameter | str, constant: object, of: str) -> mx.Node | None:
        """The node of an input; None where its image cannot be had."""
        stored = None
        if isinstance(one.source, ImageSource):
            if one.source.texture >= len(self.textures):
                return None
            one, stored = self._as_own(one, one.source)
        elif isinstance(one.source, FileSource):
            stored = None if one.source.file is None else self._stored(one.source.file)
            if stored is None:
                return None
        kind = "color3" if isinstance(constant, tuple) else "float"
        category = OURS + one.source.kind
        node = self._node(category, kind, f"{name} {one.source.kind}")
        node.addInput("constant", kind).setValueString(typed(constant)[1])
        for each, (its, text) in flat(one).items():
            node.addInput(each, its).setValueString(text)
        if stored is not None:
            node.addInput("file", "filename").setValueString(stored)
        self._declare(node)
        self.lost.append(f"{of}: {LABELS[one.source.kind]} of {name}; elsewhere its plain value is seen")
        return node

    def _declare(self, node: mx.Node) -> None:
        """The definition of a node of ours, which says what it takes: of the union of all that are written."""
        name = f"ND_{node.getCategory()}_{node.getType()}"
        known = self.document.getNodeDef(name)
        if known is None:
            known = self.document.addNodeDef(name, node.getType(), node.getCategory())
        for given in node.getInputs():
            if known.getInput(given.getName()) is None:
                default = known.addInput(given.getName(), given.getType())
                if given.getType() != "filename":
                    default.setValueString(given.getValueString())

    def _as_own(self, one: MaterialInput, source: ImageSource) -> tuple[MaterialInput, str]:
        """An input whose image of the asset is one of the file's own, and the name of that in the zip."""
        texture = self.textures[source.texture]
        wrap = _MODES[texture.wrap_u]
        picture = PictureSource(channel=source.channel, decoding=source.decoding, wrap=wrap, nearest=texture.nearest)
        return one.model_copy(update={"source": picture}), self._texture(source.texture)

    def _texture(self, number: int) -> str:
        name = f"images/texture-{number}.png"
        if name not in self.files:
            self.files[name] = png_of(self.textures[number].texels, self.lost)
        return name

    def _stored(self, file: FileRef) -> str | None:
        """The name in the zip of a file of one's own; None where it cannot be had."""
        name = f"images/{file.sha256[:8]}-{mx.createValidName(Path(file.name).stem)}{Path(file.name).suffix.lower()}"
        if name not in self.files:
            try:
                self.files[name] = self.resolve(file).read_bytes()
            except OSError:
                self.lost.append(f"{file.name}: it is not there")
                return None
        return name

    def _of_map(self, use: TextureUse, *, encoded: bool) -> _Laid | None:
        """An image of fixed meaning as it lies; None where it cannot be had."""
        # v runs downwards in glTF, upwards in MaterialX.
        a, b, c, d, e, f = use.matrix
        matrix = np.array([[a, -b, b + c], [-d, e, 1 - e - f]])
        if use.file is not None:
            stored = self._stored(use.file)
            return None if stored is None else _Laid(stored, use.uv_set, matrix, "repeat", False, encoded)
        if use.texture >= len(self.textures):
            return None
        texture = self.textures[use.texture]
        if texture.wrap_u != texture.wrap_v:
            self.lost.append(f"image {use.texture + 1}: it goes on otherwise across than down")
        wrap = _MODES[texture.wrap_u]
        return _Laid(self._texture(use.texture), use.uv_set, matrix, wrap, texture.nearest, encoded)

    def _image(self, laid: _Laid, channel: int | None, name: str, kind: str = "color3") -> mx.Node:
        """The colours of an image, or one of its channels as a number."""
        whole = kind if channel is None else "color4"
        image = self._node("image", whole, f"{name} image")
        file = image.addInput("file", "filename")
        file.setValueString(laid.file)
        if laid.encoded:
            file.setColorSpace("srgb_texture")
        image.addInput("texcoord", "vector2").setConnectedNode(self._place(laid, name))
        for axis in "uv":
            image.addInput(f"{axis}addressmode", "string").setValueString(_WRAPS[laid.wrap])
        image.addInput("filtertype", "string").setValueString("closest" if laid.nearest else "linear")
        if channel is None:
            return image
        one = self._node("extract", "float", f"{name} channel")
        one.addInput("in", "color4").setConnectedNode(image)
        one.addInput("index", "integer").setValue(channel, "integer")
        return one

    def _place(self, laid: _Laid, name: str) -> mx.Node:
        """Coordinates, shifted, sized and turned as `place2d` has it: divided, turned, then shifted."""
        coordinates = self._node("texcoord", "vector2", f"{name} coordinates")
        coordinates.addInput("index", "integer").setValue(laid.uv_set, "integer")
        linear, shift = laid.matrix[:, :2], laid.matrix[:, 2]
        if np.allclose(linear, np.eye(2)) and np.allclose(shift, 0):
            return coordinates
        across = float(np.hypot(*linear[:, 0]))
        c, s = linear[:, 0] / across if across > 1e-9 else (1.0, 0.0)
        down = float(np.array([-s, c]) @ linear[:, 1])
        if across < 1e-9 or abs(down) < 1e-9 or abs(float(np.array([c, s]) @ linear[:, 1])) > 1e-6 * abs(down):
            self.lost.append(f"{name}: how its image is sheared")
        place = self._node("place2d", "vector2", f"{name} place")
        place.addInput("texcoord", "vector2").setConnectedNode(coordinates)
        sizes = 1 / max(across, 1e-9), 1 / (down if abs(down) > 1e-9 else 1e-9)
        place.addInput("scale", "vector2").setValueString(", ".join(repr(float(v)) for v in sizes))
        # Its turn is that of the image: (x, y) becomes (c x + s y, c y - s x).
        place.addInput("rotate", "float").setValue(-math.degrees(math.atan2(s, c)), "float")
        place.addInput("offset", "vector2").setValueString(", ".join(repr(-float(v)) for v in shift))
        return place
