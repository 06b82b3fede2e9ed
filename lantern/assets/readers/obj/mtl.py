"""Materials of an OBJ file ("MTL material format", version 4.2, 1995, with the additions for physically based shading:
`Pr`, `Pm`, `Ps`, `Pc`, `Pcr`, `aniso`, `norm`).

In: the text of an MTL file. Out: what it says, by material; the images it names are not opened. Called by `asset`.
"""

import math
from dataclasses import dataclass, field

_NUMBERS = {"Ns", "Ni", "d", "Tr", "illum", "Pr", "Pm", "Ps", "Pc", "Pcr", "aniso", "anisor"}
_COLORS = {"Ka", "Kd", "Ks", "Ke", "Tf"}
_MAPS = {
    "map_kd": "map_Kd", "map_ks": "map_Ks", "map_ke": "map_Ke", "map_d": "map_d", "map_pr": "map_Pr",
    "map_pm": "map_Pm", "map_bump": "bump", "bump": "bump", "norm": "norm", "map_kn": "norm", "map_ns": "map_Ns",
    "map_ps": "map_Ps", "map_pc": "map_Pc", "map_tr": "map_Tr", "disp": "disp", "map_ka": "map_Ka",
}  # fmt: skip
_OPTIONS = {"-blendu": 1, "-blendv": 1, "-boost": 1, "-mm": 2, "-texres": 1, "-clamp": 1, "-bm": 1, "-imfchan": 1,
            "-type": 1, "-cc": 1, "-colorspace": 1}  # fmt: skip
_VECTORS = ("-o", "-s", "-t")
"""Options of one to three numbers."""
MOST_MATERIALS = 20_000


@dataclass(frozen=True)
class MapStatement:
    """An image that a material names, and how it is laid: texture coordinates times `scale` plus `offset`."""

    path: str
    scale: tuple[float, float] = (1.0, 1.0)
    offset: tuple[float, float] = (0.0, 0.0)
    strength: float = 1.0
    clamped: bool = False


@dataclass
class MtlMaterial:
    """What an MTL file says of one material, by the names of its statements."""

    numbers: dict[str, float] = field(default_factory=dict)
    colors: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    maps: dict[str, MapStatement] = field(default_factory=dict)


def parse_mtl(text: str) -> dict[str, MtlMaterial]:
    """Materials by name. Statements that are not known, or say nothing that can be read, are passed over."""
    found: dict[str, MtlMaterial] = {}
    current = MtlMaterial()
    for line in text.splitlines():
        key, _, rest = line.strip().replace("\t", " ").partition(" ")
        rest = rest.strip()
        if key.lower() == "newmtl":
            current = MtlMaterial()
            if len(found) < MOST_MATERIALS:
                found[rest] = current
        elif key in _COLORS:
            if color := _color(rest):
                current.colors[key] = color
        elif key in _NUMBERS:
            if (number := _number(rest.replace("-halo", "").split(" ")[0] if rest else "")) is not None:
                current.numbers[key] = number
        elif key.lower() in _MAPS and (statement := _map(rest)):
            current.maps[_MAPS[key.lower()]] = statement
    return found


def _number(word: str) -> float | None:
    try:
        number = float(word)
    except ValueError:
        return None
    return number if math.isfinite(number) else None


def _color(rest: str) -> tuple[float, float, float] | None:
    numbers = [_number(word) for word in rest.split()]
    if not numbers or None in numbers:
        return None  # spectral files and CIE XYZ are not read
    values = [float(n or 0.0) for n in numbers]
    return (values[0], values[1], values[2]) if len(values) >= 3 else (values[0],) * 3


def _map(rest: str) -> MapStatement | None:
    words = rest.split(" ")
    scale, offset, strength, clamped = (1.0, 1.0), (0.0, 0.0), 1.0, False
    at = 0
    while at < len(words) and words[at] in (*_OPTIONS, *_VECTORS):
        option = words[at]
        if option in _VECTORS:
            numbers: list[float] = []
            while len(numbers) < 3 and at + 1 < len(words) and (number := _number(words[at + 1])) is not None:
                numbers.append(number)
                at += 1
            if option == "-s" and numbers:
                scale = (numbers[0], numbers[1] if len(numbers) > 1 else 1.0)
            elif option == "-o" and numbers:
                offset = (numbers[0], numbers[1] if len(numbers) > 1 else 0.0)
        else:
            values = words[at + 1 : at + 1 + _OPTIONS[option]]
            at += _OPTIONS[option]
            if option == "-bm" and values:
                strength = _number(values[0]) or 0.0
            elif option == "-clamp" and values:
                clamped = values[0] == "on"
        at += 1
    path = " ".join(words[at:]).strip()
    return MapStatement(path.strip('"'), scale, offset, strength, clamped) if path else None
