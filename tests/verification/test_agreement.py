"""Three ways of finding the light of a scene agree: as shipped, by scattering alone, by aiming where that is possible.

Whatever a scene holds, each estimator has the same mean; where two features meet that one of them forgets, they part.
`LANTERN_SCENES=3000 LANTERN_FIRST_SCENE=1000 ./test tests/verification/test_agreement.py` looks at more scenes. A seed
is in the name of its test, so `-k "seed-17]"` repeats one.
"""

import math
import os
from dataclasses import dataclass

import numpy as np
import pytest

from lantern.color import LUMINANCE
from lantern.compile.view import View
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.rays.layout import AIMING_ALONE, BOTH, SCATTERING_ALONE
from tests.verification.random_lighting import files
from tests.verification.random_scenes import RandomScene, random_scene

FIRST, COUNT = int(os.environ.get("LANTERN_FIRST_SCENE", "0")), int(os.environ.get("LANTERN_SCENES", "40"))
SIDE = 10
LOOKS = ((8, 48), (24, 96), (64, 256))
"""(seeds, samples a pixel) of a first look at a scene, and of closer ones for those that seem to differ."""
SUSPICIOUS, LEAST_DIFFERENCE = 4.5, 0.004
"""Standard errors, and share below which the rounding of 32 bits may be what is seen: of what is compared, and of the
picture, for quarters so dark that scattering meets their light in a few samples or in none, and knows no error of it.
"""
ESTIMATORS = {"both": BOTH, "scattering": SCATTERING_ALONE, "aiming": AIMING_ALONE}


@dataclass(frozen=True)
class Mean:
    """Mean luminance of a picture and of its quarters with their standard errors, over independent seeds."""

    value: np.ndarray  # (5,)
    error: np.ndarray

    def __str__(self) -> str:
        return ", ".join(f"{v:.5g} ± {e:.2g}" for v, e in zip(self.value, self.error, strict=True))


def measure(engine: Engine, estimator: int, seeds: int, samples: int) -> Mean:
    """The mean of an estimator's picture; seeds are of its own, so that two estimators err independently."""
    found = []
    for seed in range(seeds):
        film = Film(SIDE, SIDE)
        view = View(engine.scene.camera, estimator=estimator)
        assert engine.trace(film, samples, seed=1000 * estimator + seed, view=view)
        quarters = (
            film.radiance().reshape(2, SIDE // 2, 2, SIDE // 2, 3).mean(axis=(1, 3), dtype=np.float64) @ LUMINANCE
        )
        found.append([quarters.mean(), *quarters.ravel()])
    return Mean(np.mean(found, axis=0), np.std(found, axis=0, ddof=1) / math.sqrt(seeds))


def apart(a: Mean, b: Mean) -> bool:
    """Whether two means differ anywhere by more than chance."""
    chance = SUSPICIOUS * np.hypot(a.error, b.error)
    rounding = LEAST_DIFFERENCE * np.maximum(np.maximum(a.value, b.value), max(a.value[0], b.value[0])) + 1e-6
    return bool((np.abs(a.value - b.value) > np.maximum(chance, rounding)).any())


def disagreement(random: RandomScene) -> str:
    """What is found to differ, or nothing."""
    engine = Engine(1)
    engine.open(random.scene, files, random.asset)
    engine.compiled.use_environment(random.environment)
    others = ["aiming"] * random.can_be_aimed + ["scattering"] * random.can_be_met
    try:
        for seeds, samples in LOOKS:
            means = {name: measure(engine, ESTIMATORS[name], seeds, samples) for name in ("both", *others)}
            others = [name for name in others if apart(means["both"], means[name])]
            if not others:
                return ""
        assert engine.ray_counts().not_finite == 0
        return "; ".join(f"{name}: {mean}" for name, mean in means.items())
    finally:
        engine.close()


@pytest.mark.parametrize("seed", range(FIRST, FIRST + COUNT), ids=lambda seed: f"seed-{seed}")
def test_estimators_agree(seed):
    assert disagreement(random_scene(seed)) == ""
