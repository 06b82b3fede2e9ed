"""The value and the sampling density of a prepared surface for a pair of directions, all lobes at once."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI, INV_TWO_PI
from lantern.kernel.memory import peek_f32, peek_i32, peek_vector, store_vector
from lantern.kernel.vectors import EXACT, SMALL, add, dot, luminance, mul, normalize, scale
from lantern.surface.diffuse import diffuse_value
from lantern.surface.film import film_over_dielectric, film_over_metal
from lantern.surface.fresnel import fresnel_dielectric, fresnel_metal
from lantern.surface.fuzz import fuzz_value
from lantern.surface.ggx import ggx_density, smith_lambda
from lantern.surface.prepare import coat_transmittance, to_coat
from lantern.surface.record import (
    HAS_COAT,
    HAS_DIELECTRIC,
    HAS_DIFFUSE,
    HAS_FILM,
    HAS_FUZZ,
    HAS_GLASS,
    HAS_METAL,
    HAS_THROUGH,
    SURFACE,
)
from lantern.surface.transmission import refraction_half, refraction_jacobian

S = SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_BLACK, _WHITE = (_ZERO, _ZERO, _ZERO), (_ONE, _ONE, _ONE)


@njit(**SMALL)
def _thin_wall(f):
    """Reflectance of both faces of a thin sheet, inter-reflections summed: 2R / (1 + R)."""
    return f32(2.0) * f / (_ONE + f)


@njit(**SMALL)
def glass_reflectance(s, lobes, films, o_dot_h, eta, thin):
    """RGB share that a clear boundary (or thin wall) reflects at a microfacet; `sample` splits by its luminance."""
    if lobes & HAS_FILM == 0:
        f = fresnel_dielectric(o_dot_h, eta)
        if thin:
            f = _thin_wall(f)
        return f, f, f
    outer = o_dot_h
    if eta < _ONE:
        # The table is over the angle outside; beyond total reflection there is none.
        square = _ONE - (_ONE - o_dot_h * o_dot_h) / (eta * eta)
        if square <= _ZERO:
            return _WHITE
        outer = square ** f32(0.5)
    f = film_over_dielectric(films, peek_i32(s, S.film), outer)
    if thin:
        return _thin_wall(f[0]), _thin_wall(f[1]), _thin_wall(f[2])
    return f


@njit(**SMALL)
def _reflection(s, lobes, wo, wi, films):
    """Base lobes on the side of the view: (rgb, its diffuse part, pdf)."""
    value, diffuse, pdf = _BLACK, _BLACK, _ZERO
    if lobes & (HAS_METAL | HAS_DIELECTRIC):
        h = normalize(add(wo, wi))
        o_dot_h = dot(wo, h)
        alpha_x, alpha_y = peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)
        density = ggx_density(h, alpha_x, alpha_y) * f32(0.25) / wo[2]
        masking = peek_f32(s, S.masking)
        metalness = peek_f32(s, S.metalness)
        chance = peek_f32(s, S.chance_mirror)
        if lobes & HAS_DIELECTRIC:
            transmission = peek_f32(s, S.transmission)
            dielectric = _ONE - metalness
            if transmission < _ONE:
                # The opaque share is lit from outside whichever side is seen; only the glass knows an inside.
                fresnel = fresnel_dielectric(o_dot_h, peek_f32(s, S.ratio))
                reflected = (fresnel, fresnel, fresnel)
                if lobes & HAS_FILM:
                    reflected = film_over_dielectric(films, peek_i32(s, S.film), o_dot_h)
                value = scale(reflected, dielectric * (_ONE - transmission))
            if lobes & HAS_GLASS:
                thin = peek_i32(s, S.thin_walled) != 0
                reflected = glass_reflectance(s, lobes, films, o_dot_h, peek_f32(s, S.eta), thin)
                value = add(value, scale(reflected, dielectric * transmission * peek_f32(s, S.glass_gain)))
                chance += peek_f32(s, S.chance_glass) * luminance(reflected)
            if peek_i32(s, S.entering) != 0:
                value = mul(value, peek_vector(s, S.specular_color))
        if lobes & HAS_METAL:
            base = peek_vector(s, S.base_color)
            if lobes & HAS_FILM:
                reflected = film_over_metal(films, peek_i32(s, S.film), base, o_dot_h)
            else:
                reflected = fresnel_metal(o_dot_h, base, peek_vector(s, S.specular_color))
            gain = scale(peek_vector(s, S.metal_gain), metalness * peek_f32(s, S.specular_weight))
            value = add(value, mul(reflected, gain))
        value = scale(value, density / (masking + smith_lambda(wi, alpha_x, alpha_y)))
        pdf = density / masking * chance
    if lobes & HAS_DIFFUSE:
        share = peek_f32(s, S.subsurface)
        rough = peek_f32(s, S.diffuse_roughness)
        diffuse = diffuse_value(peek_vector(s, S.base_color), rough, peek_f32(s, S.diffuse_lost), wo, wi)
        diffuse = scale(diffuse, _ONE - share)
        if lobes & HAS_THROUGH:
            back = share * (_ONE - peek_f32(s, S.subsurface_forward)) * INV_PI
            diffuse = add(diffuse, scale(peek_vector(s, S.subsurface_color), back))
        diffuse = scale(mul(diffuse, peek_vector(s, S.diffuse_left)), wi[2])
        value = add(value, diffuse)
        pdf += peek_f32(s, S.chance_diffuse) * INV_PI * wi[2]
    return value, diffuse, pdf


@njit(**SMALL)
def _refraction(s, lobes, wo, wi, films):
    """Base lobes on the far side: (rgb, its diffuse part, pdf)."""
    value, diffuse, pdf = _BLACK, _BLACK, _ZERO
    if lobes & HAS_GLASS:
        alpha_x, alpha_y = peek_f32(s, S.alpha_x), peek_f32(s, S.alpha_y)
        eta = peek_f32(s, S.eta)
        masking = peek_f32(s, S.masking)
        thin = peek_i32(s, S.thin_walled) != 0
        density, o_dot_h = _ZERO, _ZERO
        if thin:
            h = normalize(add(wo, (wi[0], wi[1], -wi[2])))
            o_dot_h = dot(wo, h)
            density = ggx_density(h, alpha_x, alpha_y) * f32(0.25) / wo[2]
        else:
            h = refraction_half(wo, wi, eta)
            o_dot_h, i_dot_h = dot(wo, h), dot(wi, h)
            if o_dot_h > _ZERO and i_dot_h < _ZERO:
                density = ggx_density(h, alpha_x, alpha_y) * o_dot_h / wo[2]
                density *= refraction_jacobian(o_dot_h, i_dot_h, eta)
        if density > _ZERO:
            reflected = glass_reflectance(s, lobes, films, o_dot_h, eta, thin)
            share = (_ONE - peek_f32(s, S.metalness)) * peek_f32(s, S.transmission) * peek_f32(s, S.glass_gain)
            share *= density / (masking + smith_lambda(wi, alpha_x, alpha_y))
            tint = peek_vector(s, S.tint)
            value = (
                tint[0] * (_ONE - reflected[0]) * share,
                tint[1] * (_ONE - reflected[1]) * share,
                tint[2] * (_ONE - reflected[2]) * share,
            )
            pdf = density / masking * peek_f32(s, S.chance_glass) * (_ONE - luminance(reflected))
    if lobes & HAS_THROUGH:
        through = peek_f32(s, S.subsurface) * peek_f32(s, S.subsurface_forward) * INV_PI * -wi[2]
        diffuse = scale(mul(peek_vector(s, S.subsurface_color), peek_vector(s, S.diffuse_left)), through)
        value = add(value, diffuse)
        pdf += peek_f32(s, S.chance_through) * INV_PI * -wi[2]
    return value, diffuse, pdf


@njit(**EXACT)
def evaluate(s, wo, wi, films):
    """(f·|cos θi| rgb, pdf [1/sr]) of the whole mixture. Light that enters a subsurface is not part of it."""
    lobes = peek_i32(s, S.lobes)
    if wi[2] == _ZERO:
        return _BLACK, _ZERO
    above = wi[2] > _ZERO
    if above:
        value, diffuse, pdf = _reflection(s, lobes, wo, wi, films)
    else:
        value, diffuse, pdf = _refraction(s, lobes, wo, wi, films)
    under = peek_f32(s, S.under_fuzz)
    if lobes & HAS_COAT:
        left = peek_vector(s, S.under_coat)
        wi_coat = to_coat(s, lobes, wi)
        if peek_i32(s, S.coat_absorbs) != 0:
            left = mul(left, coat_transmittance(s, min(max(abs(wi_coat[2]), f32(1e-3)), _ONE)))
        value, diffuse = mul(value, left), mul(diffuse, left)
        wo_coat = to_coat(s, lobes, wo)
        if above and wi_coat[2] > _ZERO and wo_coat[2] > _ZERO:
            wo_coat = (wo_coat[0], wo_coat[1], max(wo_coat[2], f32(1e-3)))
            h = normalize(add(wo_coat, wi_coat))
            alpha_x, alpha_y = peek_f32(s, S.coat_alpha_x), peek_f32(s, S.coat_alpha_y)
            density = ggx_density(h, alpha_x, alpha_y) * f32(0.25) / wo_coat[2]
            masking = peek_f32(s, S.coat_masking)
            gloss = peek_f32(s, S.coat) * fresnel_dielectric(dot(wo_coat, h), peek_f32(s, S.coat_ior))
            gloss *= density / (masking + smith_lambda(wi_coat, alpha_x, alpha_y))
            value = add(value, (gloss, gloss, gloss))
            pdf += peek_f32(s, S.chance_coat) * density / masking
    if lobes & HAS_FUZZ:
        value, diffuse = scale(value, under), scale(diffuse, under)
        if above:
            f = peek_f32(s, S.fuzz) * fuzz_value(peek_f32(s, S.fuzz_roughness), wo, wi)
            fibres = scale(peek_vector(s, S.fuzz_color), f)
            value, diffuse = add(value, fibres), add(diffuse, fibres)
            pdf += peek_f32(s, S.chance_fuzz) * INV_TWO_PI
    store_vector(s, S.diffuse_part, diffuse)
    return value, pdf
