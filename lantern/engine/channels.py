"""What the EXR of a film holds. Called by the command line and by prints."""

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import Aovs, Film
from lantern.picture.cryptomatte import matte
from lantern.picture.develop import Developed
from lantern.picture.exr import DISPLAYED, Channels, picture_channels
from lantern.scene.printing import PrintSettings


def channels_of(
    engine: Engine, film: Film, picture: Developed, settings: PrintSettings, shown: np.ndarray | None = None
) -> Channels:
    """The picture and the layers that are wanted; those of light only of a film that was made with them.

    `shown` (h, w, 3) linear Rec. 709 is what the display makes of the picture, to stand in the place of its light.
    """
    channels = picture_channels(picture.radiance if shown is None else shown, picture.alpha)
    if shown is not None:
        channels.color_space = DISPLAYED
    if settings.guide_layers:
        means = film.means()
        channels.color("albedo", means.albedo)
        channels.vector("normal", means.normal)
        channels.value("Z", means.depth)
    if film.aov_rows is None:
        return channels
    aovs = film.aovs()
    if settings.way_layers:
        for name, pixels in aovs.colors.items():
            channels.color(name, pixels)
    if settings.group_layers:
        _groups(channels, engine, film, aovs)
    if settings.data_layers:
        channels.vector("position", aovs.position, exact=True)
        channels.value("shadow.V", aovs.shadow)
        channels.value("variance.V", aovs.variance)
        channels.value("samples.V", aovs.samples)
    if settings.matte_layers:
        channels.matte(matte("CryptoObject", engine.compiled.part_keys, *aovs.parts))
        channels.matte(matte("CryptoMaterial", engine.compiled.material_keys, *aovs.materials))
    return channels


def _groups(channels: Channels, engine: Engine, film: Film, aovs: Aovs) -> None:
    """The light groups as they are balanced; those beyond what a film tells apart share one layer."""
    names, factors = engine.compiled.light_groups, engine.factors()
    for number, pixels in enumerate(aovs.groups[: len(names)]):
        shared = number == film.group_count - 1 and len(names) > film.group_count
        shown = pixels * np.array(factors[number], np.float32)
        channels.color("group_others" if shared else f"group_{names[number]}", shown)
