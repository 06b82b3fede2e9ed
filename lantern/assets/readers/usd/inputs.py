"""The inputs of a surface of a stage (UsdShade), whatever stands behind them.

In: a shader. Out: numbers, colours, textures. Called by `materials` and `materialx`.
"""

import math
from typing import Any

from pxr import UsdShade

from lantern.assets.readers.usd.textures import Laid, TextureReader


class Inputs:
    """The inputs of a surface: numbers, colours, and the textures that stand for them."""

    def __init__(self, shader: UsdShade.Shader, textures: TextureReader) -> None:
        self._shader, self.textures = shader, textures

    def laid(self, name: str) -> Laid | None:
        """The texture that an input is connected to."""
        return self.textures.find(self._shader.GetInput(name))

    def has(self, name: str) -> bool:
        """Whether an input is said at all."""
        given = self._shader.GetInput(name)
        return bool(given) and bool(UsdShade.Utils.GetValueProducingAttributes(given))

    def _value(self, name: str) -> Any:
        given = self._shader.GetInput(name)
        if not given:
            return None
        sources = UsdShade.Utils.GetValueProducingAttributes(given)
        return sources[0].Get() if sources else None

    def number(self, name: str, default: float, low: float = 0.0, high: float = 1.0) -> float:
        """A number within a range."""
        value = self._value(name)
        number = _plain(value) if isinstance(value, int | float) else default
        return min(max(number, low), high) if math.isfinite(number) else default

    def color(self, name: str, default: tuple[float, float, float], high: float = 1.0) -> tuple[float, float, float]:
        """A linear colour, at most `high`."""
        value = self._value(name)
        try:
            found = [min(max(_plain(c), 0.0), high) for c in value]
        except TypeError:
            return default
        return (found[0], found[1], found[2]) if len(found) == 3 else default

    def flag(self, name: str) -> bool:
        """A switch, also one that is written as a number."""
        return bool(self._value(name))

    def word(self, name: str) -> str:
        """A choice; empty when it is not made."""
        return str(self._value(name) or "")


def _plain(value: float) -> float:
    """A number that was stored in 32 bits as somebody wrote it."""
    return float(f"{value:.7g}")
