"""One part strewn over the surface of another: how many, how large, how they lie.

Lengths in metres, angles in degrees.
"""

from pydantic import Field

from lantern.scene.fields import count, optional_quantity, quantity
from lantern.scene.model import Key, Model
from lantern.scene.texture_use import TextureUse


class Scatter(Model):
    """Copies of a part on the surface of another, in place of the one that there was.

    Each stands with the middle of its foot on the surface, its own upright axis along the normal, or as much of the way
    to the vertical as `upright` says.
    """

    over: Key = Field(title="Over the surface of")
    density: float = quantity(1000.0, "Pieces a square metre", "1/m²", (1e-3, 1e9), (1, 1e6), 1, scale="logarithmic")
    apart: float | None = optional_quantity(
        "At least apart", "m", (1e-6, 1e4), (0.001, 1), 0.001, on=0.01, off="wherever they fall"
    )
    spread: float = quantity(0.2, "Sizes differ by", "", (0, 0.99), step=0.01)
    turn: float = quantity(180.0, "Turned by up to", "°", (0, 180), step=1)
    tilt: float = quantity(0.0, "Tilted by up to", "°", (0, 180), (0, 90), 1)
    upright: float = quantity(0.0, "Upright", "", (0, 1), step=0.01)
    lift: float = quantity(0.0, "Lifted by", "m", (-1e4, 1e4), (-0.05, 0.05), 0.0005)
    steepest: float | None = optional_quantity("Steepest slope", "°", (0.1, 180), (5, 180), 1, on=60.0, off="anywhere")
    mask: TextureUse | None = Field(None, title="Mask")
    seed: int = count(1, "Seed", "", (0, 2**31 - 1), (0, 100))


def scaled_scatter(scatter: Scatter, ratio: float) -> Scatter:
    """As many copies of a surface and a part that are so many times as large, as far as the fields allow it."""
    return scatter.model_copy(
        update={
            "density": min(max(scatter.density / ratio**2, 1e-3), 1e9),
            "apart": scatter.apart and min(max(scatter.apart * ratio, 1e-6), 1e4),
            "lift": min(max(scatter.lift * ratio, -1e4), 1e4),
        }
    )
