"""How high a pattern stands at places of a surface, for meshes that it displaces.

In: an input whose source is a pattern, places, normals and coordinates. Out: a value for each, as the input says it.
Called by `stock`. The kernels are those that shade: bump and displacement have one source.
"""

from collections.abc import Sequence

import numpy as np

from lantern.compile.input_rows import InputRows
from lantern.compile.operations import STAGES, Stages, height_of
from lantern.compile.pictures import Pictures
from lantern.kernel.memory import address
from lantern.pattern.images import decodings
from lantern.pattern.material import MATERIAL
from lantern.pattern.sampling import sample_program
from lantern.pattern.tables import MOST_UV_SETS, POINT, SHADING
from lantern.scene.inputs import MaterialInput

_AT_ONCE = 8192
"""Points that lie in memory together."""


def heights(
    one: MaterialInput, places: np.ndarray, normals: np.ndarray, uvs: Sequence[np.ndarray], metres: float
) -> np.ndarray:
    """(n,) values at places and unit normals (n, 3) of a part's own space, whose unit is so many metres.

    `uvs` are coordinates (n, 2) by their sets; a set that is not there is (0, 0).
    """
    rows = InputRows(Pictures())
    stages: Stages = {stage: [] for stage in STAGES}
    stages["bump"] = list(height_of(one))
    rows.write(0, MATERIAL.zeros(1)[0], stages)
    decoding = decodings()
    tables = {"operations": rows.operations, "placements": rows.placements, "ramps": rows.ramps, "decodings": decoding}
    block = SHADING.block(tables)
    found = np.empty(len(places), np.float32)
    points = POINT.zeros(min(len(places), _AT_ONCE))
    for begin in range(0, len(places), _AT_ONCE):
        part = slice(begin, begin + _AT_ONCE)
        count = len(found[part])
        points["own"][:count] = points["rest"][:count] = places[part] * metres
        points["own_normal"][:count] = points["rest_normal"][:count] = normals[part]
        for number, coordinates in enumerate(uvs[:MOST_UV_SETS]):
            points["uv"][:count, 2 * number : 2 * number + 2] = coordinates[part]
        made = np.empty(count, np.float32)
        ends = [np.uint64(address(array)) for array in (block, points, made)]
        sample_program(ends[0], 0, len(stages["bump"]), ends[1], count, MATERIAL.slot("bump"), ends[2])
        found[part] = made
    return found.astype(np.float64)
