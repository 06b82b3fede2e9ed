"""The three conditions of the demo: a bench in the morning, a hotel in the evening, a page of a catalogue.

In: the lantern's document, where its environments are. Out: conditions, sized to the lantern. Called by `project`.
"""

from collections.abc import Callable

from lantern.scene.conditions import conditions_of
from lantern.scene.document import Conditions, Scene
from lantern.scene.fields import Box
from lantern.scene.lights import RectangleLight
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.rigs import Rig, with_rig
from lantern.scene.surroundings import Backdrop, Card, Environment, Graded, Ground

_MIDDLE = (0.0, 0.13, 0.0)


def _lamp(
    name: str, at: tuple[float, float, float], size: tuple[float, float], lx: float, kelvin: float
) -> RectangleLight:
    return RectangleLight(
        name=name, group=name, position=at, target=_MIDDLE, width=size[0], height=size[1], unit="lx", amount=lx,
        temperature=kelvin,
    )  # fmt: skip


def workbench_morning(room: FileRef) -> Rig:
    """Cool light through the windows of the workshop, on a pale bench."""
    return Rig(
        name="Workbench Morning",
        lights={"light-1": _lamp("Window", (-0.85, 0.6, 0.35), (0.5, 0.8), 4.2, 6800)},
        environment=Environment(map=room, rotation=-15.0, intensity=0.8),
        backdrop=Backdrop(kind="gradient", color=(0.43, 0.4, 0.36), upper=(0.2, 0.21, 0.23), middle=0.42),
        ground=Ground(reflectance=(0.4, 0.37, 0.33), reflection=0.02, reflection_roughness=0.4),
        exposure=0.1,
    )


def hotel_evening() -> Rig:
    """The lantern is the brightest thing: a warm key, a cool edge, deep velvet behind."""
    graded = Graded(zenith=(0.1, 0.085, 0.1), horizon=(0.13, 0.09, 0.075), ground=(0.06, 0.04, 0.035))
    cards = {
        "card-1": Card(name="Lamp behind the bar", shape="strip", azimuth=58, elevation=16, width=9, height=70,
                       luminance=5, temperature=2600, edge=0.3),
        "card-2": Card(name="Corridor", shape="strip", azimuth=-62, elevation=10, width=7, height=60, luminance=3,
                       temperature=3200, edge=0.3),
    }  # fmt: skip
    return Rig(
        name="Hotel Evening",
        lights={
            "light-1": _lamp("Key", (-0.7, 0.7, 0.6), (0.35, 0.35), 1.1, 3000),
            "light-2": _lamp("Rim", (0.6, 0.55, -0.6), (0.12, 0.7), 1.7, 7500),
        },
        environment=Environment(graded=graded, cards=cards),
        backdrop=Backdrop(
            kind="gradient", color=(0.12, 0.055, 0.06), upper=(0.022, 0.012, 0.018), middle=0.4, glow=0.7
        ),
        ground=Ground(reflectance=(0.12, 0.07, 0.065), reflection=0.06, reflection_roughness=0.22),
        exposure=1.2,
    )


def catalogue_white(tent: FileRef) -> Rig:
    """White all around; a key for the form, two dark strips for the edges."""
    flags = {
        f"card-{number}": Card(name=f"Flag {number}", shape="strip", azimuth=side, elevation=4, width=16, height=120,
                               blend="darken", edge=0.4)
        for number, side in ((1, -84.0), (2, 84.0))
    }  # fmt: skip
    return Rig(
        name="Catalogue White",
        lights={"light-1": _lamp("Key", (-0.6, 0.8, 0.65), (0.6, 0.6), 2.6, 5600)},
        environment=Environment(map=tent, cards=flags),
        backdrop=Backdrop(kind="gradient", color=(0.92, 0.92, 0.92), upper=(0.84, 0.84, 0.85), middle=0.5),
        ground=Ground(reflectance=(0.8, 0.8, 0.8), reflection=0.03, reflection_roughness=0.3),
        exposure=0.8,
    )


def demo_conditions(scene: Scene, box: Box, find: Callable[[str], FileRef]) -> dict[str, Conditions]:
    """The three of them about the lantern in its box; `find` gives the environment of a name."""
    rigs = {
        "workbench-morning": workbench_morning(find("window-room.hdr")),
        "hotel-evening": hotel_evening(),
        "catalogue-white": catalogue_white(find("white-tent.hdr")),
    }
    plain = scene.model_copy(update={"look": Look()})
    return {key: conditions_of(with_rig(plain, rig, box), rig.name) for key, rig in rigs.items()}
