"""The second demo project: the lantern with a travel case, a cup and a flacon, and pearls strewn over velvet.

Four assets in one file, each a group that is moved as one.
"""

from collections.abc import Callable
from pathlib import Path

from demo.cup import PORCELAIN, RIM, TEA, write_cup
from demo.flacon import AMBER, BRASS, GLASS, write_flacon
from demo.project import cached_files, environment_makers, file_reference
from demo.travel_case import EDGE, LEATHER, VELVET, write_travel_case
from demo.wick import write_wick
from lantern.assets.beginning import begun
from lantern.assets.joining import AssetFile, with_added
from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.lights import RectangleLight
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.printing import PrintSettings
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Backdrop, Environment, Ground

PROJECT_NAME = "Travel set with pearls"
ASSET_FILE = "travel-set.zip"
PEARL = Material(
    name="Pearl", base_color=(0.86, 0.80, 0.76), specular_roughness=0.22, coat_weight=0.7, coat_roughness=0.08,
    thin_film_weight=0.6, thin_film_thickness=0.42, thin_film_ior=1.53,
)  # fmt: skip
_MATERIALS = (GLASS, AMBER, BRASS, PORCELAIN, RIM, TEA, EDGE, LEATHER, VELVET)
PLACES: dict[str, tuple[tuple[float, float, float], float]] = {
    "2-asset": ((0.185, 0.0, 0.045), -16.0),  # the case
    "3-asset": ((-0.115, 0.0, 0.150), 35.0),  # the cup
    "4-asset": ((0.045, 0.0, 0.190), 20.0),  # the flacon
}
"""How far each asset but the lantern is moved [m] and turned [degrees]."""


def write_set(path: Path) -> None:
    """Write the zip of the four assets."""
    makers = {
        "wick-no-4.glb": write_wick, "travel-case.glb": write_travel_case, "cup.glb": write_cup,
        "amber-flacon.glb": write_flacon,
    }  # fmt: skip
    files = [AssetFile(made, name) for name, made in cached_files(makers).items()]
    whole = files[0]
    for number, file in enumerate(files[1:]):
        target = path.with_name(f"{path.name}.{number}")
        with_added(whole, file, target)
        whole = AssetFile(target, ASSET_FILE)
    whole.path.replace(path)


def travel_scene() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The document and a function that finds its files."""
    files = cached_files({ASSET_FILE: write_set, **environment_makers()})
    asset = import_asset(files[ASSET_FILE])
    scene = begun(asset, file_reference(files[ASSET_FILE]), *asset_bounds(asset))
    groups = {
        key: group.model_copy(update={"offset": PLACES[key][0], "turn_y": PLACES[key][1], "name": _NAMES[key]})
        for key, group in scene.part_groups.items()
        if key in PLACES
    }
    pearls = Part(
        name="Pearls", form=BallForm(radius=0.0042), material="pearl",
        strewn=Scatter(over="2-lining", density=2600.0, apart=0.0088, spread=0.22, steepest=30.0, seed=11),
    )  # fmt: skip
    assert scene.asset is not None
    scene = scene.model_copy(
        update={
            "asset": scene.asset.model_copy(update={"name": "Travel set"}),
            "parts": scene.parts | {"pearls": pearls},
            "part_groups": scene.part_groups | groups,
            "materials": {**{key: _dressed(one) for key, one in scene.materials.items()}, "pearl": PEARL},
            "environment": Environment(map=file_reference(files["softbox-studio.hdr"]), rotation=25.0, intensity=0.7),
            "lights": {
                "key": RectangleLight(
                    name="Window", position=(-0.75, 0.75, 0.35), target=(0.06, 0.05, 0.06), width=0.5, height=0.6,
                    unit="cd/m²", amount=16.0, temperature=5600,
                ),
                "rim": RectangleLight(
                    name="Rim", position=(0.75, 0.45, -0.60), target=(0.1, 0.08, 0.0), width=0.2, height=0.6,
                    unit="cd/m²", amount=12.0, temperature=3600,
                ),
            },
            "backdrop": Backdrop(kind="color", color=(0.075, 0.062, 0.056)),
            "ground": Ground(height=0.0, reflectance=(0.075, 0.062, 0.056), reflection=0.02, reflection_roughness=0.2),
            "camera": Camera(
                position=(-0.16, 0.60, 1.26), target=(0.068, 0.098, 0.03), focal_length=77, f_number=5.6,
                focus_distance=1.29,
            ),
            "look": Look(exposure=0.3),
            "print": PrintSettings(width=1600, height=1000, samples=128),
        }
    )  # fmt: skip
    by_digest = {file_reference(path).sha256: path for path in files.values()}
    return scene, lambda reference: by_digest[reference.sha256]


_NAMES = {"2-asset": "Travel case", "3-asset": "Cup", "4-asset": "Flacon"}


def _dressed(material: Material) -> Material:
    """The document's own material of that name, with the images that the file gives it."""
    own = next((each for each in _MATERIALS if each.name == material.name), None)
    if own is None:
        return material
    images = {name: value for name, value in material if name.endswith("_texture")}
    return own.model_copy(update={**images, "normal_scale": material.normal_scale})
