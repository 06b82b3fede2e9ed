"""What a material is at places of a part, as numbers: for images that stand in for its patterns, layers and decals.

In: a compiled scene, a part, barycentrics on its triangles. Out: rows of `BAKED`. Called by `engine.baking`. The same
functions look surfaces up that paths meet.
"""

from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.compile.compiled import CompiledScene
from lantern.kernel.memory import (
    Table,
    address,
    aligned,
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, lerp, mul, neg
from lantern.pattern.images import fetch
from lantern.pattern.material import MATERIAL
from lantern.rays.embree import set_copy, set_time
from lantern.rays.hit import resolve_hit
from lantern.rays.layout import HIT, HIT_AT, POINT_IN_HIT, RAY_AT, SCENE, SCRATCH_SLOTS
from lantern.surface.lookup import base_color_at, opacity_at, row_after

SITE = Table("site", [("primitive", "i", 1), ("u", "f", 1), ("v", "f", 1), ("facing", "f", 3)])
"""A place on a part: barycentrics on a triangle, and the unit normal of that in the world."""
BAKED = Table(
    "baked",
    [
        ("color", "f", 3),  # of the base, or of what passes where it is clear; linear Rec. 709
        ("metalness", "f", 1),
        ("roughness", "f", 1),
        ("opacity", "f", 1),
        ("transmission", "f", 1),
        ("emission", "f", 3),  # cd/m², beneath coat and fuzz
        ("coat", "f", 1),
        ("coat_roughness", "f", 1),
        ("fuzz", "f", 1),
        ("normal", "f", 3),  # unit, world, where the outside is
    ],
)
"""What a material is at a place."""

C, M, H, K, B = SCENE.slots, MATERIAL.slots, HIT.slots, SITE.slots, BAKED.slots
_SITE_WIDTH, _BAKED_WIDTH = SITE.width, BAKED.width
_ZERO, _ONE = f32(0.0), f32(1.0)


@njit(**SMALL)
def _bake_surface(tables, material, point, made, at):
    materials, row = row_after(tables, material, point, M.surface_first, M.surface_count)
    color = base_color_at(tables, materials, row, point)
    metalness, roughness = peek_f32(materials, row + M.metalness), peek_f32(materials, row + M.roughness)
    binding = peek_i32(materials, row + M.metallic_roughness_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        roughness *= t[1]
        metalness *= t[2]
    transmission, tint = peek_f32(materials, row + M.transmission), peek_vector(materials, row + M.tint)
    binding = peek_i32(materials, row + M.transmission_binding)
    if binding >= 0:
        transmission *= fetch(tables, binding, point)[0]
    binding = peek_i32(materials, row + M.transmission_tint_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        tint = mul(tint, (t[0], t[1], t[2]))
    store_vector(made, at + B.color, lerp(color, tint, transmission * (_ONE - metalness)))
    store_f32(made, at + B.metalness, metalness)
    store_f32(made, at + B.roughness, roughness)
    store_f32(made, at + B.transmission, transmission)
    store_f32(made, at + B.coat, peek_f32(materials, row + M.coat))
    store_f32(made, at + B.coat_roughness, peek_f32(materials, row + M.coat_roughness))
    store_f32(made, at + B.fuzz, peek_f32(materials, row + M.fuzz))


@njit(**SMALL)
def _bake_emission(tables, material, point, made, at):
    materials, row = row_after(tables, material, point, M.emission_first, M.emission_count)
    emission = peek_vector(materials, row + M.emission)
    binding = peek_i32(materials, row + M.emission_binding)
    if binding >= 0:
        t = fetch(tables, binding, point)
        emission = mul(emission, (t[0], t[1], t[2]))
    store_vector(made, at + B.emission, emission)


@njit(cache=True, **EXACT)
def bake_sites(scene, scratch, part, sites, made, count):
    """Fill BAKED rows for SITE rows of a part; all but the counts are addresses."""
    ray, hit, tables = scratch + RAY_AT, scratch + HIT_AT, load_u64(scene, C.shading)
    point = hit + POINT_IN_HIT
    set_time(ray, _ZERO)
    set_copy(ray, 0)
    for i in range(count):
        site, at = i * _SITE_WIDTH, i * _BAKED_WIDTH
        facing = load_vector(sites, site + K.facing)
        u, v = load_f32(sites, site + K.u), load_f32(sites, site + K.v)
        resolve_hit(scene, hit, ray, part, int(load_i32(sites, site + K.primitive)), u, v, neg(facing))
        material = peek_i32(hit, H.material)
        store_vector(made, at + B.normal, peek_vector(hit, H.shading))
        store_f32(made, at + B.opacity, opacity_at(tables, material, point))
        _bake_emission(tables, material, point, made, at)
        _bake_surface(tables, material, point, made, at)


def baked(compiled: CompiledScene, key: str, sites: np.ndarray, threads: int) -> np.ndarray:
    """(n,) BAKED of SITE rows (n,) on the part of a key, at the moment when the shutter opens."""
    bound, part = compiled.bare_block(), compiled.part_keys.index(key)
    made = BAKED.zeros(len(sites))

    def run(rows: slice) -> None:
        scratch, own = aligned((SCRATCH_SLOTS,), np.uint64), sites[rows]
        addresses = [address(bound.row), address(scratch)]
        ends = [address(own), address(made[rows])]
        scene, room, read, written = (np.uint64(n) for n in (*addresses, *ends))
        bake_sites(scene, room, part, read, written, len(own))

    edges = np.linspace(0, len(sites), threads + 1).astype(int)
    pieces = [slice(begin, end) for begin, end in pairwise(edges) if end > begin]
    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(run, pieces))
    return made
