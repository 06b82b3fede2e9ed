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
from lantern.surface.film import film_over_dielectric
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


@njit(**SMALL)
def _put_fuzz(s, cosine, albedos):
    """(flags, chance) of the fuzz; writes what it leaves to the layers below."""
    fuzz = peek_f32(s, S.fuzz)
    if fuzz <= _ZERO:
        store_f32(s, S.under_fuzz, _ONE)
        return 0, _ZERO
    albedo = look_up_fuzz(albedos, cosine, peek_f32(s, S.fuzz_roughness))
    store_f32(s, S.under_fuzz, _ONE - fuzz * albedo)
    return HAS_FUZZ, fuzz * albedo * luminance(peek_vector(s, S.fuzz_color))


@njit(**SMALL)
def _put_coat(s, lobes, wo, albedos):
    """(flags, albedo towards the view) of the coat; writes what it leaves to the base."""
    coat = peek_f32(s, S.coat)
    if coat <= _ZERO:
        store_vector(s, S.under_coat, _WHITE)
        return 0, _ZERO
    wo_coat = to_coat(s, lobes, wo)
    cosine = min(max(wo_coat[2], f32(1e-3)), _ONE)
    alpha_x, alpha_y = peek_f32(s, S.coat_alpha_x), peek_f32(s, S.coat_alpha_y)
    roughness = peek_f32(s, S.coat_roughness)
    if alpha_x != alpha_y:
        across = width_towards(wo_coat, alpha_x, alpha_y)
        whole = look_up_anisotropic(albedos, across, cosine, roughness, alpha_x, alpha_y)
        roughness = min(math.sqrt(across), _ONE)
        coat *= whole / look_up_mirror(albedos, cosine, roughness)
    albedo = coat * look_up_volume(albedos, REFLECTED, cosine, roughness, peek_f32(s, S.coat_ior))
    store_f32(s, S.coat_masking, _ONE + smith_lambda((wo_coat[0], wo_coat[1], cosine), alpha_x, alpha_y))
    under = scale(_darkening(s, cosine), _ONE - albedo)
    color = peek_vector(s, S.coat_color)
    absorbs = min(color[0], min(color[1], color[2])) < _ONE
    store_i32(s, S.coat_absorbs, 1 if absorbs else 0)
    if absorbs:
        under = mul(under, coat_transmittance(s, cosine))
    store_vector(s, S.under_coat, under)
    return HAS_COAT, albedo


@njit(**EXACT)
def layers_above(s, wo, albedos):
    """(flags, chance of the fuzz, albedo of the coat): writes what fuzz and coat leave of light from the base to wo."""
    lobes = peek_i32(s, S.lobes) & HAS_COAT_FRAME
    has_fuzz, fuzz_chance = _put_fuzz(s, min(wo[2], _ONE), albedos)
    has_coat, coat_albedo = _put_coat(s, lobes, wo, albedos)
    return lobes | has_fuzz | has_coat, fuzz_chance, coat_albedo


@njit(**SMALL)
def _mirror_albedos(s, wo, albedos):
    """(albedo of a perfect mirror with the base's lobe, the same of an isotropic one, its roughness) towards wo."""
    alpha_x, alpha_y = peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)
    roughness, cosine = peek_f32(s, S.roughness), min(wo[2], _ONE)
    if alpha_x == alpha_y:
        whole = look_up_mirror(albedos, cosine, roughness)
        return whole, whole, roughness
    across = width_towards(wo, alpha_x, alpha_y)
    whole = look_up_anisotropic(albedos, across, cosine, roughness, alpha_x, alpha_y)
    roughness = min(math.sqrt(across), _ONE)
    return whole, look_up_mirror(albedos, cosine, roughness), roughness


@njit(**SMALL)
def _put_metal(s, whole):
    """Chance of the metal; writes its gain for the light that its microfacets lose."""
    base = peek_vector(s, S.base_color)
    lost = (_ONE - whole) / whole
    store_vector(s, S.metal_gain, (_ONE + base[0] * lost, _ONE + base[1] * lost, _ONE + base[2] * lost))
    return peek_f32(s, S.metalness) * max(luminance(base), f32(0.05))


@njit(**SMALL)
def _put_glass(s, cosine, whole, albedos):
    """Write the gain of the clear boundary; `whole` is the albedo of both faces of a thin wall."""
    eta = peek_f32(s, S.eta)
    if peek_i32(s, S.thin_walled) == 0:
        if eta >= _ONE:
            whole = look_up_volume(albedos, GLASS_ENTERING, cosine, peek_f32(s, S.roughness), eta)
        else:
            whole = look_up_volume(albedos, GLASS_LEAVING, cosine, peek_f32(s, S.roughness), _ONE / eta)
    store_f32(s, S.glass_gain, _ONE / whole)


@njit(**SMALL)
def _gloss_albedo(s, cosine, roughness, correction, albedos, films):
    """RGB that the gloss over the opaque base reflects in all; `correction` is of an anisotropic lobe."""
    ratio, film = peek_f32(s, S.ratio), peek_i32(s, S.film)
    single = look_up_volume(albedos, REFLECTED, cosine, roughness, ratio) * correction
    if film < 0:
        return single, single, single
    # The table holds the bare boundary: scaled by how the film changes it towards the view.
    bare = max(fresnel_dielectric(cosine, ratio), f32(1e-4))
    wet = scale(film_over_dielectric(films, film, cosine), single / bare)
    return min(wet[0], _ONE), min(wet[1], _ONE), min(wet[2], _ONE)


@njit(**SMALL)
def _put_spread(s, cosine, opaque, reflected):
    """(flags, chances of diffuse light, of light through a thin wall, of light under the surface) below the gloss."""
    left = (opaque * (_ONE - reflected[0]), opaque * (_ONE - reflected[1]), opaque * (_ONE - reflected[2]))
    store_vector(s, S.diffuse_left, left)
    share, spread = peek_f32(s, S.subsurface), luminance(left)
    lobes, diffuse, through, subsurface = 0, _ZERO, _ZERO, _ZERO
    if share < _ONE:
        lobes = HAS_DIFFUSE
        diffuse = spread * (_ONE - share) * luminance(peek_vector(s, S.base_color))
        rough = peek_f32(s, S.diffuse_roughness)
        store_f32(s, S.diffuse_lost, _ONE - fujii_albedo(cosine, rough) if rough > _ZERO else _ZERO)
    if share > _ZERO:
        inside = spread * share * luminance(peek_vector(s, S.subsurface_color))
        if peek_i32(s, S.thin_walled) != 0:
            lobes |= HAS_THROUGH | HAS_DIFFUSE
            forward = peek_f32(s, S.subsurface_forward)
            through = inside * forward
            diffuse += inside * (_ONE - forward)
        else:
            lobes |= HAS_SUBSURFACE
            subsurface = inside
    return lobes, diffuse, through, subsurface


@njit(**EXACT)
def prepare(s, wo, albedos, films):
    """Complete the record at address `s` for wo (wo.z > 0); `albedos`, `films` are addresses of their tables.

    Chances sum to 1, or to 0 if the surface is black.
    """
    cosine = min(wo[2], _ONE)
    metalness, transmission = peek_f32(s, S.metalness), peek_f32(s, S.transmission)
    alpha_x, alpha_y = peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)
    lobes, fuzz_chance, coat_albedo = layers_above(s, wo, albedos)
    if peek_i32(s, S.film) >= 0:
        lobes |= HAS_FILM
    mirror_albedo, isotropic_albedo, roughness = _ONE, _ONE, peek_f32(s, S.roughness)
    if metalness > _ZERO or peek_i32(s, S.thin_walled) != 0 or alpha_x != alpha_y:
        mirror_albedo, isotropic_albedo, roughness = _mirror_albedos(s, wo, albedos)
    mirror_chance = _ZERO
    if metalness > _ZERO:
        lobes |= HAS_METAL
        mirror_chance = _put_metal(s, mirror_albedo)

    dielectric = _ONE - metalness
    glass_chance, diffuse_chance, through_chance, subsurface_chance = dielectric * transmission, _ZERO, _ZERO, _ZERO
    if dielectric > _ZERO:
        lobes |= HAS_DIELECTRIC
        if transmission > _ZERO:
            lobes |= HAS_GLASS
            _put_glass(s, cosine, mirror_albedo, albedos)
        opaque = dielectric * (_ONE - transmission)
        if opaque > _ZERO:
            reflected = _gloss_albedo(s, cosine, roughness, mirror_albedo / isotropic_albedo, albedos, films)
            mirror_chance += opaque * luminance(reflected) * luminance(peek_vector(s, S.specular_color))
            below, diffuse_chance, through_chance, subsurface_chance = _put_spread(s, cosine, opaque, reflected)
            lobes |= below
    store_i32(s, S.lobes, lobes)
    store_f32(s, S.masking, _ONE + smith_lambda(wo, alpha_x, alpha_y))

    under_fuzz = peek_f32(s, S.under_fuzz)
    under = under_fuzz * max_component(peek_vector(s, S.under_coat))
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
