"""What differs between two values of a place of the document, in a person's words.

In: the document, a JSON Pointer, a value and another. Out: a sentence without a full stop: "Strap: material Cognac
Leather → Ink". Called by the answers about variants. Words and units are those of the fields themselves.
"""

from typing import Any

import numpy as np
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from lantern.color import encode_srgb
from lantern.scene.document import Scene
from lantern.scene.fields import describe
from lantern.scene.patching import steps_of

_SECTIONS = {"sky": "Sky", "look": "Look", "camera": "Camera", "ground": "Ground", "haze": "Haze",
             "backdrop": "Backdrop", "environment": "Environment", "balance": "Balance"}  # fmt: skip
DIGITS = 3
"""Of a number."""


def place_said(scene: Scene, path: str) -> str:
    """What a place is called: "Brass: roughness"."""
    whose, within, info = _found(scene, path)
    label = info.title if info is not None and info.title else steps_of(path)[-1].replace("_", " ")
    within = "" if _small(label) in ("on", within) and within else within
    return f"{whose}: {f'{within} {_small(label)}'.strip()}"


def difference_said(scene: Scene, path: str, before: Any, after: Any) -> str:
    """What is different at a place, which need not be there any more."""
    whose, within, info = _found(scene, path)
    name = steps_of(path)[-1]
    label = (info.title if info is not None and info.title else name.replace("_", " ")).strip()
    # What is within something is called by that where it is all of it: "contrast off", not "contrast on off".
    label = within if within and _small(label) in ("on", within) else f"{within} {_small(label)}".strip()
    if name == "visible" and isinstance(after, bool):
        said = "shown" if after else "hidden"
    elif isinstance(after, bool) and isinstance(before, bool):
        said = f"{_small(label)} {'on' if after else 'off'}"
    else:
        first, second = (_value_said(scene, name, info, value) for value in (before, after))
        said = f"{_small(label)} {first} → {second}" if first and second else f"{_small(label)} changed"
    return f"{whose}: {said}"


def _small(label: str) -> str:
    """A label within a sentence; abbreviations stay as they are."""
    return label if len(label) > 1 and label[1].isupper() else label[:1].lower() + label[1:]


def _found(scene: Scene, path: str) -> tuple[str, str, FieldInfo | None]:
    """(what the place belongs to, what of that it is within, the field that it is, if that can be told)."""
    steps = steps_of(path)
    whose, within, info = _SECTIONS.get(steps[0], ""), "", None
    here: Any = scene
    for place, step in enumerate(steps):
        info = None
        if isinstance(here, dict):
            here = here.get(step)
        elif isinstance(here, BaseModel) and step in type(here).model_fields:
            info = type(here).model_fields[step]
            here = getattr(here, step)
        else:
            here = None
        name = getattr(here, "name", None)
        if isinstance(name, str) and not hasattr(here, "sha256"):
            whose, within = name, ""
        elif isinstance(here, BaseModel) and 0 < place < len(steps) - 1:
            within = step.replace("_", " ")
    return whose or steps[0].replace("_", " ").capitalize(), within, info


def _value_said(scene: Scene, name: str, info: FieldInfo | None, value: Any) -> str:
    """Empty for what has no short word."""
    told = describe(info) if info is not None else {}
    if name == "material" and isinstance(value, str):
        return scene.materials[value].name if value in scene.materials else value
    if value is None:
        return str(told.get("off", "none"))
    if isinstance(value, str):
        return str(told.get("options", {}).get(value, value))
    if isinstance(value, int | float):
        return f"{_number(value)} {told.get('unit', '')}".strip()
    if told.get("kind") == "color" and _is_color(value):
        return _hex(value)
    return ""


def _number(value: float) -> str:
    return f"{value:.{DIGITS}g}" if abs(value) < 10**DIGITS else f"{value:,.0f}"


def _is_color(value: Any) -> bool:
    return isinstance(value, list | tuple) and len(value) == 3 and all(isinstance(v, int | float) for v in value)


def _hex(color: Any) -> str:
    coded = encode_srgb(np.clip(np.array(color, np.float64), 0, 1))
    return "#" + "".join(f"{round(255 * float(v)):02x}" for v in coded)
