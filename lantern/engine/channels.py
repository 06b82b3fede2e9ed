"""What the EXR of a film holds. Called by the command line and by prints."""

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import Aovs, Film, Rows
from lantern.picture.cryptomatte import matte
from lantern.picture.develop import Developed
from lantern.picture.display import light_of_display
from lantern.picture.exr import DISPLAYED, Channels, picture_channels
from lantern.scene.printing import PrintSettings


def channels_of(
    engine: Engine,
    film: Film,
    picture: Developed,
    settings: PrintSettings,
    rows: Rows,
    shown: np.ndarray | None = None,
) -> Channels:
    """The picture and the layers that are wanted of some rows; those of light only of a film that was made with them.

    `shown` (h, w, 3) uint16 is the whole picture as its display has it, to stand in the place of its light.
    """
    span = np.s_[rows[0] : rows[1]]
    light, alpha = picture.radiance[span], picture.alpha[span]
    if shown is not None:
        displayed = light_of_display(shown[span], engine.shown.look.encoding)
        light = (displayed * alpha[..., None]).astype(np.float32)
    channels = picture_channels(light, alpha)
    if shown is not None:
        channels.color_space = DISPLAYED
    if settings.guide_layers:
        means = film.means(rows)
        channels.color("albedo", means.albedo)
        channels.vector("normal", means.normal)
        channels.value("Z", means.depth)
    if film.aov_rows is not None:
        _add_aovs(channels, engine, film.aovs(rows), film.group_count, settings)
    return channels


def _add_aovs(channels: Channels, engine: Engine, aovs: Aovs, groups: int, settings: PrintSettings) -> None:
    """Add the layers of light, of what is measured and of identities that are wanted."""
    if settings.way_layers:
        for name, pixels in aovs.colors.items():
            channels.color(name, pixels)
    if settings.group_layers:
        _add_groups(channels, engine, aovs, groups)
    if settings.data_layers:
        channels.vector("position", aovs.position, exact=True)
        channels.value("shadow.V", aovs.shadow)
        channels.value("variance.V", aovs.variance)
        channels.value("samples.V", aovs.samples)
    if settings.matte_layers:
        channels.matte(matte("CryptoObject", engine.compiled.part_keys, *aovs.parts))
        channels.matte(matte("CryptoMaterial", engine.compiled.material_keys, *aovs.materials))


def _add_groups(channels: Channels, engine: Engine, aovs: Aovs, count: int) -> None:
    """The light groups as they are balanced; those beyond the `count` that a film tells apart share one layer."""
    names, factors = engine.compiled.light_groups, engine.factors()
    for number, pixels in enumerate(aovs.groups[: len(names)]):
        shared = number == count - 1 and len(names) > count
        shown = pixels * np.array(factors[number], np.float32)
        channels.color("group_others" if shared else f"group_{names[number]}", shown)
