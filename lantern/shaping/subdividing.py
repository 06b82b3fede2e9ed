"""Subdivision surfaces: finer faces of a cage, on the surface that endless steps lead to.

In: a cage, a scheme, how many levels. Out: a `Surface`, of which `surface` makes meshes. Called by `density`.

Texture coordinates and colours are subdivided by the same rules over faces of their own, which end at their seams:
there they keep to the seam, and stay in place at its corners and where three or more pieces meet.
"""

from dataclasses import replace
from typing import Literal

import numpy as np

from lantern.assets.cage import INFINITE, Cage, Channel
from lantern.assets.polygons import triangulated
from lantern.shaping.nets import Net, net_of
from lantern.shaping.surface import Surface, surface_of

Scheme = Literal["catmull_clark", "loop"]


def subdivided(cage: Cage, scheme: Scheme, levels: int) -> Surface:
    """The surface of a cage after `levels` steps, 1 or more, its vertices moved to where endless steps take them."""
    cage = cage if scheme == "catmull_clark" or cage.is_of_triangles else cut(cage)
    sharp = sharp_corners(cage)
    points = _Carried(net_of(cage.counts, cage.corners, sharp, np.zeros(len(cage.points), bool)), cage.points)
    channels = [
        _Carried(net_of(cage.counts, channel.indices, sharp, _junctions(cage, channel)), channel.values)
        for channel in (*cage.uvs, *([cage.colors] if cage.colors else []))
    ]
    for _ in range(levels):
        points.step(scheme)
        for channel in channels:
            channel.step(scheme)
    for carried in (points, *channels):
        carried.settle(scheme)
    uvs, colors = channels[: len(cage.uvs)], channels[len(cage.uvs) :]
    return surface_of(
        points.net,
        points.values,
        [Channel(each.values, each.net.corners) for each in uvs],
        Channel(colors[0].values, colors[0].net.corners) if colors else None,
    )


class _Carried:
    """What the vertices of a net carry, step by step."""

    def __init__(self, net: Net, values: np.ndarray) -> None:
        self.net, self.values = net, values.astype(np.float64)

    def step(self, scheme: Scheme) -> None:
        if scheme == "loop":
            self.values, self.net = self.net.loop(self.values), self.net.quartered_triangles()
        else:
            self.values, self.net = self.net.catmull_clark(self.values), self.net.quartered_quads()

    def settle(self, scheme: Scheme) -> None:
        limit = self.net.loop_limit if scheme == "loop" else self.net.catmull_clark_limit
        self.values = limit(self.values)


def sharp_corners(cage: Cage) -> np.ndarray:
    """(c,) sharpness of the edge that begins at each corner."""
    following = net_of(cage.counts, cage.corners, np.zeros(0), np.zeros(0, bool)).following
    sharp = np.zeros(len(cage.corners))
    if len(cage.creases):
        low, high = np.sort(cage.creases, axis=1).T
        keys = (low << 32) | high
        order = np.argsort(keys, kind="stable")
        a, b = cage.corners, cage.corners[following]
        wanted = (np.minimum(a, b) << 32) | np.maximum(a, b)
        at = np.minimum(np.searchsorted(keys[order], wanted), len(keys) - 1)
        found = keys[order][at] == wanted
        values = np.where(cage.sharpness >= INFINITE, np.inf, np.maximum(cage.sharpness, 0))
        sharp[found] = values[order][at[found]]
    return sharp


def _junctions(cage: Cage, channel: Channel) -> np.ndarray:
    """(u,) which values of a channel stay: where three pieces meet, or a seam ends."""
    pairs = np.unique(np.column_stack([channel.indices, cage.corners]), axis=0)
    pieces = np.bincount(pairs[:, 1], minlength=len(cage.points))
    stays = np.zeros(len(channel.values), bool)
    stays[pairs[pieces[pairs[:, 1]] > 2, 0]] = True
    net = net_of(cage.counts, channel.indices, np.zeros(len(cage.corners)), stays)
    at_seam = net.ends[net.around_edge != 2].ravel()
    seams = np.bincount(at_seam, minlength=len(stays))
    return np.asarray(stays | ((seams > 0) & (seams != 2)))


def cut(cage: Cage) -> Cage:
    """A cage whose faces are triangles."""
    triangles, _ = triangulated(cage.counts, cage.points[cage.corners])
    corners = triangles.ravel()

    def of(channel: Channel) -> Channel:
        return replace(channel, indices=channel.indices[corners])

    return replace(
        cage,
        counts=np.full(len(triangles), 3),
        corners=cage.corners[corners],
        uvs=tuple(of(channel) for channel in cage.uvs),
        colors=of(cage.colors) if cage.colors else None,
    )
