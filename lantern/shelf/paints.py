"""Paints: plain, with flakes, pearl, soft; and paints that use has worn down to what lies below."""

from typing import Any

from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput
from lantern.scene.layers import Layer
from lantern.scene.sources import CrevicesSource, EdgesSource, FlakesSource, NoiseSource, SlopeSource
from lantern.shelf import metals
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch, worn

FAMILY, WORN = "Paints", "Worn paints"


def _paint(key: str, name: str, words: str, color: str, roughness: float, **fields: Any) -> Swatch:
    told: dict[str, Any] = {"base_color": srgb(color), "specular_roughness": roughness}
    return swatch(f"paint-{key}", FAMILY, words, name, **told | fields)


def _flaked(key: str, name: str, words: str, ground: str, flake: str, **fields: Any) -> Swatch:
    """Metal flakes of a third of a millimetre under a clear coat."""
    inputs: dict[str, MaterialInput] = {
        "base_color": colors(FlakesSource(), 0.00033, (0.0, ground), (0.6, flake), (1.0, flake)),
        "specular_roughness": laid(FlakesSource(seed=2), 0.00033, 0.22, 0.5),
        "bump": laid(FlakesSource(seed=3, tilt=0.35), 0.00033),
    }
    told: dict[str, Any] = {
        "base_color": srgb(flake), "base_metalness": 0.85, "specular_roughness": 0.35, "bump": 0.00002,
        "coat_weight": 1.0, "coat_roughness": 0.02, "coat_ior": 1.5, "inputs": inputs,
    }  # fmt: skip
    return swatch(f"paint-{key}", FAMILY, words, name, **told | fields)


def _plain() -> list[Swatch]:
    peel = {"bump": 0.000025, "inputs": {"bump": laid(NoiseSource(octaves=1), 0.0022)}}
    return [
        _paint("red", "Glossy red paint", "enamel shiny", "a11214", 0.05, coat_weight=0.6, coat_roughness=0.02),
        _paint("white", "Satin white paint", "furniture lacquer", "e4e1da", 0.3),
        _paint("matt", "Matt blue paint", "wall flat chalk", "3d566e", 0.85, base_diffuse_roughness=0.6),
        _paint("powder", "Powder coat", "orange peel black machine", "242628", 0.34, **peel),
        _paint("wrinkle", "Wrinkle paint", "camera instrument black rough", "141414", 0.45, bump=0.00016,
               inputs={"bump": laid(NoiseSource(octaves=2, contrast=2.2), 0.0014)}),
        _paint("soft", "Soft-touch paint", "rubberised matt grey velvet", "3b3d40", 0.7, fuzz_weight=0.25,
               fuzz_color=srgb("6d7076"), fuzz_roughness=0.7),
        _flaked("silver", "Silver metallic paint", "car flakes", "7d8084", "c9ccd0"),
        _flaked("blue", "Blue metallic paint", "car flakes", "0a1a44", "3d6fd0"),
        _flaked("green", "Green metallic paint", "car flakes dark", "08251a", "2f8a5e"),
        _paint("pearl", "Pearl paint", "white interference shimmer nacre", "e6e2de", 0.25, thin_film_weight=0.8,
               thin_film_thickness=0.42, thin_film_ior=1.6, coat_weight=1.0, coat_roughness=0.02, bump=0.000006,
               inputs={"bump": laid(FlakesSource(tilt=0.3), 0.0003),
                       "thin_film_thickness": laid(FlakesSource(seed=4, tilt=0.3), 0.0005, 0.36, 0.5)}),
        _paint("nacre", "Mother-of-pearl", "shell inlay iridescent", "c9c4c0", 0.24,
               specular_ior=1.53, thin_film_weight=1.0, thin_film_ior=2.2, bump=0.00001,
               inputs={"thin_film_thickness": laid(NoiseSource(seed=3, octaves=5, contrast=1.6), 0.03, 0.16, 0.62),
                       "bump": laid(NoiseSource(seed=5, octaves=3), 0.006)}),
        _paint("chalk", "Chalk paint", "matt pale green furniture", "a8b8a0", 0.95, base_diffuse_roughness=1.0,
               specular_weight=0.3,
               inputs={"base_color": colors(NoiseSource(octaves=5), 0.02, (0.2, "9dad95"), (0.8, "b2c1aa"))}),
    ]  # fmt: skip


def _worn() -> list[Swatch]:
    steel = Material(
        name="Bare steel",
        base_color=metals.STEEL[0],
        base_metalness=1.0,
        specular_roughness=0.32,
        inputs={"specular_roughness": laid(NoiseSource(octaves=5), 0.006, 0.2, 0.5)},
    )
    primer = Material(name="Primer", base_color=srgb("8a4a36"), specular_roughness=0.7)
    rust = Material(
        name="Rust",
        base_color=srgb("7a3a18"),
        base_diffuse_roughness=1.0,
        specular_roughness=0.9,
        bump=0.00025,
        specular_weight=0.4,
        inputs={
            "base_color": colors(
                NoiseSource(octaves=6, gain=0.6), 0.006, (0.2, "3d1a0c"), (0.5, "7d3c18"), (0.8, "b06428")
            ),
            "bump": laid(NoiseSource(octaves=6, gain=0.65), 0.003),
        },
    )
    dust = Material(
        name="Dust", base_color=srgb("9a8f80"), base_diffuse_roughness=1.0, specular_weight=0.1, specular_roughness=1.0
    )
    pine = Material(name="Bare pine", base_color=srgb("b98f5e"), specular_roughness=0.6)
    brass = Material(name="Bare brass", base_color=metals.BRASS[0], base_metalness=1.0, specular_roughness=0.25)

    def edges(width: float, breakup: float = 0.7, seed: int = 1) -> MaterialInput:
        return worn(EdgesSource(width=width, contrast=0.75, breakup=breakup, grain=width * 2, seed=seed))

    def made(key: str, name: str, words: str, over: dict[str, Material], *layers: Layer, **fields: Any) -> Swatch:
        return swatch(f"worn-{key}", WORN, words, name, over, layers=layers, **fields)

    grime = worn(CrevicesSource(width=0.006, contrast=0.3, breakup=0.5, grain=0.004))
    patches = laid(NoiseSource(octaves=5, contrast=4.0, seed=3), 0.025, combine="multiply")
    above = MaterialInput(source=SlopeSource(whole=15.0, none=65.0), combine="multiply")
    return [
        made("yellow", "Worn machine yellow", "paint primer steel chipped edges", {"primer": primer, "steel": steel},
             Layer(material="primer", mask=edges(0.0032), thickness=-0.00003),
             Layer(material="steel", mask=edges(0.0022), thickness=-0.00003),
             base_color=srgb("d8a017"), specular_roughness=0.32),
        made("green", "Chipped green enamel", "paint steel edges", {"steel": steel},
             Layer(material="steel", mask=edges(0.0026, 0.9, 4), thickness=-0.00004),
             base_color=srgb("1f4a38"), specular_roughness=0.16, coat_weight=0.5, coat_roughness=0.04),
        made("black", "Black paint over brass", "camera instrument worn edges gold", {"brass": brass},
             Layer(material="brass", mask=edges(0.0018, 0.6, 2), thickness=-0.00002),
             base_color=srgb("121212"), specular_roughness=0.28),
        made("rusted", "Rusted blue paint", "old rust iron outdoors", {"rust": rust},
             Layer(material="rust", mask=edges(0.006, 0.9, 5), thickness=0.0001),
             Layer(material="rust", mask=patches, coverage=0.9, thickness=0.0001),
             base_color=srgb("2f5f7d"), specular_roughness=0.4),
        made("wood", "Worn white furniture", "shabby paint pine wood edges", {"pine": pine},
             Layer(material="pine", mask=edges(0.0035, 0.8, 6), thickness=-0.00005),
             base_color=srgb("dcd8cd"), specular_roughness=0.55),
        made("dusty", "Dusty black paint", "dust dirt old attic", {"dust": dust},
             Layer(material="dust", mask=above, breakup=laid(
                 NoiseSource(octaves=5, seed=2), 0.02, 0.4, 1.0, combine="multiply")),
             base_color=srgb("17181a"), specular_roughness=0.14),
        made("grimy", "Grimy red enamel", "dirt crevices used old", {"dust": dust.model_copy(update={
            "name": "Grime", "base_color": srgb("231a12"), "specular_roughness": 0.6,
            "specular_weight": 0.6})},
             Layer(material="dust", mask=grime),
             base_color=srgb("8f1d18"), specular_roughness=0.15),
    ]  # fmt: skip


def swatches() -> list[Swatch]:
    """All of both families."""
    return _plain() + _worn()
