"""Probes: how much of the light of local lights arrives on a part, or is stopped on its way by what stands between.

In: a compiled scene. Out: its table of arrivals, a share for each cluster of triangles, and one for the ground. Called
by `engine` before a pass, when lights or parts have changed. Shares only say how often to aim at those lights: a wrong
one costs noise, not truth.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.compile.clusters import ProbeSites
from lantern.compile.compiled import CompiledScene
from lantern.kernel.memory import (
    Table,
    address,
    aligned,
    load_f32,
    load_i32,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
)
from lantern.kernel.random import path_key, uniform
from lantern.kernel.vectors import EXACT, dot, luminance, neg
from lantern.rays.embree import set_copy, set_time
from lantern.rays.hit import leave_surface, resolve_hit
from lantern.rays.layout import (
    HIT,
    HIT_AT,
    LIGHT_AT,
    LIGHT_SAMPLE,
    MEDIUM,
    MEDIUM_AT,
    RAY_AT,
    SCRATCH_SLOTS,
    SHADOW_RAY,
)
from lantern.transport.medium import CLEAR
from lantern.transport.sample_light import sample_local
from lantern.transport.shadow import light_through

PROBE = Table(
    "probe",
    [
        ("part", "i", 1),  # -1 for the ground
        ("copy", "i", 1),  # of a part that is strewn
        ("primitive", "i", 1),
        ("u", "f", 1),  # barycentrics; on the ground x, y, z in metres
        ("v", "f", 1),
        ("w", "f", 1),
        ("sent", "f", 1),
        ("arrived", "f", 1),
    ],
)
LEAST_ARRIVAL = 0.05
"""Probes may miss the gap that light comes through: no cluster is taken to be darker than this share."""

B, H, Q, D = PROBE.slots, HIT.slots, LIGHT_SAMPLE.slots, MEDIUM.slots
_WIDTH = PROBE.width
_EVERY_LINK, _SEED = i32(-1), 77
_ZERO = f32(0.0)


@njit(cache=True, **EXACT)
def probe_local_lights(scene, tree, scratch, probes, count):
    """Fill `sent` and `arrived` of PROBE rows: luminance from one light, without and with what is in its way."""
    ray, hit, sample, medium = scratch + RAY_AT, scratch + HIT_AT, scratch + LIGHT_AT, scratch + MEDIUM_AT
    store_i32(medium, D.count, 0)
    store_i32(medium, D.kind, CLEAR)
    set_time(ray, _ZERO)
    for i in range(count):
        row = i * _WIDTH
        part = int(load_i32(probes, row + B.part))
        here = (load_f32(probes, row + B.u), load_f32(probes, row + B.v), load_f32(probes, row + B.w))
        normal, offset = (_ZERO, f32(1.0), _ZERO), f32(1e-5) * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
        if part >= 0:
            set_copy(ray, load_i32(probes, row + B.copy))
            resolve_hit(scene, hit, ray, part, int(load_i32(probes, row + B.primitive)), here[0], here[1], normal)
            here, normal = peek_vector(hit, H.position), peek_vector(hit, H.geometric)
            offset = peek_f32(hit, H.ray_offset)
            if peek_i32(hit, H.entering) == 0:
                normal = neg(normal)
        key = path_key(i, 0, _SEED)
        pdf = sample_local(
            scene, scratch, here, normal, True, _EVERY_LINK, uniform(key, 0), uniform(key, 1), uniform(key, 2)
        )
        sent, arrived = _ZERO, _ZERO
        wi = peek_vector(sample, Q.direction)
        if pdf > _ZERO and dot(wi, normal) > _ZERO:
            sent = luminance(peek_vector(sample, Q.radiance)) * dot(wi, normal) / pdf
            if sent > _ZERO:
                start, far = leave_surface(here, normal, offset), peek_f32(sample, Q.distance)
                arrived = sent * luminance(light_through(scene, tree, scratch, medium, start, wi, far, SHADOW_RAY))
        store_f32(probes, row + B.sent, sent)
        store_f32(probes, row + B.arrived, arrived)


def _rows_of(sites: ProbeSites) -> np.ndarray:
    """PROBE rows of where to probe."""
    rows = np.zeros(len(sites.part), PROBE.dtype)
    rows["part"], rows["copy"], rows["primitive"] = sites.part, sites.copy, sites.primitive
    rows["u"], rows["v"], rows["w"] = sites.place.T
    return rows


def _arrived_share(sent: np.ndarray, arrived: np.ndarray) -> np.ndarray:
    shares = np.divide(arrived, sent, out=np.ones(len(sent)), where=sent > 0)
    return np.clip(shares, LEAST_ARRIVAL, 1.0)


def probe(compiled: CompiledScene) -> None:
    """Bring the arrivals of a compiled scene up to date, if something has changed them."""
    if not compiled.probes_wanted:
        return
    sites = compiled.probe_sites()
    rows, bound, scratch = _rows_of(sites), compiled.bare_block(), aligned((SCRATCH_SLOTS,), np.uint64)
    addresses = (address(bound.row), bound.tree.handle, address(scratch), address(rows))
    probe_local_lights(*(np.uint64(n) for n in addresses), len(rows))
    on_parts = rows["part"] >= 0
    clusters = sites.cluster[on_parts]
    sent = np.bincount(clusters, rows["sent"][on_parts], sites.clusters)
    arrived = np.bincount(clusters, rows["arrived"][on_parts], sites.clusters)
    ground = rows[~on_parts]
    on_ground = _arrived_share(ground["sent"].sum(keepdims=True), ground["arrived"].sum(keepdims=True))
    compiled.take_arrivals(_arrived_share(sent, arrived), float(on_ground[0]))
