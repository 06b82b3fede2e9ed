"""The layered OpenEXR of a final frame: the picture, its guides, and on request every layer that the film knows.

Channel names follow OpenEXR's "Standard Optional Header Attributes and Channel Names": a layer is a prefix before a
dot; `Z` is depth. Colours are half floats, everything that is measured or counted is float.
"""

import os
import zipfile
from collections.abc import Callable, Mapping
from contextlib import ExitStack
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import OpenImageIO as oiio

from lantern.picture.cryptomatte import Matte
from lantern.picture.files import BandWriter, Rows

LARGEST_HALF = np.float32(65504.0)
BAND_PIXELS, LINES = 1 << 22, 32
"""Pixels of a band of about that many; and lines that one is a multiple of, so that no compressed block is cut."""


@dataclass
class Channels:
    """Named channels of one EXR in the order they are written, and text attributes."""

    arrays: dict[str, np.ndarray] = field(default_factory=dict)
    floats: set[str] = field(default_factory=set)
    attributes: dict[str, str] = field(default_factory=dict)
    color_space: str = "lin_rec709_scene"

    def color(self, layer: str, pixels: np.ndarray, *, exact: bool = False) -> None:
        """Add (h, w, 3) as `layer`.R, .G and .B; without a name as the picture itself."""
        self._add(layer, "RGB", pixels, exact)

    def vector(self, layer: str, pixels: np.ndarray, *, exact: bool = False) -> None:
        """Add (h, w, 3) as `layer`.X, .Y and .Z."""
        self._add(layer, "XYZ", pixels, exact)

    def value(self, name: str, pixels: np.ndarray) -> None:
        """Add (h, w) as one float channel."""
        self.arrays[name] = pixels
        self.floats.add(name)

    def matte(self, matte: Matte) -> None:
        """Add the channels and attributes of an identity matte."""
        for name, pixels in matte.channels.items():
            self.value(name, pixels)
        self.attributes |= matte.attributes

    def apart(self) -> "dict[str, Channels]":
        """Each layer for itself, by a name for its file; the colours of one are R, G and B there."""
        found: dict[str, Channels] = {}
        for name, pixels in self.arrays.items():
            layer, channel = _layer_of(name)
            one = found.setdefault(layer, Channels(color_space=self.color_space))
            own = channel if channel in "RGBA" and name.startswith(f"{layer}.") else name
            one.arrays[own] = pixels
            if name in self.floats:
                one.floats.add(own)
        for key, value in self.attributes.items():
            layer = self.attributes.get(f"{key.rpartition('/')[0]}/name", "")
            for one in [found[layer]] if layer in found else found.values():
                one.attributes[key] = value
        return found

    def _add(self, layer: str, letters: str, pixels: np.ndarray, exact: bool) -> None:
        for i, letter in enumerate(letters):
            name = f"{layer}.{letter}" if layer else letter
            self.arrays[name] = pixels[..., i]
            if exact:
                self.floats.add(name)


DISPLAYED = "lin_rec709_display"
"""Color space of a picture that has its look: linear as a display shows it, its white being 1."""


def _layer_of(name: str) -> tuple[str, str]:
    """(name of the layer for its file, channel) of a channel; those of one identity matte belong together."""
    layer, _, channel = name.rpartition(".")
    if not layer:
        return ("depth", name) if name == "Z" else ("picture", name)
    return layer.rstrip("0123456789") if layer.startswith("Crypto") else layer, channel


def picture_channels(radiance: np.ndarray, alpha: np.ndarray) -> Channels:
    """What every EXR holds: linear R, G, B and A."""
    channels = Channels()
    channels.color("", radiance)
    channels.arrays["A"] = alpha
    return channels


@dataclass(frozen=True)
class Stored:
    """How an EXR is stored: colours as floats and not half floats, by which compression, and which part of the frame.

    `window` is x, y, width and height in pixels; the display window stays that of the frame.
    """

    floats: bool = False
    compression: str = "zip"
    window: tuple[int, int, int, int] | None = None


Bands = Callable[[Rows], Channels]
"""What makes the channels of some rows of a picture."""


def write_exr(
    path: Path,
    bands: Bands,
    size: tuple[int, int],
    attributes: Mapping[str, str] | None = None,
    stored: Stored = Stored(),
) -> None:
    """Write one OpenEXR part of a picture of (height, width) pixels, some rows after others, which `bands` makes.

    Raises ImageError when the file cannot be written.
    """
    _write(bands, size, attributes or {}, stored, lambda channels: {path: channels})


def write_exrs(path: Path, bands: Bands, size: tuple[int, int], attributes: Mapping[str, str], stored: Stored) -> None:
    """Write a zip with one OpenEXR a layer, named after it. Raises ImageError and OSError when it cannot be written."""
    with TemporaryDirectory(dir=path.parent) as name:
        folder = Path(name)

        def apart(channels: Channels) -> dict[Path, Channels]:
            return {folder / f"{layer}.exr": one for layer, one in channels.apart().items()}

        _write(bands, size, attributes, stored, apart)
        partial = folder / path.name
        with zipfile.ZipFile(partial, "w", zipfile.ZIP_STORED) as target:
            for file in sorted(folder.glob("*.exr")):
                target.write(file, file.name)
        os.replace(partial, path)


def _write(
    bands: Bands,
    size: tuple[int, int],
    attributes: Mapping[str, str],
    stored: Stored,
    files: Callable[[Channels], dict[Path, Channels]],
) -> None:
    """Write the files that a picture's channels go to, all of them a band at a time."""
    height, width = size
    x, y, across, down = stored.window or (0, 0, width, height)
    step = max(BAND_PIXELS // width // LINES * LINES, LINES)
    writers: dict[Path, BandWriter] = {}
    with ExitStack() as opened:
        for first in range(y, y + down, step):
            last = min(first + step, y + down)
            for path, channels in files(bands((first, last))).items():
                if path not in writers:
                    spec = _spec_of(channels, size, (x, y, across, down), attributes, stored)
                    writers[path] = opened.enter_context(BandWriter(path, spec))
                writers[path].write(first - y, _stacked(channels, stored, x, across))


def _spec_of(
    channels: Channels,
    size: tuple[int, int],
    window: tuple[int, int, int, int],
    attributes: Mapping[str, str],
    stored: Stored,
) -> oiio.ImageSpec:
    names, (height, width), (x, y, across, down) = list(channels.arrays), size, window
    exact = set(names) if stored.floats else channels.floats
    spec = oiio.ImageSpec(across, down, len(names), oiio.FLOAT if stored.floats else oiio.HALF)
    spec.x, spec.y, spec.full_width, spec.full_height = x, y, width, height
    spec.channelnames = tuple(names)
    spec.channelformats = tuple(oiio.FLOAT if name in exact else oiio.HALF for name in names)
    if "A" in names:
        spec.alpha_channel = names.index("A")
    if "Z" in names:
        spec.z_channel = names.index("Z")
    spec.attribute("compression", stored.compression)
    spec.attribute("oiio:ColorSpace", channels.color_space)
    for name, value in (channels.attributes | dict(attributes)).items():
        spec.attribute(name, value)
    return spec


def _stacked(channels: Channels, stored: Stored, x: int, across: int) -> np.ndarray:
    """(rows, across, channels) float32. Half floats end at 65504: brighter light is kept there, not made infinite."""
    exact = set(channels.arrays) if stored.floats else channels.floats
    told = [
        (pixels if name in exact else np.clip(pixels, -LARGEST_HALF, LARGEST_HALF))[:, x : x + across]
        for name, pixels in channels.arrays.items()
    ]
    return np.stack(told, axis=-1).astype(np.float32)
