"""Random inputs and layers for the materials of a random scene.

In: a seed and materials. Out: the same with patterns and images for some of their parameters, some laid over others.
Drawn from numbers of their own, so that all else of a scene stays what its seed has always made.
"""

from lantern.scene.document import Material
from lantern.scene.inputs import (
    CellsSource,
    ChanceSource,
    ChecksSource,
    CrevicesSource,
    EdgesSource,
    HeightSource,
    ImageSource,
    MaterialInput,
    NoiseSource,
    Parameter,
    Placement,
    Ramp,
    SlopeSource,
    Stop,
    StripesSource,
    VertexColorSource,
    WeaveSource,
)
from lantern.scene.layers import Layer


def patterned(choose, materials: dict[str, Material], textures: int, *, wide: bool) -> dict[str, Material]:
    """Materials with inputs and layers; no lobe of a `wide` one becomes narrow."""
    found = {key: _given(choose, material, textures, wide=wide) for key, material in materials.items()}
    keys = list(found)
    for number, key in enumerate(keys[:-1]):
        if choose.chance(0.3):
            over = choose.one_of(*keys[number + 1 :])
            layers = tuple(_layer(choose, over, textures) for _ in range(choose.one_of(1, 1, 2)))
            found[key] = found[key].model_copy(update={"layers": layers})
    return found


def _layer(choose, over: str, textures: int) -> Layer:
    mask = _input(choose, textures, 0.0, 1.0) if choose.chance(0.8) else None
    breakup = _input(choose, textures, 0.2, 1.0).model_copy(update={"combine": "multiply"})
    return Layer(
        material=over,
        coverage=choose.number(0.3, 1),
        thickness=choose.one_of(0.0, choose.number(-0.002, 0.002)),
        mask=mask,
        breakup=breakup if mask and choose.chance(0.3) else None,
    )


def _given(choose, material: Material, textures: int, *, wide: bool) -> Material:
    """Inputs for some of the parameters that have an effect in a material."""
    ranges: dict[Parameter, tuple[float, float]] = {
        "base_color": (0.1, 0.95), "specular_roughness": (0.5 if wide else 0.25, 1.0), "geometry_opacity": (0.3, 1.0),
        "base_metalness": (0.0, 1.0), "bump": (0.0, 1.0),
    }  # fmt: skip
    there: dict[Parameter, tuple[float, float]] = {
        "coat_weight": (0.2, 1.0), "coat_color": (0.4, 1.0), "fuzz_weight": (0.2, 1.0), "fuzz_color": (0.2, 1.0),
        "emission_luminance": (1.0, 12.0), "transmission_weight": (0.3, 1.0), "transmission_tint": (0.5, 1.0),
    }  # fmt: skip
    for name, ends in there.items():
        weight = {"coat_color": "coat_weight", "fuzz_color": "fuzz_weight"}.get(name, name)
        weight = "transmission_weight" if name == "transmission_tint" else weight
        if getattr(material, weight) > 0:
            ranges[name] = ends
    inputs = {name: _input(choose, textures, *ends) for name, ends in ranges.items() if choose.chance(0.12)}
    for name in inputs:
        if isinstance(getattr(material, name), tuple) and choose.chance(0.6):
            stops = tuple(Stop(at=at, color=choose.color(*ranges[name])) for at in (0.0, choose.number(0.2, 0.8), 1.0))
            inputs[name] = inputs[name].model_copy(update={"ramp": Ramp(stops=stops)})
    bump = choose.number(0.0005, 0.003) if "bump" in inputs else 0.0
    return material.model_copy(update={"inputs": inputs, "bump": bump})


def _input(choose, textures: int, low: float, high: float) -> MaterialInput:
    source = choose.one_of(
        NoiseSource(contrast=2.0), CellsSource(), ChecksSource(), StripesSource(), WeaveSource(), VertexColorSource(),
        ChanceSource(), SlopeSource(), HeightSource(whole=-0.1, none=0.2), EdgesSource(width=0.05, grain=0.04),
        CrevicesSource(width=0.05), ImageSource(texture=int(choose.generator.integers(textures))),
    )  # fmt: skip
    placement = Placement(
        kind=choose.one_of("uv", "box", "plane", "cylinder", "sphere"), uv_set=choose.one_of(0, 1),
        repeats=choose.number(1, 4), size=choose.number(0.05, 0.3), turn_x=choose.number(-90, 90),
        turn_z=choose.number(-90, 90), space=choose.one_of("part", "scene"),
    )  # fmt: skip
    return MaterialInput(source=source, placement=placement, low=low, high=high)
