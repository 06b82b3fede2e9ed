"""From parameters and the view to layer scales and chances: the part of a surface that light directions share.

    fuzz over coat over mix(mix(diffuse or subsurface under gloss, glass; transmission), metal; metalness)

Layers are albedo-scaled (OpenPBR 1.1, section 3.2): what the upper one reflects in all for wo, the base
does not get. Lossy microfacet lobes are divided by their albedo (Turquin 2019). Anisotropic lobes use the
tables at the root mean square of their alphas, which is exact for neither: see
docs/verification.md for the error that leaves.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import peek_f32, peek_i32, peek_vector, store_f32, store_i32, store_vector
from lantern.kernel.vectors import EXACT, SMALL, dot, lerp, luminance, max_component, mul, scale
from lantern.surface.albedo import (
    GLASS_ENTERING,
    GLASS_LEAVING,
    REFLECTED,
    look_up_anisotropic,
    look_up_fuzz,
    look_up_mirror,
    look_up_volume,
    width_towards,
)
from lantern.surface.diffuse import fujii_albedo
from lantern.surface.film import DIELECTRIC, film_reflectance
from lantern.surface.fresnel import fresnel_dielectric
from lantern.surface.ggx import smith_lambda
from lantern.surface.record import (
    HAS_COAT,
    HAS_COAT_FRAME,
    HAS_DIELECTRIC,
    HAS_DIFFUSE,
    HAS_FILM,
    HAS_FUZZ,
    HAS_GLASS,
    HAS_METAL,
    HAS_SUBSURFACE,
    HAS_THROUGH,
    SURFACE,
)

S = SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_WHITE = (_ONE, _ONE, _ONE)


@njit(**SMALL)
def to_coat(s, lobes, v):
    """A direction of the base's local frame in the coat's."""
    if lobes & HAS_COAT_FRAME == 0:
        return v
    return dot(v, peek_vector(s, S.coat_x)), dot(v, peek_vector(s, S.coat_y)), dot(v, peek_vector(s, S.coat_z))


@njit(**SMALL)
def coat_transmittance(s, cosine):
    """RGB share that the coat's colour lets through in one direction: half of `coat_color` at normal incidence.

    OpenPBR 1.1, section 3.10: absorption follows the refracted path, so it deepens towards the edge.
    """
    color = peek_vector(s, S.coat_color)
    ior = peek_f32(s, S.coat_ior)
    refracted = math.sqrt(max(_ONE - (_ONE - cosine * cosine) / (ior * ior), f32(1e-4)))
    k = f32(0.5) / refracted
    weight = peek_f32(s, S.coat)
    through = (
        math.pow(max(color[0], f32(1e-6)), k),
        math.pow(max(color[1], f32(1e-6)), k),
        math.pow(max(color[2], f32(1e-6)), k),
    )
    return lerp(_WHITE, through, weight)


@njit(**SMALL)
def _darkening(s, cosine):
    """RGB factor of the light that goes round between coat and base (OpenPBR 1.1, section 3.10.2)."""
    ior = peek_f32(s, S.coat_ior)
    # Hemispherical mean of Fresnel's reflectance: Kulla & Conty, "Revisiting Physically Based Shading", 2017.
    mean = (ior - _ONE) / (f32(4.08567) + f32(1.00071) * ior)
    rough = _ONE - (_ONE - mean) / (ior * ior)
    smooth = fresnel_dielectric(cosine, ior)
    metalness, clear = peek_f32(s, S.metalness), peek_f32(s, S.transmission)
    base_roughness = lerp((_ONE, _ZERO, _ZERO), (peek_f32(s, S.roughness), _ZERO, _ZERO), metalness)[0]
    inside = smooth + (rough - smooth) * base_roughness
    base = peek_vector(s, S.base_color)
    matte = lerp(base, peek_vector(s, S.subsurface_color), peek_f32(s, S.subsurface))
    dielectric = scale(matte, _ONE - clear)
    albedo = lerp(dielectric, scale(base, peek_f32(s, S.specular_weight)), metalness)
    rest = _ONE - inside
    whole = (
        rest / (_ONE - albedo[0] * inside),
        rest / (_ONE - albedo[1] * inside),
        rest / (_ONE - albedo[2] * inside),
    )
    return lerp(_WHITE, whole, peek_f32(s, S.coat) * peek_f32(s, S.coat_darkening))


@njit(**EXACT)
def prepare(s, wo, albedos, films):
    """Complete the record at address `s` for wo (wo.z > 0); `albedos`, `films` are addresses of their tables.

    Chances sum to 1, or to 0 if the surface is black.
    """
    cosine = min(wo[2], _ONE)
    metalness, transmission = peek_f32(s, S.metalness), peek_f32(s, S.transmission)
    thin = peek_i32(s, S.thin_walled) != 0
    film = peek_i32(s, S.film)
    roughness = peek_f32(s, S.roughness)
    ratio, eta = peek_f32(s, S.ratio), peek_f32(s, S.eta)
    base = peek_vector(s, S.base_color)
    lobes = peek_i32(s, S.lobes) & HAS_COAT_FRAME
    if film >= 0:
        lobes |= HAS_FILM

    fuzz_chance, under_fuzz = _ZERO, _ONE
    fuzz = peek_f32(s, S.fuzz)
    if fuzz > _ZERO:
        lobes |= HAS_FUZZ
        albedo = look_up_fuzz(albedos, cosine, peek_f32(s, S.fuzz_roughness))
        under_fuzz = _ONE - fuzz * albedo
        fuzz_chance = fuzz * albedo * luminance(peek_vector(s, S.fuzz_color))
    store_f32(s, S.under_fuzz, under_fuzz)

    coat_albedo = _ZERO
    under_coat = _WHITE
    coat = peek_f32(s, S.coat)
    if coat > _ZERO:
        lobes |= HAS_COAT
        wo_coat = to_coat(s, lobes, wo)
        coat_cosine = min(max(wo_coat[2], f32(1e-3)), _ONE)
        alpha_x, alpha_y = peek_f32(s, S.coat_alpha_x), peek_f32(s, S.coat_alpha_y)
        coat_roughness = peek_f32(s, S.coat_roughness)
        if alpha_x != alpha_y:
            across = width_towards(wo_coat, alpha_x, alpha_y)
            whole = look_up_anisotropic(albedos, across, coat_cosine, coat_roughness, alpha_x, alpha_y)
            coat_roughness = min(math.sqrt(across), _ONE)
            coat *= whole / look_up_mirror(albedos, coat_cosine, coat_roughness)
        coat_albedo = coat * look_up_volume(albedos, REFLECTED, coat_cosine, coat_roughness, peek_f32(s, S.coat_ior))
        store_f32(s, S.coat_masking, _ONE + smith_lambda((wo_coat[0], wo_coat[1], coat_cosine), alpha_x, alpha_y))
        under_coat = scale(_darkening(s, coat_cosine), _ONE - coat_albedo)
        color = peek_vector(s, S.coat_color)
        absorbs = min(color[0], min(color[1], color[2])) < _ONE
        store_i32(s, S.coat_absorbs, 1 if absorbs else 0)
        if absorbs:
            under_coat = mul(under_coat, coat_transmittance(s, coat_cosine))
    store_vector(s, S.under_coat, under_coat)

    alpha_x, alpha_y = peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)
    anisotropic = alpha_x != alpha_y
    mirror_albedo = isotropic_albedo = _ONE
    if metalness > _ZERO or thin or anisotropic:
        if anisotropic:
            across = width_towards(wo, alpha_x, alpha_y)
            mirror_albedo = look_up_anisotropic(albedos, across, cosine, roughness, alpha_x, alpha_y)
            roughness = min(math.sqrt(across), _ONE)  # towards the view
        isotropic_albedo = look_up_mirror(albedos, cosine, roughness)
        if not anisotropic:
            mirror_albedo = isotropic_albedo
    mirror_chance = _ZERO
    if metalness > _ZERO:
        lobes |= HAS_METAL
        lost = (_ONE - mirror_albedo) / mirror_albedo
        store_vector(s, S.metal_gain, (_ONE + base[0] * lost, _ONE + base[1] * lost, _ONE + base[2] * lost))
        mirror_chance = metalness * max(luminance(base), f32(0.05))

    glass_chance, diffuse_chance, through_chance, subsurface_chance = _ZERO, _ZERO, _ZERO, _ZERO
    dielectric = _ONE - metalness
    if dielectric > _ZERO:
        lobes |= HAS_DIELECTRIC
        glass_chance = dielectric * transmission
        if transmission > _ZERO:
            lobes |= HAS_GLASS
            mean_roughness = peek_f32(s, S.roughness)
            whole = mirror_albedo
            if not thin and eta >= _ONE:
                whole = look_up_volume(albedos, GLASS_ENTERING, cosine, mean_roughness, eta)
            elif not thin:
                whole = look_up_volume(albedos, GLASS_LEAVING, cosine, mean_roughness, _ONE / eta)
            store_f32(s, S.glass_gain, _ONE / whole)
        opaque = dielectric * (_ONE - transmission)
        if opaque > _ZERO:
            single = look_up_volume(albedos, REFLECTED, cosine, roughness, ratio) * mirror_albedo / isotropic_albedo
            reflected = (single, single, single)
            if film >= 0:
                # The table holds the bare boundary: scaled by how the film changes it towards the view.
                bare = max(fresnel_dielectric(cosine, ratio), f32(1e-4))
                wet = scale(film_reflectance(films, film, DIELECTRIC, cosine), single / bare)
                reflected = (min(wet[0], _ONE), min(wet[1], _ONE), min(wet[2], _ONE))
            left = (opaque * (_ONE - reflected[0]), opaque * (_ONE - reflected[1]), opaque * (_ONE - reflected[2]))
            store_vector(s, S.diffuse_left, left)
            share = peek_f32(s, S.subsurface)
            spread = luminance(left)
            mirror_chance += opaque * luminance(reflected) * luminance(peek_vector(s, S.specular_color))
            if share < _ONE:
                lobes |= HAS_DIFFUSE
                diffuse_chance = spread * (_ONE - share) * luminance(base)
                rough = peek_f32(s, S.diffuse_roughness)
                store_f32(s, S.diffuse_lost, _ONE - fujii_albedo(cosine, rough) if rough > _ZERO else _ZERO)
            if share > _ZERO:
                inside = spread * share * luminance(peek_vector(s, S.subsurface_color))
                if thin:
                    lobes |= HAS_THROUGH | HAS_DIFFUSE
                    forward = peek_f32(s, S.subsurface_forward)
                    through_chance = inside * forward
                    diffuse_chance += inside * (_ONE - forward)
                else:
                    lobes |= HAS_SUBSURFACE
                    subsurface_chance = inside
    store_i32(s, S.lobes, lobes)
    store_f32(s, S.masking, _ONE + smith_lambda(wo, alpha_x, alpha_y))

    under = under_fuzz * max_component(under_coat)
    coat_chance = under_fuzz * coat_albedo
    total = fuzz_chance + coat_chance
    total += under * (mirror_chance + glass_chance + diffuse_chance + through_chance + subsurface_chance)
    norm = _ONE / total if total > _ZERO else _ZERO
    store_f32(s, S.chance_fuzz, fuzz_chance * norm)
    store_f32(s, S.chance_coat, coat_chance * norm)
    store_f32(s, S.chance_mirror, under * mirror_chance * norm)
    store_f32(s, S.chance_glass, under * glass_chance * norm)
    store_f32(s, S.chance_diffuse, under * diffuse_chance * norm)
    store_f32(s, S.chance_through, under * through_chance * norm)
    store_f32(s, S.chance_subsurface, under * subsurface_chance * norm)
