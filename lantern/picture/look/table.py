"""Look-up tables (`.cube`: of one dimension, of three, and both), by OpenColorIO, in the code that they are made for.

In: linear light, a file. Out: linear light. Called by `pipeline`, strip by strip.
"""

from functools import lru_cache
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from lantern.picture.display import CONFIG, SOURCE, TransformError

SPACES = {"display": "sRGB Encoded Rec.709 (sRGB)", "acescct": "ACEScct", "linear": SOURCE}


@lru_cache(maxsize=8)
def processor_of(path: Path, space: str) -> ocio.CPUProcessor:
    """What applies a table to linear light. Raises TransformError when the file is no table."""
    coded = SPACES[space]
    table = ocio.FileTransform(src=str(path), interpolation=ocio.INTERP_TETRAHEDRAL)
    steps = [ocio.ColorSpaceTransform(src=SOURCE, dst=coded), table, ocio.ColorSpaceTransform(src=coded, dst=SOURCE)]
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    try:
        return config.getProcessor(ocio.GroupTransform(steps)).getDefaultCPUProcessor()
    except ocio.Exception as error:
        raise TransformError(_reason(error, path)) from error


def _reason(error: Exception, path: Path) -> str:
    """The library's own words for what is wrong, without where the file lies."""
    text = " ".join(str(error).replace(str(path), "the file").split())
    return text if len(text) <= 300 else text[:297] + "..."


def apply_table(light: np.ndarray, path: Path, space: str, amount: float) -> None:
    """Put (h, w, 3) float32 linear light through a table, as much as `amount` says [0, 1]; overwritten."""
    height, width, _ = light.shape
    before = light.copy() if amount < 1 else None
    if space == "display":
        np.clip(light, 0, 1, out=light)
    processor_of(path, space).apply(ocio.PackedImageDesc(light, width, height, 3))
    if before is not None:
        light += (before - light) * np.float32(1 - amount)
