"""`python -m demo.takes`: make the pictures of the demo's board anew, of each edition in each light.

In: the document with three editions. Out: JPEG files beside this module, which come with the demo so that a first start
need not compute them for minutes. A test holds that they are what the renderer makes of the document.
"""

from pathlib import Path

import numpy as np
from PIL import Image

from demo.editions import edition_demo
from lantern.engine.engine import Engine
from lantern.picture.develop import display_rgb
from lantern.scene.document import Scene
from lantern.scene.orders import Combination, combinations, document_of

BOARD = "For the hotel"
SHOT = "whole"
WIDTH, SAMPLES = 960, 128
FOLDER = Path(__file__).parent / "pictures_of_takes"
_QUALITY = 90


def wanted_of(scene: Scene) -> list[Combination]:
    """All that hang on the board."""
    return list(combinations(list(scene.editions), [SHOT], list(scene.conditions)))


def picture_of(scene: Scene, wanted: Combination) -> Path:
    """The file of a combination."""
    edition, _, _ = wanted.names(scene)
    name = "-".join(word for word in edition.lower().split() if word.isalpha())
    return FOLDER / f"{name}-{wanted.conditions}.jpg"


def rendered(engine: Engine, scene: Scene, width: int, samples: int) -> np.ndarray:
    """(h, w, 3) uint8 of what an engine has open, as a print of it would be."""
    film = engine.film_for(width, round(width * scene.print.height / scene.print.width))
    engine.trace(film, samples)
    return display_rgb(engine.develop(film, denoise="high"), engine.shown.look, engine.surround(film, clean=True))


def main() -> None:
    scene, resolve = edition_demo()
    FOLDER.mkdir(exist_ok=True)
    engine = Engine(final=True)
    engine.open(scene, resolve)
    for wanted in wanted_of(scene):
        seen = document_of(scene, wanted)
        engine.apply(seen, resolve)
        path = picture_of(scene, wanted)
        Image.fromarray(rendered(engine, seen, WIDTH, SAMPLES)).save(path, quality=_QUALITY)
        print(path)
    engine.close()


if __name__ == "__main__":
    main()
