"""Light that goes under the skin of a part: a random walk in its volume until it comes out again.

Chiang, Kutz & Burley, "Practical and Controllable Subsurface Scattering for Production Path Tracing", SIGGRAPH
Talks 2016: the boundary is index-matched, light enters and leaves diffusely. What meets another part inside is lost.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_u64, load_vector, peek_i32, peek_vector
from lantern.kernel.random import uniform
from lantern.kernel.vectors import EXACT, SMALL, add, frame_around, max_component, mul, neg, scale, to_world
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.embree import FAR, intersect
from lantern.rays.hit import leave_hit, resolve_hit
from lantern.rays.layout import ANY_RAY, HIT, SCENE
from lantern.rays.placement import PART_WIDTH, body_of
from lantern.surface.diffuse import sample_cosine
from lantern.transport.medium import sample_free_path, sample_phase

C, H, M = SCENE.slots, HIT.slots, MATERIAL.slots
LONGEST_WALK = 1024
_ROULETTE_FROM = 16
_DIMENSIONS_A_STEP = 4
_LOST = (f32(0.0), f32(0.0), f32(0.0))


@njit(**SMALL)
def _walk_albedo(color, g):
    """Albedo of the walk that gives a colour: OpenPBR 1.1, section 3.8 (van de Hulst's similarity)."""
    root = math.sqrt(f32(9.59217) + color * (f32(41.6808) + f32(17.7126) * color))
    s = f32(4.09712) + f32(4.20863) * color - root
    return min(max((f32(1.0) - s * s) / (f32(1.0) - g * s * s), f32(0.0)), f32(1.0))


@njit(**EXACT)
def walk_under(scene, tree, ray, hit, color, key, dimension):
    """Weight rgb of a walk that starts under the HIT record's point; black when the light is lost.

    `color` is what the light that comes out is to have there, where it goes in.

    Leaves the record at the point where the light comes out, its normals inwards. Dimensions from `dimension` on are
    drawn from the hash of `key`: a walk is too long for Sobol points to help.
    """
    row = peek_i32(hit, H.material) * MATERIAL_WIDTH
    materials = load_u64(scene, C.materials)
    extinction, g = load_vector(materials, row + M.walk_extinction), load_f32(materials, row + M.walk_forward)
    albedo = _walk_albedo(color[0], g), _walk_albedo(color[1], g), _walk_albedo(color[2], g)
    own, parts = peek_i32(hit, H.body), load_u64(scene, C.parts)
    down = neg(peek_vector(hit, H.geometric))
    origin = leave_hit(hit, True)
    t, b = frame_around(down)
    direction = to_world(sample_cosine(uniform(key, dimension), uniform(key, dimension + 1)), t, b, down)
    weight = (f32(1.0), f32(1.0), f32(1.0))
    for step in range(LONGEST_WALK):
        d = dimension + 4 + step * _DIMENSIONS_A_STEP
        part, primitive, bu, bv, distance = intersect(tree, ray, origin, direction, f32(0.0), FAR, ANY_RAY)
        # A miss is a long way, not an end: through a hole in the skin only what really goes so far is lost.
        gone, carried = sample_free_path(extinction, weight, distance, uniform(key, d), uniform(key, d + 1))
        weight = mul(weight, carried)
        if gone >= distance:
            if part < 0 or body_of(parts, part * PART_WIDTH, part, ray) != own:
                return _LOST
            resolve_hit(scene, hit, ray, part, primitive, bu, bv, direction)
            return weight
        weight = mul(weight, albedo)
        brightest = max_component(weight)
        if step >= _ROULETTE_FROM:
            # White walks are never cut: the few that stay long would carry huge weights.
            survival = min(brightest, f32(1.0))
            if uniform(key, d + 2) >= survival:
                return _LOST
            weight = scale(weight, f32(1.0) / survival)
        origin = add(origin, scale(direction, gone))
        # One more dimension of this step, with a number of its own for the turn.
        direction, _ = sample_phase(direction, g, uniform(key, d + 3), uniform(key, d + 2 + 0x100000))
    return _LOST
