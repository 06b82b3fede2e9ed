"""Random inputs and layers for the materials of a random scene.

In: a seed and materials. Out: the same with patterns and images for some of their parameters, some laid over others.
Drawn from numbers of their own, so that all else of a scene stays what its seed has always made.
"""

from lantern.scene.decals import Decal, TextContent
from lantern.scene.document import Material, Part
from lantern.scene.inputs import MaterialInput, Parameter, Placement, Ramp, Stop
from lantern.scene.layers import Layer
from lantern.scene.sources import (
    CellsSource,
    ChanceSource,
    ChecksSource,
    CrevicesSource,
    DistanceSource,
    EdgesSource,
    HeightSource,
    ImageSource,
    NoiseSource,
    OcclusionSource,
    SlopeSource,
    StripesSource,
    VertexColorSource,
    WeaveSource,
)


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


def stuck(choose, parts: dict[str, Part], *, wide: bool) -> dict[str, Decal]:
    """Lettering on some parts, on any side of them, bent or flat; no lobe of a `wide` one is narrow."""
    found = {}
    for number in range(choose.one_of(0, 0, 1, 2)):
        carrier = choose.one_of(*parts)
        others = tuple(key for key in parts if key != carrier and choose.chance(0.2))
        found[f"d{number}"] = Decal(
            name=f"D{number}", content=TextContent(text=choose.one_of("MW", "&", "I\nI"), weight=900, face="sans"),
            parts=(carrier, *others), order=number, middle=choose.place(0.2), facing=choose.place(1.0),
            turn=choose.number(-180, 180), width=choose.number(0.1, 0.6), depth=choose.number(0.05, 0.6),
            wraps=choose.chance(0.5), both_sides=choose.chance(0.3), opacity=choose.one_of(1.0, choose.number(0.3, 1)),
            color=choose.color(0.05, 0.95), metalness=choose.one_of(0.0, 0.0, 1.0),
            roughness=choose.number(0.5 if wide else 0.25, 1.0), coat=choose.one_of(0.0, 0.0, 0.0 if wide else 0.5),
        )  # fmt: skip
    return found


def glowing(choose, materials: dict[str, Material]) -> dict[str, Material]:
    """Materials some of which give lumens instead of luminance, or are coloured by a temperature."""
    found = {}
    for key, material in materials.items():
        changes: dict[str, object] = {}
        if material.emission_luminance > 0 and choose.chance(0.4):
            changes = {"emission_lumens": choose.number(0.5, 10)}
        if material.emission_luminance > 0 and choose.chance(0.3):
            changes["emission_temperature"] = choose.number(1800, 9000)
        found[key] = material.model_copy(update=changes)
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
        CrevicesSource(width=0.05), OcclusionSource(reach=0.15), DistanceSource(part="p0", none=0.3),
        ImageSource(texture=int(choose.generator.integers(textures))),
    )  # fmt: skip
    placement = Placement(
        kind=choose.one_of("uv", "box", "plane", "cylinder", "sphere"), uv_set=choose.one_of(0, 1),
        repeats=choose.number(1, 4), size=choose.number(0.05, 0.3), turn_x=choose.number(-90, 90),
        turn_z=choose.number(-90, 90), space=choose.one_of("part", "scene"),
    )  # fmt: skip
    return MaterialInput(source=source, placement=placement, low=low, high=high)
