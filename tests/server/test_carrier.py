"""What the last whole picture is set against, and when a twin that has become too dear is given up."""

import numpy as np

from lantern.compile.view import View
from lantern.picture.develop import Developed
from lantern.scene.document import Camera, Scene
from lantern.scene.lights import PointLight
from lantern.scene.look import Look
from server.host.carrier import Carrier

FULL = (64, 40)


def picture(width: int, height: int, value: float) -> Developed:
    return Developed(np.full((height, width, 3), value, np.float32), np.ones((height, width), np.float32))


def test_a_twin_that_has_become_too_dear_is_given_up_for_one_that_is_affordable():
    carrier, scene, view = Carrier(), Scene(), View(Camera())
    assert carrier.size_for(scene, view, FULL, (32, 20)) == (32, 20) and not carrier.carries
    carrier.carry(scene, view, FULL, picture(32, 20, 1.0))
    carrier.take_whole(picture(*FULL, 1.0), scene, view)
    lit = scene.model_copy(update={"lights": {"l": PointLight(name="l")}, "look": Look(exposure=1)})
    assert carrier.size_for(lit, view, FULL, (28, 18)) == (32, 20) and carrier.carries
    twice = carrier.carry(lit, view, FULL, picture(32, 20, 2.0))
    assert twice.radiance.shape == (20, 32, 3) and np.allclose(twice.radiance, 2.0, rtol=0.05)
    assert carrier.size_for(lit, view, FULL, (16, 10)) == (16, 10) and not carrier.carries
    alone = picture(16, 10, 2.0)
    assert carrier.carry(lit, view, FULL, alone) is alone
    carrier.take_whole(picture(*FULL, 2.0), lit, view)
    assert carrier.size_for(scene, view, FULL, (16, 10)) == (16, 10) and carrier.carries
