"""What a node of a MaterialX file comes to: a constant, an image as it lies, an input of ours, or a map of normals.

In: an input of a node. Out: its value, or None with a word about why. Called by `reading`. What is made of constants
alone is reckoned out; an image may be multiplied by one, laid elsewhere, and have its channels taken apart.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import MaterialX as mx
import numpy as np

from lantern.assets.laid import placement_by_coordinates
from lantern.assets.materialx.patterns import PATTERNS, laid_in_space, own_map, shaped
from lantern.assets.materialx.words import OURS, numbers, unflat
from lantern.color import LUMINANCE
from lantern.scene.inputs import MaterialInput
from lantern.scene.model import FileRef
from lantern.scene.sources import SOURCES

_DEEPEST = 64
Numbers = np.ndarray
_FOLDED: dict[str, Callable[..., Numbers]] = {
    "add": np.add, "subtract": np.subtract, "multiply": np.multiply, "min": np.minimum, "max": np.maximum,
    "divide": lambda a, b: np.divide(a, np.where(np.abs(b) > 1e-12, b, 1e-12)),
    "power": lambda a, b: np.power(np.maximum(a, 0.0), b), "modulo": lambda a, b: np.mod(a, np.where(b == 0, 1, b)),
    "absval": np.abs, "sqrt": lambda a: np.sqrt(np.maximum(a, 0.0)), "sin": np.sin, "cos": np.cos,
    "luminance": lambda a: np.full(3, float(np.resize(a, 3) @ LUMINANCE)),
    "convert": lambda a: a, "constant": lambda a: a, "dot": lambda a: a, "normalize": lambda a: a,
}  # fmt: skip
"""Nodes of one or two values (MaterialX 1.39, "Math Nodes"), each channel by itself."""
_STRAIGHT = ("add", "subtract", "multiply", "invert", "remap")
"""Nodes that make a straight line of a straight line, wherever it comes in."""
_CHANNELS = {"outr": 0, "outg": 1, "outb": 2, "outa": 3, "outx": 0, "outy": 1, "outz": 2}
_WRAPS = {"periodic": "repeat", "clamp": "clamp", "mirror": "mirror", "constant": "clamp"}


@dataclass(frozen=True)
class Constant:
    value: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class Image:
    """An image of the file, and where its coordinates (2, 3), which run upwards, come from."""

    file: str
    encoded: bool
    uv_set: int
    matrix: np.ndarray
    wrap: str
    nearest: bool
    channel: int | None = None
    factor: tuple[float, ...] | None = None
    """What it multiplies; None for nothing, which it replaces."""
    over: "Given | None" = None
    """The input that it multiplies, in the place of a factor."""


@dataclass(frozen=True)
class Given:
    """An input of ours with the constant that it joins."""

    one: MaterialInput
    constant: tuple[float, ...]


@dataclass(frozen=True)
class Normals:
    image: Image
    scale: float


Value = Constant | Image | Given | Normals


class Reckoner:
    """Values of the nodes of one document; `stored` makes a reference of a name in the file."""

    def __init__(self, stored: Callable[[str], FileRef | None]) -> None:
        self.problems: list[str] = []
        self._stored = stored

    def of_input(self, element: mx.Element, name: str) -> Value | None:
        """The value of an input of a node, by its own value, its interface, or what it is connected to."""
        given = element.getInput(name)
        return None if given is None else self._of(given, 0)

    def of_node(self, node: mx.Node) -> Value | None:
        """The value of a node that something of ours names."""
        return self._node(node, "", 0)

    def _of(self, given: mx.Input, depth: int) -> Value | None:
        if depth > _DEEPEST:
            self.problems.append("nodes lead to nodes without end")
            return None
        interface = given.getInterfaceInput()
        if interface is not None and interface.getNamePath() != given.getNamePath():
            return self._of(interface, depth + 1)
        node, output = given.getConnectedNode(), given.getOutputString()
        graph_output = given.getConnectedOutput()
        if node is None and graph_output is not None:
            node, output = graph_output.getConnectedNode(), graph_output.getOutputString()
        if node is not None:
            return self._node(node, output, depth + 1)
        text = given.getValueString()
        if not text:
            return None
        if given.getType() in ("boolean", "string", "filename"):
            return Constant((1.0 if text.strip().lower() == "true" else 0.0,))
        try:
            return Constant(numbers(text))
        except ValueError:
            self.problems.append(f"{given.getNamePath()}: {text!r} is no number")
            return None

    def _node(self, node: mx.Node, output: str, depth: int) -> Value | None:
        category = node.getCategory()
        if category.startswith(OURS):
            return self._ours(node)
        match category:
            case "image" | "tiledimage" | "gltf_image" | "gltf_colorimage" | "UsdUVTexture":
                return self._channel(self._image(node, depth), output)
            case "normalmap" | "gltf_normalmap":
                return self._normals(node, depth)
            case "extract" | "separate2" | "separate3" | "separate4":
                return self._separated(node, output, depth)
            case "combine2" | "combine3" | "combine4":
                return self._combined(node, depth)
            case "mix" | "clamp" | "invert" | "remap":
                return self._reckoned(node, depth)
        if category in PATTERNS:
            return self._pattern(node, depth)
        if category in _FOLDED:
            return self._folded(node, _FOLDED[category], depth)
        self.problems.append(f"{node.getName()}: a node {category!r} is not known here")
        return None

    def _inner(self, node: mx.Node, name: str, depth: int) -> Value | None:
        given = node.getActiveInput(name) if node.getInput(name) is None else node.getInput(name)
        return None if given is None else self._of(given, depth)

    def _ours(self, node: mx.Node) -> Value | None:
        kind = next((kind for kind in SOURCES if node.getCategory() == OURS + kind), None)
        said = {one.getName(): one.getValueString() for one in node.getInputs()}
        try:
            if kind is None:
                raise ValueError("there is no such source")
            file = self._stored(said["file"]) if "file" in said else None
            return Given(unflat(kind, said, file), numbers(said.get("constant", "1")))
        except ValueError as error:
            self.problems.append(f"{node.getName()}: {str(error).splitlines()[0]}")
            return None

    def _pattern(self, node: mx.Node, depth: int) -> Given:
        """A procedural node: a pattern of ours, laid by its coordinates or its places."""

        def said(name: str, otherwise: tuple[float, ...]) -> tuple[float, ...]:
            found = self._inner(node, name, depth)
            if found is None or isinstance(found, Constant):
                return otherwise if found is None else found.value
            self.problems.append(f"{node.getName()}: what varies its {name!r} is left out")
            return otherwise

        category = node.getCategory()
        one = PATTERNS[category](said)
        if category.endswith("3d"):
            scale, shift = self._places(node.getInput("position"), depth)
            if category == "unifiednoise3d":
                shift = _plain(np.add(shift, said("offset", (0.0,))))
                scale = _plain(np.multiply(scale, said("freq", (1.0,))))
            placement = laid_in_space(scale, shift)
        else:
            uv_set, matrix = self._coordinates(node, depth)
            placement = placement_by_coordinates(uv_set, _after(own_map(category, said), matrix))
        return Given(one.model_copy(update={"placement": placement}), (1.0,))

    def _places(self, given: mx.Input | None, depth: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """(scale, shift) of the places that a node is given."""
        node = None if given is None else given.getConnectedNode()
        if node is None or node.getCategory() == "position" or depth > _DEEPEST:
            return (1.0,), (0.0,)
        if node.getCategory() in ("multiply", "add"):
            factor = self._inner(node, "in2", depth + 1)
            scale, shift = self._places(node.getInput("in1"), depth + 1)
            if isinstance(factor, Constant) and node.getCategory() == "add":
                return scale, _plain(np.add(shift, factor.value))
            if isinstance(factor, Constant):
                return _plain(np.multiply(scale, factor.value)), _plain(np.multiply(shift, factor.value))
        self.problems.append(f"{node.getName()}: places of {node.getCategory()!r} are not known here")
        return (1.0,), (0.0,)

    def _image(self, node: mx.Node, depth: int) -> Image | None:
        file = node.getInput("file")
        name = "" if file is None else (file.getResolvedValueString() or file.getValueString())
        if not name:
            self.problems.append(f"{node.getName()}: it names no image")
            return None
        space = file.getActiveColorSpace()
        uv_set, matrix = self._coordinates(node, depth)
        tiling = node.getInput("uvtiling")
        if tiling is not None and tiling.getValueString():
            across, down = numbers(tiling.getValueString())
            matrix = np.diag([across, down]) @ matrix

        def word(*names: str) -> str:
            found = [given.getValueString() for each in names if (given := node.getInput(each)) is not None]
            return found[0] if found else ""

        return Image(
            name, "srgb" in space or word("sourceColorSpace") == "sRGB", uv_set, matrix,
            _WRAPS.get(word("uaddressmode", "wrapS"), "repeat"), word("filtertype") == "closest",
        )  # fmt: skip

    def _coordinates(self, node: mx.Node, depth: int) -> tuple[int, np.ndarray]:
        """(set, (2, 3) affine map) that an image is laid out by."""
        matrix = np.eye(2, 3)
        given = node.getInput("texcoord") or node.getInput("st")
        while given is not None and depth < _DEEPEST and (source := given.getConnectedNode()) is not None:
            depth += 1
            if source.getCategory() == "texcoord":
                index = source.getInput("index")
                return (0 if index is None else int(numbers(index.getValueString() or "0")[0])) & 3, matrix
            if source.getCategory() != "place2d":
                self.problems.append(f"{source.getName()}: coordinates of {source.getCategory()!r} are not known here")
                break
            matrix = _after(matrix, self._placed(source))
            given = source.getInput("texcoord")
        return 0, matrix

    def _placed(self, node: mx.Node) -> np.ndarray:
        """(2, 3) of a `place2d`: about its pivot divided by scale, turned, shifted by its offset."""

        def said(name: str, otherwise: tuple[float, ...]) -> tuple[float, ...]:
            given = node.getInput(name)
            return numbers(given.getValueString()) if given is not None and given.getValueString() else otherwise

        scale, pivot, offset = said("scale", (1.0, 1.0)), said("pivot", (0.0, 0.0)), said("offset", (0.0, 0.0))
        angle = np.radians(said("rotate", (0.0,))[0])
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        linear = turn @ np.diag([1 / (v if abs(v) > 1e-9 else 1.0) for v in scale])
        shift = np.array(pivot) - np.array(offset) - linear @ np.array(pivot)
        return np.column_stack([linear, shift])

    def _channel(self, image: Image | None, output: str) -> Image | None:
        channel = {"r": 0, "g": 1, "b": 2, "a": 3}.get(output, _CHANNELS.get(output))
        return image if image is None or channel is None else replace(image, channel=channel)

    def _normals(self, node: mx.Node, depth: int) -> Normals | None:
        image = self._image(node, depth) if node.getInput("file") else self._inner(node, "in", depth)
        scale = self._inner(node, "scale", depth)
        if not isinstance(image, Image):
            self.problems.append(f"{node.getName()}: its normals are of no image")
            return None
        return Normals(image, scale.value[0] if isinstance(scale, Constant) else 1.0)

    def _separated(self, node: mx.Node, output: str, depth: int) -> Value | None:
        whole = self._inner(node, "in", depth)
        index = self._inner(node, "index", depth) if node.getCategory() == "extract" else None
        channel = int(index.value[0]) if isinstance(index, Constant) else _CHANNELS.get(output, 0)
        if isinstance(whole, Constant):
            return Constant((whole.value[min(channel, len(whole.value) - 1)],))
        if isinstance(whole, Given):
            return Given(shaped(whole.one, lambda v: v[min(channel, 2) : min(channel, 2) + 1], straight=True), (1.0,))
        return replace(whole, channel=channel) if isinstance(whole, Image) else whole

    def _combined(self, node: mx.Node, depth: int) -> Value | None:
        count = int(node.getCategory()[-1])
        parts = [self._inner(node, f"in{n + 1}", depth) for n in range(count)]
        if all(isinstance(part, Constant) for part in parts):
            return Constant(tuple(part.value[0] for part in parts if isinstance(part, Constant)))
        images = [part for part in parts if isinstance(part, Image)]
        if len(images) == count and [(image.file, image.channel) for image in images] == [
            (images[0].file, channel) for channel in range(count)
        ]:
            return replace(images[0], channel=None)
        self.problems.append(f"{node.getName()}: of what varies one channel is shown for all")
        return next((part for part in parts if isinstance(part, Image | Given)), None)

    def _reckoned(self, node: mx.Node, depth: int) -> Value | None:
        """Nodes of three values and more, of constants; of an image what it is without them."""

        def inner(name: str, otherwise: float) -> Numbers:
            found = self._inner(node, name, depth)
            return np.array(found.value) if isinstance(found, Constant) else np.array([otherwise])

        if node.getCategory() == "mix":
            share = self._inner(node, "mix", depth)
            if isinstance(share, Given):
                bg, fg = np.resize(inner("bg", 0.0), 3), np.resize(inner("fg", 0.0), 3)
                return Given(shaped(share.one, lambda w: bg + (fg - bg) * w, straight=True), (1.0,))
            weight = inner("mix", 0.0)
            return Constant(_plain(inner("bg", 0.0) * (1 - weight) + inner("fg", 0.0) * weight))
        given = self._inner(node, "in", depth)
        if isinstance(given, Given):
            return self._of_given(given, node, lambda value: self._brought(node, value, inner))
        if not isinstance(given, Constant):
            self.problems.append(f"{node.getName()}: an image is shown without its {node.getCategory()!r}")
            return given
        return Constant(_plain(self._brought(node, np.array(given.value), inner)))

    def _brought(self, node: mx.Node, value: Numbers, inner: Callable[[str, float], Numbers]) -> Numbers:
        """What a node of one value and some constants makes of it."""
        if node.getCategory() == "clamp":
            return np.asarray(np.clip(value, inner("low", 0.0), inner("high", 1.0)))
        if node.getCategory() == "invert":
            return np.asarray(inner("amount", 1.0) - value)
        span = inner("inhigh", 1.0) - inner("inlow", 0.0)
        share = (value - inner("inlow", 0.0)) / np.where(np.abs(span) > 1e-12, span, 1.0)
        return np.asarray(inner("outlow", 0.0) + share * (inner("outhigh", 1.0) - inner("outlow", 0.0)))

    def _of_given(self, given: Given, node: mx.Node, change: Callable[[Numbers], Numbers]) -> Given:
        """An input of ours after a function of its values."""
        return Given(shaped(given.one, change, straight=node.getCategory() in _STRAIGHT), given.constant)

    def _folded(self, node: mx.Node, made: Callable[..., Numbers], depth: int) -> Value | None:
        category = node.getCategory()
        names = ("value",) if category == "constant" else ("in1", "in2") if node.getInput("in1") else ("in",)
        parts = [self._inner(node, name, depth) for name in names]
        if all(isinstance(part, Constant) for part in parts):
            return Constant(_plain(made(*(np.array(part.value) for part in parts if isinstance(part, Constant)))))
        if category in ("convert", "dot") and len(parts) == 1:
            return parts[0]
        varying = [part for part in parts if not isinstance(part, Constant)]
        if len(varying) == 1 and isinstance(varying[0], Given) and varying[0].constant == (1.0,):
            fixed = [np.array(part.value) if isinstance(part, Constant) else None for part in parts]
            return self._of_given(
                varying[0], node, lambda value: np.asarray(made(*(value if each is None else each for each in fixed)))
            )
        if category == "multiply":
            return self._multiplied(parts, node)
        self.problems.append(f"{node.getName()}: an image is shown without its {category!r}")
        return next((part for part in parts if not isinstance(part, Constant)), None)

    def _multiplied(self, parts: Sequence[Value | None], node: mx.Node) -> Value | None:
        image = next((part for part in parts if isinstance(part, Image)), None)
        other = next((part for part in parts if part is not image), None)
        if image is None or image.over is not None:
            return next((part for part in parts if isinstance(part, Given)), image)
        if isinstance(other, Constant):
            factor = other.value if image.factor is None else _plain(np.multiply(image.factor, other.value))
            return replace(image, factor=factor)
        if isinstance(other, Given):
            return replace(image, over=other)
        self.problems.append(f"{node.getName()}: one of two images that multiply one another is shown")
        return image


def _plain(values: Numbers) -> tuple[float, ...]:
    return tuple(float(v) for v in np.atleast_1d(values))


def _after(second: np.ndarray, first: np.ndarray) -> np.ndarray:
    """(2, 3) of two affine maps, one after the other."""
    return np.column_stack([second[:, :2] @ first[:, :2], second[:, :2] @ first[:, 2] + second[:, 2]])
