"""Layers: materials that lie over another one, each where its mask says.

The lowest says what the inside of a body is, how it lets rays through and whether it glows; what lies over it changes
how its surface looks. A layer names a material of the project, so that one rust serves many parts.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from lantern.scene.fields import choice, quantity
from lantern.scene.inputs import MaterialInput, scaled_input
from lantern.scene.model import Key, Model

if TYPE_CHECKING:
    from lantern.scene.document import Material

MOST_LAYERS = 3
"""Over the lowest material."""
LayerInput = Literal["mask", "breakup"]
"""Inputs of a layer: where it lies, and what breaks that up."""


class Layer(Model):
    """A material over others."""

    material: Key = Field(title="Material")
    enabled: bool = choice(True, "Shown")
    coverage: float = quantity(1.0, "Coverage", "", (0, 1), step=0.01)
    thickness: float = quantity(0.0, "Thickness", "m", (-0.1, 0.1), (-0.001, 0.001), 0.00002)
    mask: MaterialInput | None = Field(None, title="Mask")
    breakup: MaterialInput | None = Field(None, title="Break-up")

    def inputs(self) -> tuple[MaterialInput, ...]:
        """Those that it has, in their order."""
        return tuple(one for one in (self.mask, self.breakup) if one is not None)


Layers = Sequence[Layer]
"""The lowest first."""


def with_inputs(layers: Layers, change: Callable[[MaterialInput], MaterialInput | None]) -> tuple[Layer, ...]:
    """Layers whose masks are others; one whose mask has become nothing is left out: it would lie everywhere."""
    found: list[Layer] = []
    for layer in layers:
        mask, breakup = (None if one is None else change(one) for one in (layer.mask, layer.breakup))
        if mask is not None or layer.mask is None:
            found.append(layer.model_copy(update={"mask": mask, "breakup": breakup}))
    return tuple(found)


def scaled_layers(layers: Layers, ratio: float) -> tuple[Layer, ...]:
    """The same on a part that is so many times as large, as far as the fields allow it."""
    return tuple(
        layer.model_copy(update={"thickness": min(max(layer.thickness * ratio, -0.1), 0.1)})
        for layer in with_inputs(layers, lambda one: scaled_input(one, ratio))
    )


def worn_with(keys: Iterable[str], materials: Mapping[str, "Material"]) -> dict[str, None]:
    """Materials and those of their layers, each once, in order."""
    found: dict[str, None] = {}
    for key in keys:
        found[key] = None
        found.update(dict.fromkeys(layer.material for layer in materials[key].layers))
    return found
