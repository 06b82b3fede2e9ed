"""Probes: how much of the light of local lights arrives on a part, or is stopped on its way by what stands between."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, peek_f32, peek_i32, peek_vector, store_f32, store_i32
from lantern.kernel.random import path_key, uniform
from lantern.kernel.vectors import EXACT, dot, luminance, neg
from lantern.trace.embree import set_time
from lantern.trace.hit import leave_surface, resolve_hit
from lantern.trace.layout import HIT, HIT_AT, LIGHT_AT, LIGHT_SAMPLE, MEDIUM, MEDIUM_AT, PROBE, RAY_AT
from lantern.trace.lighting import aim_at_local, light_through
from lantern.trace.medium import CLEAR

B, H, Q, D = PROBE.slots, HIT.slots, LIGHT_SAMPLE.slots, MEDIUM.slots
_WIDTH = PROBE.width
_EVERY_LINK, _SEED = -1, 77
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
        part = load_i32(probes, row + B.part)
        here = (load_f32(probes, row + B.u), load_f32(probes, row + B.v), load_f32(probes, row + B.w))
        normal, clearance = (_ZERO, f32(1.0), _ZERO), f32(1e-5) * max(abs(here[0]), max(abs(here[1]), abs(here[2])))
        if part >= 0:
            resolve_hit(scene, hit, ray, part, load_i32(probes, row + B.primitive), here[0], here[1], normal)
            here, normal = peek_vector(hit, H.position), peek_vector(hit, H.geometric)
            clearance = peek_f32(hit, H.clearance)
            if peek_i32(hit, H.entering) == 0:
                normal = neg(normal)
        key = path_key(i, 0, _SEED)
        density = aim_at_local(
            scene, sample, here, normal, True, _EVERY_LINK, uniform(key, 0), uniform(key, 1), uniform(key, 2)
        )
        sent, arrived = _ZERO, _ZERO
        wi = peek_vector(sample, Q.direction)
        if density > _ZERO and dot(wi, normal) > _ZERO:
            sent = luminance(peek_vector(sample, Q.radiance)) * dot(wi, normal) / density
            if sent > _ZERO:
                start = leave_surface(here, normal, clearance)
                through = light_through(scene, tree, ray, medium, start, wi, peek_f32(sample, Q.distance))
                arrived = sent * luminance(through)
        store_f32(probes, row + B.sent, sent)
        store_f32(probes, row + B.arrived, arrived)
