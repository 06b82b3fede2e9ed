"""Which triangle of a flat layout lies under each texel of a square.

In: coordinates in texels, triangles. Out: filled arrays. Called by `shaping.unwrapping`.
"""

from numba import njit

from lantern.kernel.vectors import EXACT


@njit(cache=True, **EXACT)
def fill_texels(uvs, indices, triangle, bu, bv):
    """Write what lies under the middle of each texel; returns how often any was met. `uvs` are in texels."""
    size, covered = len(triangle), 0
    for t in range(len(indices)):
        ax, ay = uvs[indices[t, 0], 0], uvs[indices[t, 0], 1]
        x1, y1 = uvs[indices[t, 1], 0] - ax, uvs[indices[t, 1], 1] - ay
        x2, y2 = uvs[indices[t, 2], 0] - ax, uvs[indices[t, 2], 1] - ay
        area = x1 * y2 - x2 * y1
        if area == 0.0:
            continue
        left, right = ax + min(0.0, x1, x2), ax + max(0.0, x1, x2)
        top, bottom = ay + min(0.0, y1, y2), ay + max(0.0, y1, y2)
        for row in range(max(int(top - 0.5), 0), min(int(bottom + 0.5), size - 1) + 1):
            for column in range(max(int(left - 0.5), 0), min(int(right + 0.5), size - 1) + 1):
                x, y = column + 0.5 - ax, row + 0.5 - ay
                u, v = (x * y2 - x2 * y) / area, (x1 * y - x * y1) / area
                if u >= 0.0 and v >= 0.0 and u + v <= 1.0:
                    triangle[row, column], bu[row, column], bv[row, column] = t, u, v
                    covered += 1
    return covered
