"""When a picture is done, and as which files a final frame is written: models of the document.

Sizes in pixels, times in seconds.
"""

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from lantern.scene.fields import choice, count, optional_count, optional_quantity
from lantern.scene.model import Model

JPEG_QUALITY = 92
LAYERS = ("way_layers", "group_layers", "matte_layers", "data_layers")
"""Fields of `PrintSettings` that say which layers of the light an EXR has."""


class Settling(Model):
    """When a picture is done: after so many samples, or where it has no more noise than that."""

    samples: int = count(256, "Samples", "", (1, 65536), (1, 1024))
    noise: float | None = optional_quantity("Noise target", "%", (0.01, 100), (0.1, 10), 0.1, on=1.0, off="none")
    denoise: bool = choice(True, "Denoise")

    @property
    def noise_target(self) -> float | None:
        """Relative error [-] at which a pixel has settled; None when it takes all its samples."""
        return None if self.noise is None else self.noise / 100


class Proof(Settling):
    """When the live picture has settled."""


Share = Annotated[float, Field(ge=0, le=1)]


class PrintSettings(Settling):
    """The next final frame; its shape is also the shape of the proof."""

    width: int = count(1920, "Width", "px", (16, 16384), (256, 4096))
    height: int = count(1200, "Height", "px", (16, 16384), (256, 4096))
    transparent: bool = choice(False, "Transparent background")
    hdr: bool = choice(False, "HDR picture besides")
    finish_noise: float | None = optional_quantity(
        "Noise when finished", "of 255", (0.2, 64), (0.5, 8), 0.1, on=2.0, off="not looked at"
    )
    seconds: float | None = optional_quantity("Time at most", "s", (1, 1e7), (60, 36000), 60, on=600.0, off="no limit")
    fresh_noise: bool = choice(False, "Noise moves in films")
    region: tuple[Share, Share, Share, Share] | None = Field(
        None, title="Part of the frame that is printed alone: left, top, right and bottom as shares"
    )
    dpi: int | None = optional_count("Dots an inch", "", (10, 4800), (72, 600), on=300, off="not said")
    png_depth: Literal["8", "16"] = choice("8", "PNG", {"8": "8 bits", "16": "16 bits"})
    jpeg: int | None = optional_count("JPEG quality", "", (1, 100), (60, 100), on=JPEG_QUALITY, off="none")
    tiff: Literal["none", "shown", "light"] = choice(
        "none", "TIFF besides", {"none": "None", "shown": "16 bits", "light": "Light, floats"}
    )
    exr_depth: Literal["half", "float"] = choice(
        "half", "Numbers in the EXR", {"half": "Half floats", "float": "Floats"}
    )
    exr_compression: Literal["zip", "zips", "piz", "dwaa", "none"] = choice(
        "zip", "Compression of the EXR",
        {"zip": "ZIP, 16 lines", "zips": "ZIP, 1 line", "piz": "PIZ", "dwaa": "DWAA, loses a little", "none": "None"},
    )  # fmt: skip
    exr_picture: Literal["light", "shown"] = choice(
        "light", "Picture in the EXR", {"light": "Light", "shown": "With the look"}
    )
    exr_files: Literal["one", "each", "none"] = choice(
        "one", "EXR files", {"one": "One file", "each": "One a layer, in a zip", "none": "None"}
    )
    guide_layers: bool = choice(True, "Albedo, normals, depth")
    way_layers: bool = choice(False, "Light by its path")
    group_layers: bool = choice(False, "Light by group")
    matte_layers: bool = choice(False, "Mattes of parts and materials")
    data_layers: bool = choice(False, "Positions, shadow, samples")
    told: bool = choice(True, "Files say what made them")
    file_name: str = Field("{project}-{place}", max_length=200, title="Names of the files")

    @property
    def layers(self) -> bool:
        """Whether the EXR has layers that only a film with AOVs knows."""
        return any(getattr(self, name) for name in LAYERS)

    @property
    def window(self) -> tuple[int, int, int, int] | None:
        """x, y, width and height in pixels of the part that is printed alone."""
        if self.region is None:
            return None
        left, top, right, bottom = self.region
        x, y = min(int(left * self.width), self.width - 1), min(int(top * self.height), self.height - 1)
        return x, y, max(math.ceil(right * self.width) - x, 1), max(math.ceil(bottom * self.height) - y, 1)

    @property
    def kinds(self) -> tuple[str, ...]:
        """Kinds of the files of a still."""
        besides = {"hdr": self.hdr, "jpg": self.jpeg is not None, "tif": self.tiff != "none"}
        exr = {"one": ("exr",), "each": ("layers",), "none": ()}[self.exr_files]
        return ("png", *exr, *(kind for kind, is_wanted in besides.items() if is_wanted))

    def writing(self, kind: str) -> "PrintSettings":
        """Those by which files of one kind can be written, whether they ask for it or not; of others without layers."""
        changed: dict[str, object] = {}
        if kind == "jpg" and self.jpeg is None:
            changed["jpeg"] = JPEG_QUALITY
        if kind == "tif" and self.tiff == "none":
            changed["tiff"] = "shown"
        if kind not in ("exr", "layers"):
            changed |= dict.fromkeys(LAYERS, False)
        return self.model_copy(update=changed)

    @property
    def is_deep(self) -> bool:
        """Whether a file has 16 bits of what the display shows."""
        return self.png_depth == "16" or self.tiff == "shown"

    @model_validator(mode="after")
    def _has_a_region_of_some_size(self) -> "PrintSettings":
        if self.region is not None and not (self.region[0] < self.region[2] and self.region[1] < self.region[3]):
            raise ValueError(f"region: left and top must lie before right and bottom, not {list(self.region)}")
        return self
