"""What a swatch is, and short words for saying one."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np

from lantern.color import decode_srgb
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Placement, Ramp, Stop
from lantern.scene.sources import AnySource, Source, WornSource

Rgb = tuple[float, float, float]


@dataclass(frozen=True)
class Swatch:
    """A material on the shelf."""

    key: str
    family: str
    words: str  # that it is found by besides its name
    material: Material
    over: Mapping[str, Material] = field(default_factory=dict)
    """Materials of its layers by the keys that these say."""

    @property
    def name(self) -> str:
        return self.material.name


def swatch(
    key: str, family: str, words: str, name: str, over: Mapping[str, Material] | None = None, **fields: Any
) -> Swatch:
    """A swatch whose material has these fields."""
    return Swatch(key, family, words, Material(name=name, **fields), over or {})


def srgb(code: str) -> Rgb:
    """Linear Rec. 709 of six hexadecimal digits of sRGB (IEC 61966-2-1)."""
    encoded = np.array([int(code[at : at + 2], 16) for at in (0, 2, 4)]) / 255
    r, g, b = decode_srgb(encoded).tolist()
    return round(r, 5), round(g, 5), round(b, 5)


def laid(source: Source, size: float, low: float = 0.0, high: float = 1.0, **told: Any) -> MaterialInput:
    """An input of a source laid on in a box, a repeat `size` [m] wide; `told` are fields of input or placement."""
    fields = {name: told.pop(name) for name in list(told) if name in MaterialInput.model_fields}
    placement = Placement(**{"kind": "box", "size": size} | told)
    return MaterialInput(source=cast(AnySource, source), placement=placement, low=low, high=high, **fields)


def colors(source: Source, size: float, *stops: tuple[float, str], **told: Any) -> MaterialInput:
    """An input whose values stand for colours: places on a ramp, and sRGB."""
    ramp = Ramp(stops=tuple(Stop(at=at, color=srgb(code)) for at, code in stops))
    return laid(source, size, ramp=ramp, **told)


def worn(source: WornSource) -> MaterialInput:
    """A mask by edges or crevices."""
    return MaterialInput(source=cast(AnySource, source), combine="multiply")
