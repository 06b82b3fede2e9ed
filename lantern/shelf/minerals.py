"""Ceramics, stone and concrete."""

from lantern.scene.inputs import MaterialInput
from lantern.scene.sources import CellsSource, FlakesSource, MarbleSource, NoiseSource, TilesSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Ceramics and stone"


def _speckles(*stops: tuple[float, str], size: float, seed: int = 1) -> MaterialInput:
    return colors(NoiseSource(octaves=3, contrast=3.0, seed=seed), size, *stops)


def swatches() -> list[Swatch]:
    """All of the family."""
    crackle = laid(CellsSource(shows="borders", irregularity=0.9), 0.006, 1.0, 0.55)
    return [
        swatch("mineral-porcelain", FAMILY, "white china glazed", "White porcelain", base_color=srgb("ece8e0"),
               subsurface_weight=0.4, subsurface_color=srgb("f4eee2"), subsurface_radius=0.002,
               specular_roughness=0.18, coat_weight=1.0, coat_roughness=0.03, coat_ior=1.5),
        swatch("mineral-bisque", FAMILY, "white matt unglazed", "Unglazed porcelain", base_color=srgb("e6dfd4"),
               base_diffuse_roughness=0.6, specular_roughness=0.55, bump=0.00002,
               inputs={"bump": laid(NoiseSource(octaves=4), 0.0008)}),
        swatch("mineral-celadon", FAMILY, "green glaze crackle", "Crackled celadon", base_color=srgb("a9c0a6"),
               specular_roughness=0.25, coat_weight=1.0, coat_roughness=0.02, coat_color=srgb("d6e6d2"),
               inputs={"base_color": colors(CellsSource(shows="borders", irregularity=0.9), 0.006,
                                            (0.0, "b4caae"), (0.86, "a9c0a6"), (0.97, "6f7d66"))}),
        swatch("mineral-reactive", FAMILY, "blue brown glaze stoneware", "Running glaze", base_color=srgb("31506b"),
               specular_roughness=0.2, coat_weight=1.0, coat_roughness=0.05,
               inputs={"base_color": colors(NoiseSource(octaves=5, contrast=1.6), 0.03, (0.2, "1c3146"),
                                            (0.5, "4f7f9a"), (0.7, "a8b8a4"), (0.9, "7a4a26"), ratio=2.5),
                       "coat_weight": crackle}),
        swatch("mineral-stoneware", FAMILY, "speckled grey beige", "Speckled stoneware", base_color=srgb("c9bfae"),
               specular_roughness=0.42, bump=0.00003,
               inputs={"base_color": _speckles((0.0, "3f3830"), (0.08, "6b6052"), (0.16, "c9bfae"), (1.0, "d6ccbb"),
                                               size=0.0012),
                       "bump": laid(NoiseSource(octaves=4), 0.002)}),
        swatch("mineral-terracotta", FAMILY, "red clay pot", "Terracotta", base_color=srgb("b5613c"),
               base_diffuse_roughness=0.8, specular_roughness=0.75, specular_weight=0.5, bump=0.00012,
               inputs={"base_color": colors(NoiseSource(octaves=5), 0.015, (0.2, "a3522f"), (0.8, "c4744c")),
                       "bump": laid(NoiseSource(octaves=6, gain=0.6), 0.004)}),
        swatch("mineral-marble", FAMILY, "white veins polished", "White marble", base_color=srgb("e9e6e1"),
               subsurface_weight=0.35, subsurface_color=srgb("f3f0ea"), subsurface_radius=0.004,
               specular_roughness=0.12,
               inputs={"base_color": colors(MarbleSource(turbulence=2.2, thinness=5.0), 0.045, (0.0, "eeebe6"),
                                            (0.5, "d8d5d1"), (0.85, "9d9a98"), (1.0, "7e7c7d"), turn_z=35.0)}),
        swatch("mineral-marble-black", FAMILY, "dark veins gold polished", "Black marble", base_color=srgb("17171a"),
               specular_roughness=0.08,
               inputs={"base_color": colors(MarbleSource(turbulence=2.6, thinness=9.0, seed=3), 0.06, (0.0, "131316"),
                                            (0.55, "1d1d20"), (0.8, "6d6152"), (1.0, "d9c9a8"), turn_z=-25.0)}),
        swatch("mineral-granite", FAMILY, "grey grains polished", "Granite", base_color=srgb("8a8683"),
               specular_roughness=0.16,
               inputs={"base_color": colors(CellsSource(shows="cells"), 0.0028, (0.0, "1e1d1f"), (0.25, "5f5a57"),
                                            (0.5, "8d8884"), (0.75, "b9b0a9"), (1.0, "d8d2cb")),
                       "specular_roughness": laid(FlakesSource(), 0.0028, 0.08, 0.26)}),
        swatch("mineral-slate", FAMILY, "dark grey rough split", "Slate", base_color=srgb("3c4247"),
               specular_roughness=0.5, bump=0.0005,
               inputs={"base_color": colors(NoiseSource(octaves=6), 0.03, (0.2, "31363b"), (0.8, "4a5156"), ratio=0.3),
                       "bump": laid(NoiseSource(octaves=7, gain=0.6), 0.02, ratio=0.25)}),
        swatch("mineral-concrete", FAMILY, "grey cast raw", "Concrete", base_color=srgb("a19d97"),
               base_diffuse_roughness=0.7, specular_roughness=0.7, bump=0.00025,
               inputs={"base_color": colors(NoiseSource(octaves=6, gain=0.6), 0.05, (0.1, "86827c"), (0.9, "b8b4ae")),
                       "bump": laid(NoiseSource(octaves=7, gain=0.65), 0.01)}),
        swatch("mineral-terrazzo", FAMILY, "chips floor stone white", "Terrazzo", base_color=srgb("e3ddd4"),
               specular_roughness=0.14,
               inputs={"base_color": colors(CellsSource(shows="cells", seed=4), 0.007, (0.0, "e6e0d8"),
                                            (0.55, "ddd6cc"), (0.62, "b4684a"), (0.74, "5f6d68"), (0.86, "c9a56e"),
                                            (0.95, "39393c"))}),
        swatch("mineral-tiles", FAMILY, "glazed wall brick small joint", "Glazed tiles", base_color=srgb("2f6f68"),
               specular_roughness=0.12, bump=0.0008,
               inputs={"base_color": colors(TilesSource(joint=0.05, bevel=0.06, variation=0.6), 0.03, (0.0, "cfc9bf"),
                                            (0.12, "1d4d49"), (0.6, "2f7a71"), (1.0, "4d9a8e"), ratio=0.5),
                       "bump": laid(TilesSource(joint=0.05, bevel=0.06, variation=0.0), 0.03, ratio=0.5),
                       "specular_roughness": laid(TilesSource(joint=0.05, bevel=0.02, variation=0.0), 0.03, 0.8, 0.1,
                                                  ratio=0.5)}),
    ]  # fmt: skip
