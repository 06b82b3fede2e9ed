"""Which fields of a model belong together, in their order, when each has an effect, and what sums a group up.

In: nothing. Out: groups of names of fields. Called by the export of types, from which the controls are made.
"""

from typing import Any

from pydantic import BaseModel

from lantern.scene import document, inputs, look, sources, surroundings
from lantern.scene.decals import Decal, TextContent
from lantern.scene.fields import describe
from lantern.scene.forms import FORM_KINDS
from lantern.scene.group import Group, Row, always, switched
from lantern.scene.layers import Layer
from lantern.scene.lights import LIGHT_KINDS, BarnDoors, Lamp, LightBase, extents_of
from lantern.scene.material_groups import MATERIAL_GROUPS
from lantern.scene.placed import PartGroup
from lantern.scene.scatter import Scatter

_PLACE = Group(
    "place",
    "Place",
    always("offset", "turn_x", "turn_y", "turn_z", "size", "mirror", "pivot"),
    (("offset", "by"), ("size", "")),
)
_SUBDIVIDED = ("subdivision=catmull_clark", "subdivision=loop")

_GROUPS: dict[type[BaseModel], tuple[Group, ...]] = {
    document.Material: MATERIAL_GROUPS,
    document.Part: (
        _PLACE,
        Group(
            "density",
            "Density",
            (
                Row("subdivision"),
                *(Row(name, _SUBDIVIDED) for name in ("levels", "print_levels", "edge_pixels")),
                Row("crease_angle"),
                Row("displacement", ("displacement_texture", "displacement_input")),
                Row("displacement_middle", ("displacement",)),
                Row("displacement_along", ("displacement_texture",)),
            ),
            (("subdivision", ""),),
        ),
        Group("edges", "Edges", (Row("edge_radius"),), (("edge_radius", ""),)),
        Group(
            "seen",
            "Seen",
            always(
                *("visible", "casts_shadow", "receives_shadow", "seen_by_camera", "seen_in_reflections", "inside_out")
            ),
            (("casts_shadow", "shadow"), ("seen_by_camera", "camera"), ("seen_in_reflections", "reflections")),
        ),
    ),
    PartGroup: (_PLACE,),
    Scatter: (
        Group(
            "strewn",
            "Strewn",
            always("density", "apart", "spread", "turn", "tilt", "upright", "lift", "steepest", "seed"),
            (("density", ""),),
        ),
    ),
    inputs.Placement: (
        Group(
            "placement",
            "Placement",
            (
                Row("kind"),
                Row("uv_set", ("kind=uv",)),
                Row("repeats", ("kind=uv", "kind=cylinder", "kind=sphere")),
                Row("size", ("kind=box", "kind=plane", "kind=cylinder")),
                Row("ratio"),
                *always("turn_x", "turn_y", "turn_z", "offset"),
                Row("blend", ("kind=box",)),
                Row("space", ("kind=box", "kind=plane", "kind=cylinder", "kind=sphere")),
            ),
        ),
    ),
    inputs.MaterialInput: (
        Group("values", "Values", always("low", "high", "combine", "amount")),
    ),
    Decal: (
        Group(
            "finish",
            "Finish",
            always("opacity", "color", "metalness", "roughness", "coat", "raised"),
            (("color", ""),),
        ),
        Group(
            "lies",
            "Lies",
            always("width", "stretch", "turn", "wraps", "depth", "both_sides", "middle"),
            (("width", ""),),
        ),
    ),
    TextContent: (Group("text", "Lettering", always("face", "weight", "spacing", "leading")),),
    Layer: (
        Group("layer", "Layer", always("enabled", "coverage", "thickness"), (("coverage", ""),)),
    ),
    BarnDoors: (Group("doors", "Barn doors", always("upper", "lower", "left", "right")),),
    inputs.Ramp: (Group("ramp", "Ramp", always("blend")),),
    surroundings.Environment: (
        Group(
            "environment",
            "Environment",
            always("rotation", "intensity"),
            (("rotation", ""), ("intensity", "")),
        ),
        Group(
            "grade",
            "Turned and graded",
            (
                *always("tilt", "mirrored", "temperature", "tint", "saturation", "blur", "reflection_blur"),
                Row("contrast", ("map",)),
                Row("grounded"),
            ),
            (("temperature", ""),),
        ),
    ),
    surroundings.Graded: (
        Group("graded", "Graded light", always("zenith", "horizon", "ground", "horizon_height"), (("zenith", ""),)),
    ),
    surroundings.Card: (
        Group(
            "card",
            "Light",
            always("blend", "luminance", "color", "temperature"),
            (("luminance", ""),),
        ),
        Group(
            "shape",
            "Shape",
            always("shape", "width", "height", "roll", "edge", "fall_off"),
            (("shape", ""), ("width", ""), ("height", "")),
        ),
        Group("place", "Place", always("azimuth", "elevation"), (("azimuth", ""), ("elevation", ""))),
    ),
    surroundings.Sky: (
        switched(
            *("sky", "Sun and sky", (("elevation", "sun at"),)),
            "kind",
            *(Row(name, ("enabled",), unless="place") for name in ("azimuth", "elevation")),
            Row("turbidity", ("kind=clear",)),
            *("sun", "ground_albedo"),
        ),
    ),
    surroundings.SunPlace: (
        Group(
            "place",
            "Place and time",
            always("hour", "latitude", "longitude", "zone", "north"),
            (("latitude", ""), ("hour", "at")),
        ),
    ),
    surroundings.Backdrop: (
        Group(
            "backdrop",
            "Backdrop",
            (
                Row("kind"),
                Row("color", ("kind=color", "kind=gradient")),
                *(Row(name, ("kind=gradient",)) for name in ("upper", "middle", "glow")),
                Row("rotation", ("kind=map",)),
                Row("fit", ("kind=photograph",)),
                Row("color_exposure", ("kind=color", "kind=gradient")),
                *(Row(name, ("kind=map", "kind=photograph", "kind=environment")) for name in ("exposure", "blur")),
                Row("graded"),
            ),
            (("kind", ""),),
        ),
    ),
    surroundings.Ground: (
        switched(
            *("ground", "Ground", (("reflectance", ""), ("height", "at"))),
            *("reflectance", "height", "reflection"),
            Row("reflection_roughness", ("reflection",)),
        ),
    ),
    surroundings.Haze: (
        switched("haze", "Haze", (("sight", ""),), "sight", "color", "anisotropy", "falls_off"),
    ),
    document.Camera: (
        Group(
            "lens",
            "Lens",
            (
                *always("focal_length", "f_number"),
                Row("focus_distance", unless="focus_on"),
                Row("close_up"),
                Row("blades", ("f_number",)),
                Row("blade_rotation", ("blades",)),
                Row("blade_roundness", ("blades",)),
                *(Row(name, ("f_number",)) for name in ("cats_eye", "squeeze", "focus_tilt", "focus_swing")),
            ),
            (("focal_length", ""), ("f_number", "")),
        ),
        Group(
            "back",
            "Camera back",
            always("roll", "projection", "shift_x", "shift_y", "distortion", "sensor_width"),
            (("projection", ""), ("sensor_width", "sensor")),
        ),
    ),
    document.Shutter: (
        Group("shutter", "Shutter", always("time", "opens", "closes"), (("time", "at"),)),
    ),
    look.Look: (
        Group(
            "exposure",
            "Exposure and white",
            always("exposure", "white_temperature", "white_tint"),
            (("exposure", ""),),
        ),
        Group("display", "Display", always("view", "encoding", "compresses_gamut"), (("view", ""), ("encoding", ""))),
    ),
    look.LocalGrade: (
        Group(
            "place",
            "Place",
            always("enabled", "amount", "inverted", "exposure", "contrast", "saturation", "tint"),
            (("amount", ""),),
        ),
    ),
    **{mask: (Group("mask", "Where", always(*(name for name in mask.model_fields if name not in ("kind", "parts")))),)
       for mask in (look.GradientMask, look.EllipseMask)},
    document.Fader: (Group("fader", "Level", always("enabled", "stops", "tint"), (("stops", ""),)),),
    document.PrintSettings: (
        Group(
            "frame",
            "Final frame",
            always(
                "width", "height", "samples", "finish_noise", "noise", "seconds", "denoise", "fresh_noise",
                "transparent",
            ),
            (("width", ""), ("height", "by"), ("samples", "samples")),
        ),
        Group(
            "files",
            "Files",
            always("dpi", "png_depth", "jpeg", "tiff", "hdr", "told"),
            (("png_depth", "PNG of"), ("jpeg", "JPEG")),
        ),
        Group(
            "exr",
            "EXR and its layers",
            always(
                "exr_files", "exr_picture", "exr_depth", "exr_compression", "guide_layers", "way_layers",
                "group_layers", "matte_layers", "data_layers",
            ),
            (("exr_files", ""), ("exr_picture", "")),
        ),
    ),
    document.Rendering: (
        Group(
            "paths",
            "Light paths, of proof and print",
            (Row("caustics"), Row("caustic_roughness", ("caustics=filtered",)), Row("sample_limit")),
            (("caustics", ""),),
        ),
    ),
}  # fmt: skip


def _effect_group(name: str) -> tuple[Group, ...]:
    """An effect of the look: all that it is told counts while it is on."""
    effect = type(look.effect_of(look.Look(), name))
    controlled = [field for field, info in effect.model_fields.items() if describe(info)["kind"]]
    rows = (Row(field, () if field == "enabled" else ("enabled",)) for field in controlled)
    return (Group(name, look.LABELS[name], tuple(rows), (("amount", ""),), "enabled"),)


_EFFECTS = {type(look.effect_of(look.Look(), name)): _effect_group(name) for name in look.EFFECTS}
_SEEN = {"casts_shadow": "shadow", "seen_by_camera": "camera", "seen_in_reflections": "reflections"}


def _light_groups(model: type[LightBase]) -> tuple[Group, ...]:
    extents = extents_of(model)
    shape = [name for name in (*extents, "cone", "softness", "spread", "grid") if name in model.model_fields]
    if "roll" in model.model_fields:
        shape.append("roll")
    # The turn about its own aim is seen of a point only by its profile, or by what it throws.
    turns_by = tuple(name for name in ("profile", "gobo") if name in model.model_fields)
    seen = [name for name in _SEEN if name in model.model_fields]
    return (
        Group(
            "amount",
            "Amount",
            (
                *always("unit", "amount"),
                *([Row("efficacy", ("unit=W",))] if issubclass(model, Lamp) else []),
                *always("color", "temperature", "gel"),
            ),
            (("amount", ""), ("color", "")),
        ),
        Group(
            "shape",
            "Shape",
            tuple(Row(name, turns_by if name == "roll" else ()) for name in shape),
            tuple((name, "") for name in shape[:2]),
        ),
        Group("place", "Place", always("position", "target"), (("position", ""),)),
        Group("seen", "Seen", always(*seen), tuple((name, _SEEN[name]) for name in seen)),
    )


_SUMMED = ("width", "height", "depth", "radius", "thickness")


def _source_group(model: type[sources.Source]) -> tuple[Group, ...]:
    """What a pattern, or another source, is told; an image is chosen by its picture."""
    names = [name for name in model.model_fields if name not in ("kind", "texture", "file", "part")]
    return (Group("source", "Source", always(*names)),)


def _form_group(model: type[BaseModel]) -> tuple[Group, ...]:
    """The measures of a form."""
    names = [name for name in model.model_fields if name != "kind"]
    return (Group("form", "Measures", always(*names), tuple((name, "") for name in names if name in _SUMMED)),)


def groups_of(model: type[BaseModel]) -> tuple[Group, ...]:
    """The groups of a model's fields; none for one that has no controls."""
    if model in FORM_KINDS.values():
        return _form_group(model)
    if issubclass(model, sources.Source):
        return _source_group(model)
    if model in _EFFECTS:
        return _EFFECTS[model]
    return _light_groups(model) if issubclass(model, LightBase) else _GROUPS.get(model, ())


def plain_groups() -> dict[str, Any]:
    """The groups of every model that has some, as JSON data by the model's name."""
    models: tuple[type[BaseModel], ...] = (
        *_GROUPS,
        *_EFFECTS,
        *LIGHT_KINDS.values(),
        *FORM_KINDS.values(),
        *sources.SOURCES.values(),
    )
    return {model.__name__: [_plain(group) for group in groups_of(model)] for model in models}


def _plain(group: Group) -> dict[str, Any]:
    def condition(text: str) -> dict[str, str]:
        field, _, word = text.partition("=")
        return {"field": field, "word": word} if word else {"field": field}

    return {
        "key": group.key,
        "label": group.label,
        "weight": group.weight,
        "rows": [
            {"field": row.field, "when": [condition(text) for text in row.when]}
            | ({"unless": row.unless} if row.unless else {})
            for row in group.rows
        ],
        "sums": [{"field": field, "word": word} for field, word in group.sums],
    }
