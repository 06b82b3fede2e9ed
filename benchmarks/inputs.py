"""`benchmarks/run inputs`: what inputs of materials cost, as ratios to the same picture without any.

A box fills the picture, lit by an even sky: plain, with a pattern, with four, with a bump, and as a paint worn to its
primer and to steel, at its edges and everywhere.
The last line is one JSON object.
"""

import argparse
import json
import statistics
import sys
import time

from lantern.assets.imported import ImportedAsset
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.inputs import MaterialInput, Parameter, Placement
from lantern.scene.layers import Layer
from lantern.scene.sources import AnySource, CellsSource, EdgesSource, MarbleSource, NoiseSource, WeaveSource
from lantern.scene.surroundings import Ground
from tests.core.shapes import box_mesh, no_files

SIDE, SAMPLES = 512, 4


def _given(sources: dict[Parameter, AnySource]) -> dict[Parameter, MaterialInput]:
    placement = Placement(size=0.05)
    return {name: MaterialInput(source=source, placement=placement) for name, source in sources.items()}


CASES: dict[str, dict[Parameter, MaterialInput]] = {
    "plain": {},
    "one pattern": _given({"base_color": NoiseSource()}),
    "four patterns": _given(
        {
            "base_color": NoiseSource(),
            "specular_roughness": CellsSource(),
            "coat_weight": MarbleSource(),
            "base_metalness": WeaveSource(),
        }
    ),
    "bump": _given({"bump": NoiseSource()}),
}


def _worn(source: AnySource) -> dict[str, Material]:
    """Three materials over one another, with a mask and a pattern each of the two upper ones."""
    mask = MaterialInput(source=source, placement=Placement(size=0.05), combine="multiply")
    primer = Material(name="Primer", inputs=_given({"base_color": NoiseSource()}))
    steel = Material(name="Steel", base_metalness=1.0, inputs=_given({"specular_roughness": CellsSource()}))
    layers = Layer(material="primer", mask=mask), Layer(material="steel", mask=mask)
    return {"m": Material(name="M", coat_weight=0.5, layers=layers), "primer": primer, "steel": steel}


def _materials() -> dict[str, dict[str, Material]]:
    """The materials of each case; the box wears the first."""
    alone = {
        name: {"m": Material(name="M", bump=0.001, coat_weight=0.5, inputs=inputs)} for name, inputs in CASES.items()
    }
    edges = EdgesSource(width=0.1, grain=0.1)
    return alone | {"worn at its edges": _worn(edges), "worn everywhere": _worn(NoiseSource())}


def _seconds(materials: dict[str, Material]) -> float:
    scene = Scene(
        parts={"box": Part(name="Box", mesh=0, material="m")},
        materials=materials,
        camera=Camera(position=(0.3, 0.3, 1.0), target=(0, 0, 0), focal_length=60, f_number=None),
        ground=Ground(enabled=False),
    )
    engine = Engine()
    engine.open(scene, no_files, ImportedAsset("box", "none", [box_mesh((-0.5,) * 3, (0.5,) * 3)]))
    film = Film(SIDE, SIDE)
    engine.trace(film, 1)
    start = time.perf_counter()
    engine.trace(film, 1 + SAMPLES)
    seconds = time.perf_counter() - start
    engine.close()
    return seconds


def main() -> None:
    """Print the medians of all cases, taken in turns."""
    parser = argparse.ArgumentParser(prog="benchmarks/run inputs", description=__doc__)
    parser.add_argument("--rounds", type=int, default=9)
    options = parser.parse_args()
    cases = _materials()
    taken: dict[str, list[float]] = {name: [] for name in cases}
    for _ in range(options.rounds):
        for name, materials in cases.items():
            taken[name].append(_seconds(materials))
    medians = {name: statistics.median(values) for name, values in taken.items()}
    for name, seconds in medians.items():
        print(f"{name}: {1e3 * seconds:.0f} ms", file=sys.stderr)
    ratios = {name: round(seconds / medians["plain"], 2) for name, seconds in medians.items()}
    print(json.dumps({"benchmark": "inputs", "ratios": ratios}))


if __name__ == "__main__":
    main()
