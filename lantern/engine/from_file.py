"""What an asset's file holds besides what is shown: other clips, and cameras.

In: an engine with a document open, what is chosen of the file. Out: the patch that takes it. Called by the render host.
"""

import numpy as np

from lantern.assets.beginning import seen_by
from lantern.assets.reading import import_asset
from lantern.assets.swapping import swapped, version_of
from lantern.engine.engine import Engine, Resolver
from lantern.scene.making import Made
from lantern.scene.patching import difference


def with_clip(engine: Engine, clip: str, resolve: Resolver) -> Made | None:
    """The patch by which the asset moves as one of its clips says; None when it has none of that name.

    What hands have done to parts stays, as with a newer version of the file. Raises AssetError.
    """
    scene, asset = engine.scene, engine.asset
    if scene.asset is None or asset is None or clip not in asset.clips:
        return None
    file = scene.asset.file
    other = import_asset(resolve(file), name=file.name, sha256=file.sha256, clip=clip)
    told = scene.asset.model_copy(update={"clip": clip})
    after, _ = swapped(scene, version_of(asset), version_of(other), told)
    return Made("", f"Clip {clip}", difference(scene.plain(), after.plain()))


def through_camera(engine: Engine, number: int) -> Made | None:
    """The patch by which the shot is seen as a camera of the file sees it; None when there is none of that number."""
    scene, asset = engine.scene, engine.asset
    if asset is None or not 0 <= number < len(asset.sights):
        return None
    sight = asset.sights[number]
    low, high = engine.compiled.bounds()
    if not np.isfinite(low).all():  # nothing is visible: as if it stood a metre away
        low = high = np.add(sight.position, sight.ahead)
    camera = seen_by(scene.camera, sight, low, high, scene.print.width / scene.print.height)
    after = scene.model_copy(update={"camera": camera})
    return Made("", f"See as {sight.name}", difference(scene.plain(), after.plain()))
