"""Bodies made here and not brought in, a union told apart by `kind`: their measures stay editable.

Lengths in metres. A form stands with the middle of its foot at its origin, but a plinth and a table top, which have
the middle of what they carry there: what stands on them stays where it is when they grow.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.fields import choice, quantity
from lantern.scene.model import Model

MOST, LEAST = 10_000.0, 1e-5


def _length(default: float, label: str) -> float:
    value: float = quantity(default, label, "m", (LEAST, MOST), (0.01, 5), 0.01)
    return value


def _radius(default: float, label: str) -> float:
    value: float = quantity(default, label, "m", (0, MOST), (0, 0.5), 0.001)
    return value


class PlaneForm(Model):
    kind: Literal["plane"] = "plane"
    width: float = _length(1.0, "Width")
    depth: float = _length(1.0, "Depth")


class BoxForm(Model):
    kind: Literal["box"] = "box"
    width: float = _length(0.2, "Width")
    height: float = _length(0.2, "Height")
    depth: float = _length(0.2, "Depth")
    edge: float = _radius(0.002, "Radius of the edges")


class BallForm(Model):
    kind: Literal["ball"] = "ball"
    radius: float = _length(0.1, "Radius")


class CylinderForm(Model):
    kind: Literal["cylinder"] = "cylinder"
    radius: float = _length(0.1, "Radius")
    height: float = _length(0.2, "Height")
    edge: float = _radius(0.002, "Radius of the edges")


class SweepForm(Model):
    """A floor that rises into a wall behind it."""

    kind: Literal["sweep"] = "sweep"
    width: float = _length(3.0, "Width")
    depth: float = _length(3.0, "Depth of the floor")
    height: float = _length(2.0, "Height of the wall")
    bend: float = _radius(0.6, "Radius of the bend")


class PlinthForm(Model):
    kind: Literal["plinth"] = "plinth"
    section: Literal["square", "round"] = choice("square", "Section", {"square": "Square", "round": "Round"})
    width: float = _length(0.4, "Width")
    height: float = _length(0.3, "Height")
    edge: float = _radius(0.002, "Radius of the edges")


class TableTopForm(Model):
    kind: Literal["table_top"] = "table_top"
    width: float = _length(1.2, "Width")
    depth: float = _length(0.8, "Depth")
    thickness: float = _length(0.03, "Thickness")
    corner: float = _radius(0.03, "Radius of the corners")
    edge: float = _radius(0.004, "Radius of the edges")


class ChartForm(Model):
    """A board of 24 patches of known colours, upright, seen from its front."""

    kind: Literal["chart"] = "chart"
    width: float = _length(0.29, "Width")


Form = Annotated[
    PlaneForm | BoxForm | BallForm | CylinderForm | SweepForm | PlinthForm | TableTopForm | ChartForm,
    Field(discriminator="kind"),
]
FORM_KINDS: dict[str, type[Model]] = {
    "plane": PlaneForm,
    "box": BoxForm,
    "ball": BallForm,
    "cylinder": CylinderForm,
    "sweep": SweepForm,
    "plinth": PlinthForm,
    "table_top": TableTopForm,
    "chart": ChartForm,
}


def scaled_form(form: Form, ratio: float) -> Form:
    """A form `ratio` times as large, within what a document may hold."""
    changed = {
        name: min(max(value * ratio, LEAST if value else 0.0), MOST)
        for name, value in form.model_dump().items()
        if isinstance(value, float)
    }
    return form.model_copy(update=changed)
