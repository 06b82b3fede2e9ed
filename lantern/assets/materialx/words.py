"""What MaterialX and the document call the same, and how the document's own words are said in a file.

A parameter's input that is no plain image is a node of ours, declared in the file (MaterialX 1.39, "NodeDef Elements");
what OpenPBR has no word for is an attribute of ours ("AttributeDef Elements"). Other programs read past both.
"""

from collections.abc import Iterator, Mapping
from functools import cache
from typing import Any

import MaterialX as mx
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Placement, Ramp
from lantern.scene.model import FileRef
from lantern.scene.sources import SOURCES, SourceKind

SURFACE = "open_pbr_surface"
OURS = "vl_"
"""Before every node category and attribute of our own."""
NORMALS = {"geometry_normal": "normal", "geometry_coat_normal": "coat_normal"}
"""Inputs of the surface that take normals, and the maps that say them."""
_APART = ("file", "part", "source", "placement", "ramp")
"""Fields of an input and its parts that are no plain values."""
_NOT_SAID = {"name", "inputs", "layers", "normal_scale", "coat_normal_scale"}


@cache
def library() -> mx.Document:
    """The standard's own definitions, as the library ships them."""
    document = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), document)
    return document


@cache
def surface_inputs() -> Mapping[str, str]:
    """Types of the inputs of an OpenPBR surface by their names."""
    definition = library().getNodeDef(f"ND_{SURFACE}_surfaceshader")
    return {one.getName(): one.getType() for one in definition.getActiveInputs()}


def beyond_openpbr() -> list[str]:
    """Constants of a material that OpenPBR has no word for."""
    names = [name for name in Material.model_fields if not name.endswith("_texture") and name not in _NOT_SAID]
    return [name for name in names if name not in surface_inputs()]


def typed(value: Any) -> tuple[str, str]:
    """(type, text) of a value in a file."""
    match value:
        case bool():
            return "boolean", "true" if value else "false"
        case int():
            return "integer", str(value)
        case float():
            return "float", repr(value)
        case str():
            return "string", value
        case (_, _, _):
            return "color3", ", ".join(repr(float(v)) for v in value)
    raise TypeError(f"{value!r} has no type in a file")


def flat(one: MaterialInput) -> dict[str, tuple[str, str]]:
    """Everything that an input says, but for its file: (type, text) by name."""
    found = {}
    parts: list[tuple[str, BaseModel, set[str]]] = [
        ("", one.source, {"kind", "file", "part"}), ("placement_", one.placement, set()),
        ("", one, {"source", "placement", "ramp"}),
    ]  # fmt: skip
    for lead, model, left_out in parts:
        for name in type(model).model_fields:
            if name not in left_out:
                kind, text = typed(getattr(model, name))
                found[lead + name] = ("vector3" if name == "offset" else kind, text)
    if one.ramp is not None:
        found["ramp_blend"] = ("string", one.ramp.blend)
        found["ramp_at"] = ("floatarray", ", ".join(repr(stop.at) for stop in one.ramp.stops))
        colors = [repr(float(v)) for stop in one.ramp.stops for v in stop.color]
        found["ramp_colors"] = ("floatarray", ", ".join(colors))
    return found


def unflat(kind: SourceKind, said: Mapping[str, str], file: FileRef | None) -> MaterialInput:
    """An input from what a node of ours says. Raises ValueError where that is no input."""
    source = _fields(SOURCES[kind], said, "") | ({"file": file} if "file" in SOURCES[kind].model_fields else {})
    fields = _fields(MaterialInput, said, "")
    ramp = None
    if "ramp_at" in said and "ramp_colors" in said:
        places, colors = numbers(said["ramp_at"]), numbers(said["ramp_colors"])
        stops = [{"at": at, "color": colors[3 * n : 3 * n + 3]} for n, at in enumerate(places)]
        ramp = Ramp.model_validate({"stops": stops, "blend": said.get("ramp_blend", "linear")})
    placement = Placement.model_validate(_fields(Placement, said, "placement_"))
    whole = {**fields, "source": {"kind": kind, **source}, "placement": placement, "ramp": ramp}
    return MaterialInput.model_validate(whole)


def numbers(text: str) -> tuple[float, ...]:
    """Numbers of a value of a file. Raises ValueError."""
    return tuple(float(each) for each in text.replace(",", " ").split())


def _fields(model: type[BaseModel], said: Mapping[str, str], lead: str) -> dict[str, Any]:
    """Those fields of a model that are said, as far as they are values."""
    found: dict[str, Any] = {}
    for name, info in model.model_fields.items():
        text = said.get(lead + name)
        if text is not None and name not in _APART and (lead or name != "kind"):
            found[name] = parsed(info, text)
    return found


def parsed(info: FieldInfo, text: str) -> Any:
    """The value of a field of the document that a text of a file stands for. Raises ValueError."""
    default = info.default
    if isinstance(default, bool):
        return text.strip().lower() == "true"
    if isinstance(default, tuple):
        return numbers(text)
    if isinstance(default, str):
        return text
    if isinstance(default, int) and not isinstance(default, bool):
        return int(float(text))
    return float(text)


def limits(info: FieldInfo) -> Iterator[float]:
    """Least and greatest number of a field, if it has them."""
    for name in ("ge", "le"):
        found = [getattr(limit, name) for limit in info.metadata if getattr(limit, name, None) is not None]
        yield float(found[0]) if found else float("-inf" if name == "ge" else "inf")
