"""How a field of the scene document says its label, unit, hard range and soft range, once for everybody.

The hard range is what validation accepts; the soft range is what a slider spans. Both reach the front end
through the JSON schema.
"""

from typing import Annotated, Any

from pydantic import AfterValidator, Field
from pydantic.fields import FieldInfo


def quantity(
    default: float,
    label: str,
    unit: str,
    hard: tuple[float, float],
    soft: tuple[float, float] | None = None,
    step: float | None = None,
) -> Any:
    """A number with a unit; `hard` and `soft` are inclusive [minimum, maximum]."""
    low, high = soft or hard
    extra: dict[str, Any] = {
        "unit": unit,
        "soft_minimum": low,
        "soft_maximum": high,
        "step": step or (high - low) / 100,
    }
    return Field(default, title=label, ge=hard[0], le=hard[1], allow_inf_nan=False, json_schema_extra=extra)


def count(default: int, label: str, unit: str, hard: tuple[int, int], soft: tuple[int, int]) -> Any:
    """A whole number; `hard` and `soft` as for `quantity`."""
    extra: dict[str, Any] = {"unit": unit, "soft_minimum": soft[0], "soft_maximum": soft[1], "step": 1, "whole": True}
    return Field(default, title=label, ge=hard[0], le=hard[1], json_schema_extra=extra)


def choice(default: Any, label: str) -> Any:
    """A switch or one of several words."""
    return Field(default, title=label)


def _in_unit_range(color: tuple[float, float, float]) -> tuple[float, float, float]:
    if not all(0.0 <= c <= 1.0 for c in color):
        raise ValueError(f"a reflectance or tint must lie within 0 and 1 in each channel, not {color}")
    return color


def _not_negative(color: tuple[float, float, float]) -> tuple[float, float, float]:
    if not all(0.0 <= c <= 1e6 for c in color):
        raise ValueError(f"light must lie within 0 and 1e6 in each channel, not {color}")
    return color


Finite = Annotated[float, Field(allow_inf_nan=False)]
Vector = tuple[Finite, Finite, Finite]
Tint = Annotated[Vector, AfterValidator(_in_unit_range)]
"""Linear Rec. 709 reflectance or transmittance, [0, 1] in each channel."""
LightColor = Annotated[Vector, AfterValidator(_not_negative)]
"""Linear Rec. 709 light, not negative."""


def color(default: tuple[float, float, float], label: str) -> Any:
    """A linear Rec. 709 colour."""
    return Field(default, title=label, json_schema_extra={"unit": "linear Rec. 709"})


def describe(info: FieldInfo) -> dict[str, Any]:
    """Label, unit and ranges of a field as plain data."""
    extra = info.json_schema_extra
    described: dict[str, Any] = {"label": info.title or ""}
    for limit in info.metadata:
        if getattr(limit, "ge", None) is not None:
            described["minimum"] = limit.ge
        if getattr(limit, "le", None) is not None:
            described["maximum"] = limit.le
    if isinstance(extra, dict):
        described.update(extra)
    return described
