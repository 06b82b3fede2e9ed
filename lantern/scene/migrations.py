"""From each version of the document to the next: functions of JSON data, which they leave as it was.

A step knows the fields of its two versions by name, never by today's models. What does not have the shape that it
expects is passed on as it is: reading says what is wrong with it. Called by `reading` and `history`.
"""

from collections.abc import Callable
from typing import Any

from lantern.scene.look_of_8 import LOOK_OF_8

Data = dict[str, Any]

_OF_ONE_KIND = ("roll", "width", "height", "radius", "cone", "softness", "spread", "profile", "seen_by_camera")
"""Fields that every light of version 1 had, whatever its kind."""
_KEPT = {
    "rectangle": ("roll", "width", "height", "seen_by_camera"),
    "disk": ("radius", "seen_by_camera"),
    "sphere": ("radius", "seen_by_camera"),
    "tube": ("roll", "height", "radius", "seen_by_camera"),
    "point": ("roll", "profile"),
    "spot": ("roll", "profile", "cone", "softness"),
    "directional": ("spread", "seen_by_camera"),
}


def _off(value: Any, least: float) -> Any:
    """A number that 0 switched off, as one that None does: at least `least`."""
    if isinstance(value, bool) or not isinstance(value, int | float) or value < 0:
        return value
    return max(value, least) if value else None


def _off_below(value: Any, least: float) -> Any:
    """A number that meant nothing below `least`, as one that None switches off."""
    is_off = isinstance(value, int | float) and 0 <= value < least
    return None if is_off else value


def _light_of_its_kind(light: Any) -> Any:
    if not isinstance(light, dict):
        return light
    kind = light.get("kind", "rectangle")
    kept = _KEPT.get(kind, _OF_ONE_KIND) if isinstance(kind, str) else _OF_ONE_KIND
    places = {k: _within_reach(light[k]) for k in ("position", "target") if k in light}
    light = (
        {"amount": 20.0}
        | {k: v for k, v in light.items() if k not in _OF_ONE_KIND or k in kept}
        | places
        | {"kind": kind}
    )
    if kind == "tube" and "height" in light:
        light["length"] = light.pop("height")
    if "temperature" in light:
        light["temperature"] = _off_below(light["temperature"], 500)
    return light


def _haze_with_box(haze: Any) -> Any:
    if not isinstance(haze, dict):
        return haze
    low, high = haze.get("low", [0, 0, 0]), haze.get("high", [0, 0, 0])
    rest = {k: v for k, v in haze.items() if k not in ("low", "high")}
    try:
        has_room = all(a < b for a, b in zip(low, high, strict=True))
    except (TypeError, ValueError):
        return haze
    return {**rest, "box": {"low": low, "high": high} if has_room else None}


def _within_reach(value: Any) -> Any:
    """JSON data with every number in it brought within ±1e6; what needs no change stays the very same object."""
    if isinstance(value, dict):
        changed = {k: new for k, old in value.items() if (new := _within_reach(old)) is not old}
        return {**value, **changed} if changed else value
    if isinstance(value, list | tuple):
        new = [_within_reach(v) for v in value]
        return new if any(a is not b for a, b in zip(new, value, strict=True)) else value
    if isinstance(value, float) and abs(value) > 1e6:
        return 1e6 if value > 0 else -1e6
    return value


def _from_1_to_2(data: Data) -> Data:
    """A light has the fields of its kind; what can be off is null, where it was a magic number; all is within reach."""
    for section in ("parts", "camera"):
        if section in data:
            data = {**data, section: _within_reach(data[section])}
    lights, haze = data.get("lights"), data.get("haze")
    if isinstance(lights, dict):
        data = {**data, "lights": {key: _light_of_its_kind(light) for key, light in lights.items()}}
    if haze is not None:
        data = {**data, "haze": _haze_with_box(haze)}
    for section, field, change, least in (
        ("camera", "f_number", _off, 0.1),
        ("camera", "blades", _off_below, 3),
        ("rendering", "sample_limit", _off, 0.001),
        ("proof", "noise", _off, 0.01),
        ("print", "noise", _off, 0.01),
    ):
        part = data.get(section)
        if isinstance(part, dict) and field in part:
            data = {**data, section: {**part, field: change(part[field], least)}}
    return data


_PART_OF_3: Data = {
    "inside_out": False, "offset": [0.0, 0.0, 0.0], "turn_x": 0.0, "turn_y": 0.0, "turn_z": 0.0, "size": 1.0,
    "mirror": "none", "form": None, "subdivision": "none", "levels": 2, "print_levels": None, "crease_angle": None,
    "displacement": 0.0, "displacement_middle": 0.5, "displacement_along": "normal", "displacement_texture": None,
}  # fmt: skip


def _placed(part: Any) -> Any:
    """A part that stands as it did, and is turned about its origin from now on."""
    if not isinstance(part, dict):
        return part
    keys, rows = part.get("keys"), part.get("matrix")
    if isinstance(keys, list | tuple) and keys and isinstance(keys[0], dict):
        rows = keys[0].get("matrix")
    origin = [rows[3], rows[7], rows[11]] if isinstance(rows, list | tuple) and len(rows) == 12 else [0.0, 0.0, 0.0]
    return {**_PART_OF_3, "pivot": origin, **part}


def _from_2_to_3(data: Data) -> Data:
    """A part can be moved by hand, an asset has a unit and an upright axis: all as it was."""
    parts, asset = data.get("parts"), data.get("asset")
    if isinstance(parts, dict):
        data = {**data, "parts": {key: _placed(part) for key, part in parts.items()}}
    if isinstance(asset, dict):
        data = {**data, "asset": {"scale": 1.0, "up": "+y", **asset}}
    return data


def _from_3_to_4(data: Data) -> Data:
    """A part may be strewn over another, and belong to a group: none is. An asset moves as its first clip says.

    Parameters of materials may take inputs, and materials lie over each other: none does.
    """
    parts, asset, materials = data.get("parts"), data.get("asset"), data.get("materials")
    if isinstance(materials, dict):
        plain: Data = {"bump": 0.0, "inputs": {}, "layers": []}
        told = {k: {**plain, **one} if isinstance(one, dict) else one for k, one in materials.items()}
        data = {**data, "materials": told}
    if isinstance(asset, dict):
        data = {**data, "asset": {"clip": None, **asset}}
    if isinstance(parts, dict):
        new: Data = {"strewn": None, "group": None, "pieces": [], "edge_pixels": None, "edge_radius": None}
        data = {**data, "parts": {k: {**new, **part} if isinstance(part, dict) else part for k, part in parts.items()}}
    return {"part_groups": {}, **data}


def _from_4_to_5(data: Data) -> Data:
    """Decals may lie on parts: none does, and none is displaced by a pattern. Chance is by part, as it was, and what
    glows does so by its luminance.
    """
    materials = data.get("materials")
    if isinstance(materials, dict):
        plain: Data = {"emission_lumens": None, "emission_temperature": None}
        told = {k: {**plain, **_mapped(one)} if isinstance(one, dict) else one for k, one in materials.items()}
        data = {**data, "materials": {k: _chance_by_part(one) for k, one in told.items()}}
    parts = data.get("parts")
    if isinstance(parts, dict):
        new: Data = {"displacement_input": None}
        told = {k: {**new, **_masked(part)} if isinstance(part, dict) else part for k, part in parts.items()}
        data = {**data, "parts": told}
    return {"decals": {}, **data}


_LIGHT_OF_6: Data = {"solo": False, "locked": False, "gel": "none"}
_OF_KIND_6: dict[str, Data] = {
    "rectangle": {"grid": None, "doors": None},
    "disk": {"grid": None},
    "spot": {"gobo": None},
}
_AROUND_6: dict[str, Data] = {
    "environment": {
        "graded": None, "tilt": 0.0, "mirrored": False, "tint": [1.0, 1.0, 1.0], "temperature": None,
        "saturation": 1.0, "blur": 0.0, "contrast": None, "grounded": None, "cards": {},
    },
    "sky": {"kind": "clear", "place": None},
    "haze": {"falls_off": None},
    "backdrop": {
        "upper": [0.05, 0.05, 0.06], "middle": 0.5, "glow": 0.0, "file": None, "exposure": 0.0, "rotation": 0.0,
        "fit": "cover", "blur": 0.0,
    },
    "look": {"white_temperature": None, "white_tint": 0.0},
}  # fmt: skip


def _from_5_to_6(data: Data) -> Data:
    """What is around the asset can be shaped by hand: it is as it was. No conditions are kept, no group is balanced."""
    for section, new in _AROUND_6.items():
        if isinstance(data.get(section), dict):
            data = {**data, section: {**new, **data[section]}}
    lights = data.get("lights")
    if isinstance(lights, dict):
        data = {**data, "lights": {key: _light_of_6(light) for key, light in lights.items()}}
    return {"light_order": [], "balance": {}, "conditions": {}, **data}


def _light_of_6(light: Any) -> Any:
    if not isinstance(light, dict):
        return light
    kind = light.get("kind")
    own = _OF_KIND_6.get(kind, {}) if isinstance(kind, str) else {}
    lamp: Data = {} if kind == "directional" else {"efficacy": 100.0}
    return {**_LIGHT_OF_6, **lamp, **own, **light}


_FREE_PATHS_OF_SIGHT_7 = 3.912023005428146
"""ln 50: the visual range of Koschmieder, in mean free paths."""


def _from_6_to_7(data: Data) -> Data:
    """Haze says how far one sees, gloss may see the map blurred in its own way, and the colours of a backdrop have an
    exposure of their own. All is as it was.
    """
    data = _around_7(data)
    kept = data.get("conditions")
    if isinstance(kept, dict):
        data = {**data, "conditions": {k: _around_7(one) if isinstance(one, dict) else one for k, one in kept.items()}}
    return data


def _around_7(data: Data) -> Data:
    """A document, or conditions, of which the sections that are there are brought forward."""
    haze, backdrop, environment = data.get("haze"), data.get("backdrop"), data.get("environment")
    if isinstance(environment, dict):
        data = {**data, "environment": {"reflection_blur": None, **environment}}
    if isinstance(haze, dict):
        path = haze.get("visibility", 5.0)
        sight = path * _FREE_PATHS_OF_SIGHT_7 if isinstance(path, int | float) else path
        data = {**data, "haze": {**{k: v for k, v in haze.items() if k != "visibility"}, "sight": sight}}
    if isinstance(backdrop, dict):
        data = {**data, "backdrop": {"color_exposure": 0.0, **backdrop}}
    return data


_LENS_OF_8: Data = {
    "roll": 0.0, "focus_on": None, "close_up": None, "exposure_time": None, "iso": 100.0, "cats_eye": 0.0,
    "squeeze": 1.0, "focus_tilt": 0.0, "focus_swing": 0.0,
}  # fmt: skip


def _from_7_to_8(data: Data) -> Data:
    """A look has effects, all of them off, and shots can be kept; there are none. A lens is as it was, and the backdrop
    is graded with the rest."""
    data = _graded(data)
    if isinstance(data.get("conditions"), dict):
        states = {key: _graded(one) if isinstance(one, dict) else one for key, one in data["conditions"].items()}
        data = {**data, "conditions": states}
    look, camera, printed = data.get("look"), data.get("camera"), data.get("print")
    if isinstance(printed, dict):
        data = {**data, "print": {"hdr": False, **printed}}
    if isinstance(camera, dict):
        data = {**data, "camera": {**_LENS_OF_8, **camera}}
    if isinstance(look, dict):
        data = {**data, "look": {**LOOK_OF_8, **look}}
    still: Data = {"rate": 25.0, "seconds": 4.0, "loop": True, "moves": {}}
    new: Data = {"shots": {}, "shot_order": [], "layout": None, "brand_colors": {}, "motion": still}
    variants: Data = {"variant_groups": {}, "editions": {}, "edition_order": [], "exclusions": []}
    return {**new, **variants, **data}


def _from_8_to_9(data: Data) -> Data:
    """Groups of parts can be out of sight as wholes, shots dissolve; a print says in which files it is written."""
    groups, printed, motion = data.get("part_groups"), data.get("print"), data.get("motion")
    if isinstance(groups, dict):
        seen = {key: {"visible": True, **group} if isinstance(group, dict) else group for key, group in groups.items()}
        data = {**data, "part_groups": seen}
    if isinstance(motion, dict) and isinstance(motion.get("moves"), dict):
        data = {**data, "motion": {**motion, "moves": {key: _cut(move) for key, move in motion["moves"].items()}}}
    return {**data, "print": {**_FILES_OF_9, **printed}} if isinstance(printed, dict) else data


_FILES_OF_9: Data = {
    "finish_noise": None, "seconds": None, "fresh_noise": False, "region": None, "dpi": None, "png_depth": "8",
    "jpeg": None, "tiff": "none", "exr_depth": "half", "exr_compression": "zip", "told": True,
}  # fmt: skip


def _cut(move: Any) -> Any:
    """A move of the camera that begins with a cut."""
    return {"dissolve": 0.0, **move} if isinstance(move, dict) and move.get("kind") == "travel" else move


def _from_9_to_10(data: Data) -> Data:
    """A print names its files, and has the layers that are chosen, where it had all or none."""
    printed = data.get("print")
    if not isinstance(printed, dict):
        return data
    kept = {name: value for name, value in printed.items() if name != "layers"}
    chosen = dict.fromkeys(("way_layers", "group_layers", "matte_layers", "data_layers"), printed.get("layers", False))
    return {**data, "print": {**_FILES_OF_10, **chosen, **kept}}


_FILES_OF_10: Data = {
    "exr_picture": "light", "exr_files": "one", "guide_layers": True, "file_name": "{project}-{place}",
}  # fmt: skip


def _graded(data: Data) -> Data:
    """A document, or conditions, whose backdrop is graded with the rest."""
    backdrop = data.get("backdrop")
    return {**data, "backdrop": {"graded": True, **backdrop}} if isinstance(backdrop, dict) else data


def _mapped(one: Data) -> Data:
    """A material or a part whose maps are all of the asset."""
    maps = {k: {"file": None, **use} for k, use in one.items() if k.endswith("_texture") and isinstance(use, dict)}
    return {**one, **maps}


def _masked(part: Data) -> Data:
    """A part whose images are all of the asset."""
    part, strewn = _mapped(part), part.get("strewn")
    if not isinstance(strewn, dict) or not isinstance(strewn.get("mask"), dict):
        return part
    return {**part, "strewn": {**strewn, "mask": {"file": None, **strewn["mask"]}}}


def _chance_by_part(value: Any) -> Any:
    """JSON data in which every source of chance says what it is by; what needs no change stays the same object."""
    if isinstance(value, dict):
        changed = {k: new for k, old in value.items() if (new := _chance_by_part(old)) is not old}
        value = {**value, **changed} if changed else value
        return {"each": "part", **value} if value.get("kind") == "chance" else value
    if isinstance(value, list | tuple):
        new = [_chance_by_part(v) for v in value]
        return new if any(a is not b for a, b in zip(new, value, strict=True)) else value
    return value


MIGRATIONS: dict[int, Callable[[Data], Data]] = {
    1: _from_1_to_2,
    2: _from_2_to_3,
    3: _from_3_to_4,
    4: _from_4_to_5,
    5: _from_5_to_6,
    6: _from_6_to_7,
    7: _from_7_to_8,
    8: _from_8_to_9,
    9: _from_9_to_10,
}
"""From version n to n + 1."""


def migrated(data: Data, version: int, wanted: int) -> Data:
    """JSON data of the version `wanted`, from that of an earlier one."""
    for step in range(version, wanted):
        data = {**MIGRATIONS[step](data), "schema_version": step + 1}
    return data
