"""Which fields of a model belong together, in their order, when each has an effect, and what sums a group up.

In: nothing. Out: groups of names of fields. Called by the export of types, from which the controls are made. The groups
of a material are those of OpenPBR Surface 1.1, section 3.
"""

from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from lantern.scene import document, inputs, sources, surroundings
from lantern.scene.decals import Decal, TextContent
from lantern.scene.forms import FORM_KINDS
from lantern.scene.layers import Layer
from lantern.scene.lights import LIGHT_KINDS, BarnDoors, Lamp, LightBase, extents_of
from lantern.scene.placed import PartGroup
from lantern.scene.scatter import Scatter


@dataclass(frozen=True)
class Row:
    """A field; it has an effect while one of `when` is on, which is "name" or "name=word", or always without any.

    While `unless` names a field that is set, that stands in for it.
    """

    field: str
    when: tuple[str, ...] = ()
    unless: str | None = None


@dataclass(frozen=True)
class Group:
    """Rows under one heading. `sums` are the fields whose values sum it up, each with a word before it.

    `weight` is the field without which none of the others has an effect.
    """

    key: str
    label: str
    rows: tuple[Row, ...]
    sums: tuple[tuple[str, str], ...] = ()
    weight: str | None = None


def _always(*names: str) -> tuple[Row, ...]:
    return tuple(Row(name) for name in names)


def _layer(key: str, label: str, sums: tuple[tuple[str, str], ...], *names: str | Row) -> Group:
    """A layer of a material: all but its weight have an effect while that is above 0."""
    weight = f"{key}_weight"
    rows = (name if isinstance(name, Row) else Row(f"{key}_{name}", (weight,)) for name in names)
    return Group(key, label, (Row(weight), *rows), ((weight, ""), *sums), weight)


_MATERIAL = (
    Group(
        "base",
        "Base",
        (
            *_always("base_color", "base_weight", "base_metalness", "base_diffuse_roughness"),
            Row("normal_scale", ("normal_texture",)),
            Row("bump"),
        ),
        (("base_color", ""), ("base_metalness", "metal")),
    ),
    Group(
        "specular",
        "Gloss",
        (
            *_always("specular_roughness", "specular_weight", "specular_ior", "specular_color"),
            Row("specular_roughness_anisotropy"),
            Row("tangent_rotation", ("specular_roughness_anisotropy", "coat_roughness_anisotropy")),
        ),
        (("specular_roughness", "rough"), ("specular_ior", "index")),
    ),
    _layer(
        "transmission",
        "Transmission",
        (("transmission_tint", ""),),
        *("tint", "color", "depth", "scatter", "scatter_anisotropy", "dispersion_scale"),
        Row("transmission_dispersion_abbe_number", ("transmission_dispersion_scale",)),
        Row("interior_priority", ("transmission_weight",)),
    ),
    _layer(
        "subsurface",
        "Subsurface",
        (("subsurface_color", ""),),
        *("color", "radius", "radius_scale", "scatter_anisotropy"),
    ),
    _layer(
        "coat",
        "Coat",
        (("coat_roughness", "rough"),),
        *("roughness", "color", "ior", "darkening", "roughness_anisotropy"),
        Row("coat_normal_scale", ("coat_normal_texture",)),
    ),
    _layer("fuzz", "Fuzz", (("fuzz_color", ""),), "color", "roughness"),
    _layer("thin_film", "Thin film", (("thin_film_thickness", ""),), "thickness", "ior"),
    Group(
        "geometry",
        "Geometry",
        (
            *_always("geometry_opacity", "geometry_thin_walled", "double_sided", "vertex_colors"),
            Row("alpha_mode", ("base_color_texture",)),
            Row("alpha_cutoff", ("alpha_mode=mask",)),
        ),
        (("geometry_opacity", "opacity"),),
    ),
    Group(
        "emission",
        "Emission",
        (
            *_always("emission_luminance", "emission_lumens"),
            Row("emission_color", ("emission_luminance", "emission_lumens")),
            Row("emission_temperature", ("emission_luminance", "emission_lumens")),
        ),
        (("emission_luminance", ""), ("emission_color", "")),
        "emission_luminance",
    ),
)


def _switched(key: str, label: str, sums: tuple[tuple[str, str], ...], *rows: str | Row) -> Group:
    """What is on or off as a whole."""
    inner = (row if isinstance(row, Row) else Row(row, ("enabled",)) for row in rows)
    return Group(key, label, (Row("enabled"), *inner), sums, "enabled")


_PLACE = Group(
    "place",
    "Place",
    _always("offset", "turn_x", "turn_y", "turn_z", "size", "mirror", "pivot"),
    (("offset", "by"), ("size", "")),
)
_SUBDIVIDED = ("subdivision=catmull_clark", "subdivision=loop")

_GROUPS: dict[type[BaseModel], tuple[Group, ...]] = {
    document.Material: _MATERIAL,
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
            _always(
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
            _always("density", "apart", "spread", "turn", "tilt", "upright", "lift", "steepest", "seed"),
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
                *_always("turn_x", "turn_y", "turn_z", "offset"),
                Row("blend", ("kind=box",)),
                Row("space", ("kind=box", "kind=plane", "kind=cylinder", "kind=sphere")),
            ),
        ),
    ),
    inputs.MaterialInput: (
        Group("values", "Values", _always("low", "high", "combine", "amount")),
    ),
    Decal: (
        Group(
            "finish",
            "Finish",
            _always("opacity", "color", "metalness", "roughness", "coat", "raised"),
            (("color", ""),),
        ),
        Group(
            "lies",
            "Lies",
            _always("width", "stretch", "turn", "wraps", "depth", "both_sides", "middle"),
            (("width", ""),),
        ),
    ),
    TextContent: (Group("text", "Lettering", _always("face", "weight", "spacing", "leading")),),
    Layer: (
        Group("layer", "Layer", _always("enabled", "coverage", "thickness"), (("coverage", ""),)),
    ),
    BarnDoors: (Group("doors", "Barn doors", _always("upper", "lower", "left", "right")),),
    inputs.Ramp: (Group("ramp", "Ramp", _always("blend")),),
    surroundings.Environment: (
        Group(
            "environment",
            "Environment",
            _always("rotation", "intensity"),
            (("rotation", ""), ("intensity", "")),
        ),
        Group(
            "grade",
            "Turned and graded",
            (
                *_always("tilt", "mirrored", "temperature", "tint", "saturation", "blur", "reflection_blur"),
                Row("contrast", ("map",)),
                Row("grounded"),
            ),
            (("temperature", ""),),
        ),
    ),
    surroundings.Graded: (
        Group("graded", "Graded light", _always("zenith", "horizon", "ground", "horizon_height"), (("zenith", ""),)),
    ),
    surroundings.Card: (
        Group(
            "card",
            "Light",
            _always("blend", "luminance", "color", "temperature"),
            (("luminance", ""),),
        ),
        Group(
            "shape",
            "Shape",
            _always("shape", "width", "height", "roll", "edge", "fall_off"),
            (("shape", ""), ("width", ""), ("height", "")),
        ),
        Group("place", "Place", _always("azimuth", "elevation"), (("azimuth", ""), ("elevation", ""))),
    ),
    surroundings.Sky: (
        _switched(
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
            _always("hour", "latitude", "longitude", "zone", "north"),
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
            ),
            (("kind", ""),),
        ),
    ),
    surroundings.Ground: (
        _switched(
            *("ground", "Ground", (("reflectance", ""), ("height", "at"))),
            *("reflectance", "height", "reflection"),
            Row("reflection_roughness", ("reflection",)),
        ),
    ),
    surroundings.Haze: (
        _switched("haze", "Haze", (("sight", ""),), "sight", "color", "anisotropy", "falls_off"),
    ),
    document.Camera: (
        Group(
            "lens",
            "Lens",
            (
                *_always("focal_length", "f_number", "focus_distance"),
                Row("blades", ("f_number",)),
                Row("blade_rotation", ("blades",)),
                Row("blade_roundness", ("blades",)),
            ),
            (("focal_length", ""), ("f_number", "")),
        ),
        Group(
            "back",
            "Camera back",
            _always("projection", "shift_x", "shift_y", "distortion", "sensor_width"),
            (("projection", ""), ("sensor_width", "sensor")),
        ),
    ),
    document.Shutter: (
        Group("shutter", "Shutter", _always("time", "opens", "closes"), (("time", "at"),)),
    ),
    document.Look: (
        Group(
            "exposure",
            "Exposure",
            _always("exposure", "white_temperature", "white_tint", "view"),
            (("exposure", ""), ("view", "")),
        ),
    ),
    document.Fader: (Group("fader", "Level", _always("enabled", "stops", "tint"), (("stops", ""),)),),
    document.PrintSettings: (
        Group(
            "frame",
            "Final frame",
            _always("width", "height", "samples", "noise", "denoise", "transparent", "layers"),
            (("width", ""), ("height", "by"), ("samples", "samples")),
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
                *_always("unit", "amount"),
                *([Row("efficacy", ("unit=W",))] if issubclass(model, Lamp) else []),
                *_always("color", "temperature", "gel"),
            ),
            (("amount", ""), ("color", "")),
        ),
        Group(
            "shape",
            "Shape",
            tuple(Row(name, turns_by if name == "roll" else ()) for name in shape),
            tuple((name, "") for name in shape[:2]),
        ),
        Group("place", "Place", _always("position", "target"), (("position", ""),)),
        Group("seen", "Seen", _always(*seen), tuple((name, _SEEN[name]) for name in seen)),
    )


_SUMMED = ("width", "height", "depth", "radius", "thickness")


def _source_group(model: type[sources.Source]) -> tuple[Group, ...]:
    """What a pattern, or another source, is told; an image is chosen by its picture."""
    names = [name for name in model.model_fields if name not in ("kind", "texture", "file", "part")]
    return (Group("source", "Source", _always(*names)),)


def _form_group(model: type[BaseModel]) -> tuple[Group, ...]:
    """The measures of a form."""
    names = [name for name in model.model_fields if name != "kind"]
    return (Group("form", "Measures", _always(*names), tuple((name, "") for name in names if name in _SUMMED)),)


def groups_of(model: type[BaseModel]) -> tuple[Group, ...]:
    """The groups of a model's fields; none for one that has no controls."""
    if model in FORM_KINDS.values():
        return _form_group(model)
    if issubclass(model, sources.Source):
        return _source_group(model)
    return _light_groups(model) if issubclass(model, LightBase) else _GROUPS.get(model, ())


def plain_groups() -> dict[str, Any]:
    """The groups of every model that has some, as JSON data by the model's name."""
    models: tuple[type[BaseModel], ...] = (
        *_GROUPS,
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
