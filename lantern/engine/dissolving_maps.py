"""The map of what is all around while one environment gives way to another: both, as they light, added up.

In: a document at its moment. Out: pixels of a map that stands as it is. Called by the engine.
"""

from collections import OrderedDict
from collections.abc import Callable
from functools import partial
from typing import TypeVar

import numpy as np

from lantern.compile.environment_tables import EnvironmentTables
from lantern.engine.light_images import LightImages
from lantern.engine.own_images import Resolver
from lantern.engine.unrolled import turned
from lantern.motion.relit import Dissolved
from lantern.scene.document import Scene

LEAST_ROWS, MOST_ROWS = 64, 4096
KEPT = 4
"""Maps as they light, of environments that have been dissolved: each moment of a film has the same two."""


def is_of_other_map(before: Scene, after: Scene) -> bool:
    """Whether the map of a document has other pixels than that of another."""
    first, second = before.environment, after.environment
    if isinstance(first, Dissolved) or isinstance(second, Dissolved):
        return first != second
    return first.map != second.map


class DissolvingMaps:
    """Those of one engine."""

    def __init__(self) -> None:
        self._tables: OrderedDict[str, EnvironmentTables] = OrderedDict()
        self._turned: OrderedDict[str, np.ndarray] = OrderedDict()

    def map_of(self, scene: Scene, images: LightImages, resolve: Resolver) -> tuple[np.ndarray | None, list[str]]:
        """(the map all around, None without one; problems). Images of cards must have been brought.

        Raises ImageError when it cannot be used.
        """
        environment = scene.environment
        if not isinstance(environment, Dissolved):
            return images.map_of(scene, resolve)
        problems, found = list[str](), list[tuple[Scene, str, EnvironmentTables, float]]()
        for one, sky, factor in environment.both:
            # A lamp that stands alone has put out the environment already, where that was so.
            of_one = scene.model_copy(update={"environment": one, "sky": sky, "lights": {}})
            pixels, said = images.map_of(of_one, resolve) if not sky.enabled else (None, [])
            problems += said
            key = f"{one.model_dump_json()} {sky.model_dump_json()}"

            def made(of_one: Scene = of_one, pixels: np.ndarray | None = pixels) -> EnvironmentTables:
                return EnvironmentTables(of_one, pixels, images.shown)

            found.append((of_one, key, _kept(self._tables, key, made), factor))
        height = max(LEAST_ROWS, *(min(tables.pixels.shape[0], MOST_ROWS) for _, _, tables, _ in found))
        both = [
            _kept(self._turned, f"{height} {key}", partial(turned, of_one, tables, height)) * np.float32(factor)
            for of_one, key, tables, factor in found
        ]
        return both[0] + both[1], problems


Value = TypeVar("Value")


def _kept(known: OrderedDict[str, Value], key: str, make: Callable[[], Value]) -> Value:
    """What is known by a key, made where it is not; of those that were asked for last KEPT stay."""
    if key not in known:
        known[key] = make()
    known.move_to_end(key)
    while len(known) > KEPT:
        known.popitem(last=False)
    return known[key]
