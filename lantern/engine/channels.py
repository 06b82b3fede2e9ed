"""What the EXR of a film holds. Called by the command line and by prints."""

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.cryptomatte import matte
from lantern.picture.develop import Developed
from lantern.picture.exr import Channels, picture_channels


def channels_of(engine: Engine, film: Film, picture: Developed) -> Channels:
    """The channels of a developed film; every AOV of one that was made with them, light groups as they are balanced."""
    means, compiled = film.means(), engine.compiled
    channels = picture_channels(picture.radiance, picture.alpha, means.albedo, means.normal, means.depth)
    if film.aov_rows is None:
        return channels
    aovs = film.aovs()
    for name, pixels in aovs.colors.items():
        channels.color(name, pixels)
    names, factors = compiled.light_groups, engine.factors()
    for number, pixels in enumerate(aovs.groups[: len(names)]):
        shared = number == film.group_count - 1 and len(names) > film.group_count
        shown = pixels * np.array(factors[number], np.float32)
        channels.color("group_others" if shared else f"group_{names[number]}", shown)
    channels.vector("position", aovs.position, exact=True)
    channels.value("shadow.V", aovs.shadow)
    channels.value("variance.V", aovs.variance)
    channels.value("samples.V", aovs.samples)
    channels.matte(matte("CryptoObject", compiled.part_keys, *aovs.parts))
    channels.matte(matte("CryptoMaterial", compiled.material_keys, *aovs.materials))
    return channels
