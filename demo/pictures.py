"""`python -m demo.pictures [NAME …]`: render the demo's pictures into docs/screenshots, as a print would."""

import sys
import time
from collections.abc import Callable
from pathlib import Path

from demo.flacon import flacon_scene
from demo.project import demo_scene
from demo.travel_set import travel_scene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.picture.stills import write_png
from lantern.scene.document import Camera, Scene
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.printing import PrintSettings
from lantern.scene.surroundings import Ground

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
Demo = tuple[Scene, Callable[[FileRef], Path]]


def lit_lantern() -> Demo:
    """The Wick No. 4 at dusk: its filament lights the frosted, ribbed glass from inside."""
    scene, resolve = demo_scene()
    materials = {
        key: m.model_copy(update={"emission_luminance": 520.0} if m.emission_luminance else {})
        for key, m in scene.materials.items()
    }
    tall = PrintSettings(width=800, height=1000, samples=160)
    camera = Camera(
        position=(0.30, 0.26, 0.86), target=(0.0, 0.128, 0.0), focal_length=82, f_number=5.6, focus_distance=0.86
    )
    update = {
        "materials": materials,
        "environment": scene.environment.model_copy(update={"intensity": 0.22, "rotation": 20.0}),
        "backdrop": scene.backdrop.model_copy(update={"color": (0.050, 0.042, 0.040)}),
        "ground": Ground(
            height=scene.ground.height, reflectance=(0.12, 0.10, 0.09), reflection=0.05, reflection_roughness=0.25
        ),
        "camera": camera,
        "look": Look(exposure=0.9),
        "print": tall,
    }
    return scene.model_copy(update=update), resolve


PICTURES: dict[str, Callable[[], Demo]] = {
    "lit-lantern": lit_lantern, "flacon": flacon_scene, "travel-set": travel_scene,
}  # fmt: skip


def render(demo: Demo, path: Path, scale: float = 1.0, samples: int | None = None) -> None:
    """Write one PNG, denoised; `scale` shrinks it for a trial."""
    scene, resolve = demo
    engine = Engine()
    for problem in engine.open(scene, resolve):
        print(problem)
    film = Film(round(scene.print.width * scale), round(scene.print.height * scale))
    start = time.perf_counter()
    engine.trace(film, samples or scene.print.samples)
    print(f"{path.name}: {film.width}x{film.height}, {film.samples} samples, {time.perf_counter() - start:.0f} s")
    picture = engine.develop(film, denoise="high")
    write_png(path, display_rgb(picture, engine.shown.look, engine.surround(film, clean=True)))
    engine.close()


if __name__ == "__main__":
    for name in sys.argv[1:] or PICTURES:
        render(PICTURES[name](), FOLDER / f"{name}.png")
