"""Images that the shaders of a stage read (UsdUVTexture, UsdPrimvarReader, UsdTransform2d; MaterialX image nodes).

In: an input of a surface. Out: textures of an `ImportedAsset`. Called by `materials`.
"""

import math
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from pxr import UsdShade

from lantern.assets.images import ImageProblem, ImageStore, decode_image
from lantern.assets.imported import ImportedAsset
from lantern.assets.packing import height_to_normals, is_normal_map, lightness, stacked
from lantern.assets.source import Neighbours, Source
from lantern.assets.textures import CLAMP, MIRROR, REPEAT, Texture
from lantern.scene.texture_use import TextureUse

_WRAPS = {"clamp": CLAMP, "mirror": MIRROR, "black": CLAMP}
_CHANNELS = {"r": 0, "g": 1, "b": 2, "a": 3, "outr": 0, "outg": 1, "outb": 2, "outa": 3}
_DEEPEST = 8
"""Nodes between a surface and an image."""
_PASSED = ("in", "in1", "bg", "fg")
"""Inputs through which nodes of MaterialX hand on what they change."""


class Laid(NamedTuple):
    """An image as a shader reads it: texture coordinates of a set times a matrix, one channel or all of them.

    `scale` is what its red, green, blue and alpha are multiplied by.
    """

    path: Path
    channel: int | None
    uv_set: int
    matrix: tuple[float, float, float, float, float, float]  # 2x3 rows, v down
    wraps: tuple[int, int]
    scale: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)

    @property
    def factor(self) -> float:
        """The scale of its one channel, within what a reflectance may be; of all of them that of red."""
        return min(max(self.scale[self.channel or 0], 0.0), 1.0)

    @property
    def tint(self) -> tuple[float, float, float]:
        """The scale of red, green and blue, not negative."""
        r, g, b, _ = (max(v, 0.0) for v in self.scale)
        return r, g, b


def uv_set_of(shader: UsdShade.Shader) -> str | None:
    """The set of texture coordinates that a shader reads; None for another kind of shader."""
    identity = str(shader.GetIdAttr().Get() or "")
    names = {"UsdPrimvarReader_float2": "varname", "ND_geompropvalue_vector2": "geomprop"}
    given = shader.GetInput(names[identity]) if identity in names else None
    value = given.Get() if given else None
    return str(value) if value else None


class TextureReader:
    """Reads the images of one stage; one that is read twice alike is one texture."""

    def __init__(self, source: Source, asset: ImportedAsset, uv_sets: list[str]) -> None:
        self._source, self._asset, self._uv_sets = source, asset, uv_sets
        self._neighbours = Neighbours(source)
        self._images = ImageStore()
        self._numbers: dict[Any, int] = {}

    def find(self, given: UsdShade.Input | None) -> Laid | None:
        """The image that an input is connected to, through whatever stands between."""
        if not given:
            return None
        return self._follow(given, 0)

    def _follow(self, given: UsdShade.Input, depth: int) -> Laid | None:
        sources = UsdShade.Utils.GetValueProducingAttributes(given)
        if not sources or depth > _DEEPEST:
            return None
        shader = UsdShade.Shader(sources[0].GetPrim())
        if not shader or not sources[0].GetName().startswith("outputs:"):
            return None
        file = shader.GetInput("file")
        if file:
            return self._laid(shader, file, sources[0].GetName().removeprefix("outputs:"))
        found = (self._follow(shader.GetInput(name), depth + 1) for name in _PASSED if shader.GetInput(name))
        return next((each for each in found if each), None)

    def _laid(self, shader: UsdShade.Shader, file: UsdShade.Input, output: str) -> Laid | None:
        values = UsdShade.Utils.GetValueProducingAttributes(file)
        mentioned = values[0].Get() if values else None
        name = str(mentioned.path if mentioned else "")
        path = self._neighbours.find(name) if name else None
        if path is None:
            problem = f"texture {name[-120:]!r} is missing"
            if problem not in self._asset.problems:
                self._asset.problems.append(problem)
            return None
        name, matrix = self._coordinates(shader)
        number = self._uv_sets.index(name) if name in self._uv_sets else 0
        wraps = self._wrap(shader, "S"), self._wrap(shader, "T")
        return Laid(path, _CHANNELS.get(output), number, matrix, wraps, _scale(shader))

    def _wrap(self, shader: UsdShade.Shader, axis: str) -> int:
        given = shader.GetInput(f"wrap{axis}") or shader.GetInput({"S": "uaddressmode", "T": "vaddressmode"}[axis])
        return _WRAPS.get(str(given.Get()) if given else "", REPEAT)

    def _coordinates(self, shader: UsdShade.Shader) -> tuple[str, tuple[float, float, float, float, float, float]]:
        """Set and map, with v down, of the coordinates by which an image is read."""
        given = shader.GetInput("st") or shader.GetInput("texcoord")
        matrix = np.eye(3)
        for _ in range(_DEEPEST):
            sources = UsdShade.Utils.GetValueProducingAttributes(given) if given else []
            reader = UsdShade.Shader(sources[0].GetPrim()) if sources else None
            if not reader:
                break
            if name := uv_set_of(reader):
                return name, _v_down(_tiled(shader) @ matrix)
            matrix = matrix @ _transform(reader)
            given = reader.GetInput("in") or reader.GetInput("texcoord")
        return self._uv_sets[0], _v_down(_tiled(shader) @ matrix)

    def color(self, laid: Laid | None, opacity: Laid | None) -> TextureUse | None:
        """A texture of colour, with the opacity in its alpha."""
        first = laid and self._image(laid.path)
        second = opacity and self._image(opacity.path)
        if opacity is not None and second is not None and laid is not None and opacity.path == laid.path:
            second = None  # its own alpha
        if first is None and second is None:
            return None
        alpha = None if second is None or opacity is None else _channel(second, opacity.channel)
        return self._use(laid or opacity, ("color", laid, opacity), lambda: stacked(first, alpha, (255,) * 4, "color"))

    def surface(self, rough: Laid | None, metal: Laid | None) -> TextureUse | None:
        """A texture of roughness and metalness."""
        images = [laid and self._image(laid.path) for laid in (rough, metal)]
        channels = [
            None if image is None or laid is None else _channel(image, laid.channel)[..., None]
            for image, laid in zip(images, (rough, metal), strict=True)
        ]
        if channels[0] is None and channels[1] is None:
            return None
        return self._use(
            rough or metal, ("surface", rough, metal), lambda: stacked(channels[0], channels[1], (255,) * 4, "surface")
        )

    def normals(self, laid: Laid | None) -> TextureUse | None:
        """A texture of normals; of heights, if it is grey."""
        image = laid and self._image(laid.path)
        if image is None:
            return None
        return self._use(
            laid, ("normals", laid), lambda: image if is_normal_map(image) else height_to_normals(image, 1.0)
        )

    def _use(self, laid: Laid | None, key: Any, made: Any) -> TextureUse:
        assert laid is not None
        if key not in self._numbers:
            self._asset.textures.append(Texture(made(), *laid.wraps))
            self._numbers[key] = len(self._asset.textures) - 1
        return TextureUse(texture=self._numbers[key], uv_set=laid.uv_set, matrix=laid.matrix)

    def _image(self, path: Path) -> np.ndarray | None:
        try:
            return self._images.get(path, lambda room: decode_image(path.read_bytes(), room, path.suffix.lower()))
        except ImageProblem as problem:
            said = f"texture {path.name!r} {problem}"
            if said not in self._asset.problems:
                self._asset.problems.append(said)
            return None


def _channel(image: np.ndarray, number: int | None) -> np.ndarray:
    """(h, w) one channel of an image, or its lightness."""
    if number is None or image.shape[2] == 1:
        return lightness(image)
    return np.asarray(image[..., min(number, image.shape[2] - 1)])


def _numbers(shader: UsdShade.Shader, name: str, default: tuple[float, float]) -> tuple[float, float]:
    given = shader.GetInput(name)
    value = given.Get() if given else None
    try:
        return (float(value[0]), float(value[1])) if value is not None else default
    except (TypeError, IndexError):
        return default


def _scale(shader: UsdShade.Shader) -> tuple[float, float, float, float]:
    given = shader.GetInput("scale")
    value = given.Get() if given else None
    try:
        r, g, b, a = (float(f"{float(v):.7g}") for v in value or (1, 1, 1, 1))
    except (TypeError, ValueError):
        return 1.0, 1.0, 1.0, 1.0
    return (r, g, b, a) if all(map(math.isfinite, (r, g, b, a))) else (1.0, 1.0, 1.0, 1.0)


def _transform(shader: UsdShade.Shader) -> np.ndarray:
    """(3, 3) scale, then rotation, then translation (UsdTransform2d)."""
    (sx, sy), (tx, ty) = _numbers(shader, "scale", (1.0, 1.0)), _numbers(shader, "translation", (0.0, 0.0))
    turn = shader.GetInput("rotation")
    angle = math.radians(float(turn.Get() or 0.0)) if turn else 0.0
    c, s = math.cos(angle), math.sin(angle)
    return np.array([[c * sx, -s * sy, tx], [s * sx, c * sy, ty], [0, 0, 1]])


def _tiled(shader: UsdShade.Shader) -> np.ndarray:
    """(3, 3) tiling and offset of an image node itself."""
    (sx, sy), (ox, oy) = _numbers(shader, "uvtiling", (1.0, 1.0)), _numbers(shader, "uvoffset", (0.0, 0.0))
    return np.array([[sx, 0, -ox], [0, sy, -oy], [0, 0, 1]])


def _v_down(matrix: np.ndarray) -> tuple[float, float, float, float, float, float]:
    """The map of coordinates whose v runs up, for such as run down, on both sides."""
    flip = np.array([[1, 0, 0], [0, -1, 1], [0, 0, 1]])
    a, b, c, d, e, f = (flip @ matrix @ flip)[:2].ravel().tolist()
    return a, b, c, d, e, f
