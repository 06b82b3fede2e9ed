"""Pictures of lit balls, made by the core: what a lit-ball input looks up by the normal as the camera sees it.

In: the name of a ball. Out: an image that the ball fills. Called by what fills the library.
"""

from pathlib import Path

import numpy as np
from PIL import Image

from lantern.color import encode_srgb
from lantern.engine.engine import Engine
from lantern.engine.own_images import no_files
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.lights import RectangleLight
from lantern.scene.surroundings import Backdrop, Environment, Ground

SIDE, SAMPLES = 256, 32
_BRIGHTEST_SHARE = 0.965
"""Of the pixels: what is brighter may be clipped."""
_RADIUS = 0.1
Vector = tuple[float, float, float]


def _panel(
    position: Vector, width: float, height: float, amount: float, color: Vector = (1.0, 1.0, 1.0)
) -> RectangleLight:
    place = {"position": position, "target": (0.0, 0.0, 0.0), "width": width, "height": height}
    return RectangleLight(name="panel", unit="cd/m²", amount=amount, color=color, **place)


_WINDOW = _panel((-0.5, 0.6, 0.6), 0.5, 0.5, 12)
BALLS: dict[str, tuple[str, Material, float, tuple[RectangleLight, ...]]] = {
    "ball-porcelain": (
        "Porcelain by a window", Material(name="m", base_color=(0.82, 0.8, 0.76), coat_weight=1.0), 0.35, (_WINDOW,),
    ),
    "ball-clay": (
        "Clay with a warm rim", Material(name="m", base_color=(0.5, 0.32, 0.24), specular_roughness=0.6), 0.12,
        (_panel((-0.4, 0.5, 0.8), 0.6, 0.6, 7), _panel((0.8, 0.1, -0.5), 0.4, 0.8, 40, (1.0, 0.55, 0.25))),
    ),
    "ball-jade": (
        "Jade lit from behind",
        Material(name="m", base_color=(0.2, 0.5, 0.36), subsurface_weight=1.0, subsurface_color=(0.35, 0.72, 0.5),
                 subsurface_radius=0.03, coat_weight=0.6),
        0.5, (_panel((0.3, 0.5, -0.7), 0.6, 0.6, 20), _panel((-0.6, 0.4, 0.5), 0.3, 0.6, 9)),
    ),
    "ball-copper": (
        "Copper between two strips",
        Material(name="m", base_color=(0.955, 0.6, 0.46), base_metalness=1.0, specular_roughness=0.22),
        0.5, (_panel((-0.7, 0.1, 0.4), 0.4, 1.6, 5), _panel((0.7, 0.1, 0.4), 0.25, 1.6, 4), _panel((0, 1, 0), 1, 1, 2)),
    ),
    "ball-velvet": (
        "Velvet in soft light",
        Material(name="m", base_color=(0.13, 0.03, 0.09), specular_roughness=0.9, fuzz_weight=1.0,
                 fuzz_color=(0.72, 0.4, 0.62), fuzz_roughness=0.35),
        0.9, (_panel((0.2, 0.9, 0.5), 0.8, 0.8, 5),),
    ),
    "ball-dusk": (
        "Plaster at dusk", Material(name="m", base_color=(0.78, 0.76, 0.74), specular_roughness=0.7), 0.1,
        (
            _panel((-0.8, 0.2, 0.3), 0.5, 0.5, 16, (1.0, 0.5, 0.24)),
            _panel((0.7, 0.6, 0.4), 0.9, 0.9, 4, (0.35, 0.5, 1.0)),
        ),
    ),
}  # fmt: skip
"""By key: what it is called, its material, the even light around it [cd/m²], its lights."""


def make_ball(key: str, path: Path) -> None:
    """Write the picture of a ball as a PNG of SIDE pixels a side. Raises KeyError for one that there is not."""
    _, material, even, lights = BALLS[key]
    scene = Scene(
        parts={"ball": Part(name="ball", form=BallForm(radius=_RADIUS), material="m", offset=(0, -_RADIUS, 0))},
        materials={"m": material},
        environment=Environment(intensity=even),
        backdrop=Backdrop(color=(0.0, 0.0, 0.0)),
        ground=Ground(enabled=False),
        lights={f"light-{number}": light for number, light in enumerate(lights)},
        camera=Camera(position=(0, 0, 1), target=(0, 0, 0), projection="orthographic", focal_length=36 / (2 * _RADIUS)),
    )
    engine = Engine()
    engine.open(scene, no_files)
    film = Film(SIDE, SIDE)
    engine.trace(film, SAMPLES)
    light = engine.develop(film, denoise="high").radiance
    engine.close()
    # As bright as keeps all but highlights within what an image holds.
    whole = float(np.quantile(light.max(axis=2), _BRIGHTEST_SHARE))
    picture = encode_srgb(np.clip(light / max(whole, 1e-6), 0.0, 1.0))
    Image.fromarray(np.round(picture * 255).astype(np.uint8)).save(path, format="PNG")
