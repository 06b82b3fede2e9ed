"""The surface at a point: a first part of OpenPBR Surface 1.1, as a mixture of microfacet and diffuse lobes.

    coat over mix(mix(glossy-diffuse, glass, transmission), metal, metalness)

Layers are albedo-scaled (OpenPBR 1.1, section 3.2): what the upper one reflects in all for wo, the base
does not get. `prepare` computes what depends on wo alone, `evaluate` gives f·|cos| and the pdf of the whole
mixture, `sample` picks a direction; its weight is evaluate's, so the two cannot disagree.
"""

from typing import NamedTuple

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI
from lantern.kernel.vectors import SMALL, add, dot, luminance, max_component, mul, normalize, scale, sub
from lantern.surface.albedo import GLASS_ENTERING, GLASS_LEAVING, REFLECTED, look_up_mirror, look_up_volume
from lantern.surface.diffuse import sample_cosine
from lantern.surface.fresnel import fresnel_dielectric, fresnel_metal
from lantern.surface.ggx import ggx_density, sample_visible_normal, smith_lambda
from lantern.surface.transmission import refract, refraction_half, refraction_jacobian

SMOOTH_ALPHA = f32(0.02)
"""Below this a lobe is so narrow that aiming at lights is a waste: only the lobe itself is sampled."""


class Surface(NamedTuple):
    """OpenPBR parameters at one point, textures applied. Colours are linear RGB."""

    base_color: tuple  # metal reflectance or diffuse albedo [0, 1]
    metalness: float
    edge_color: tuple  # specular_color: F82 tint of metal [0, 1]
    roughness: float  # √alpha [0, 1]
    alpha: float
    ior: float  # n_inside / n_outside, > 1
    entering: bool  # wo is outside
    transmission: float
    transmission_color: tuple
    thin_walled: bool
    coat: float
    coat_roughness: float
    coat_alpha: float
    coat_ior: float
    coat_color: tuple
    emission: tuple  # cd/m²


class Mixture(NamedTuple):
    """What depends on the surface and wo alone: layer scales and the chances of the lobes (sum 1, or 0 if black)."""

    base_scale: tuple
    metal_gain: tuple
    glass_gain: float
    diffuse_scale: float
    eta: float  # n_beyond / n_incident
    masking: float  # 1 + Λ(wo)
    coat_masking: float
    chance_coat: float
    chance_mirror: float
    chance_glass: float
    chance_diffuse: float


@njit(**SMALL)
def prepare(s, wo, albedo_block):
    """Layer scales and lobe chances for wo (wo.z > 0)."""
    cosine = min(wo[2], f32(1.0))
    one = f32(1.0)
    coat_albedo = f32(0.0)
    base_scale = (one, one, one)
    if s.coat > f32(0.0):
        coat_albedo = s.coat * look_up_volume(albedo_block, REFLECTED, cosine, s.coat_roughness, s.coat_ior)
        left = one - coat_albedo
        base_scale = (
            left * (one + s.coat * (s.coat_color[0] - one)),
            left * (one + s.coat * (s.coat_color[1] - one)),
            left * (one + s.coat * (s.coat_color[2] - one)),
        )

    metal_gain = (one, one, one)
    mirror_albedo = one
    if s.metalness > f32(0.0) or s.thin_walled:
        mirror_albedo = look_up_mirror(albedo_block, cosine, s.roughness)
        lost = (one - mirror_albedo) / mirror_albedo
        metal_gain = add((one, one, one), scale(s.base_color, lost))

    eta = s.ior
    glass_gain = f32(0.0)
    dielectric = one - s.metalness
    reflected = f32(0.0)
    if dielectric > f32(0.0):
        reflected = look_up_volume(albedo_block, REFLECTED, cosine, s.roughness, s.ior)
        if s.transmission > f32(0.0):
            if s.thin_walled:
                glass_gain = one / mirror_albedo
            elif s.entering:
                glass_gain = one / look_up_volume(albedo_block, GLASS_ENTERING, cosine, s.roughness, s.ior)
            else:
                eta = one / s.ior
                glass_gain = one / look_up_volume(albedo_block, GLASS_LEAVING, cosine, s.roughness, s.ior)
    opaque = dielectric * (one - s.transmission)
    diffuse_scale = opaque * (one - reflected)

    base_luminance = luminance(s.base_color)
    under = max_component(base_scale)
    coat = coat_albedo
    mirror = under * (s.metalness * max(base_luminance, f32(0.05)) + opaque * reflected)
    glass = under * dielectric * s.transmission
    diffuse = under * diffuse_scale * base_luminance
    total = coat + mirror + glass + diffuse
    norm = one / total if total > f32(0.0) else f32(0.0)
    return Mixture(
        base_scale,
        metal_gain,
        glass_gain,
        diffuse_scale,
        eta,
        one + smith_lambda(wo, s.alpha),
        one + smith_lambda(wo, s.coat_alpha) if s.coat > f32(0.0) else one,
        coat * norm,
        mirror * norm,
        glass * norm,
        diffuse * norm,
    )


@njit(**SMALL)
def _thin_wall_reflectance(fresnel):
    """Reflectance of both faces of a thin sheet, inter-reflections summed: 2R / (1 + R)."""
    return f32(2.0) * fresnel / (f32(1.0) + fresnel)


@njit(**SMALL)
def _evaluate_reflection(s, m, wo, wi):
    h = normalize(add(wo, wi))
    o_dot_h = dot(wo, h)
    quarter = f32(0.25) / wo[2]
    density = ggx_density(h, s.alpha) * quarter
    shape = density / (m.masking + smith_lambda(wi, s.alpha))
    shape_pdf = density / m.masking

    mirror = f32(0.0)
    glass_share = f32(0.0)
    dielectric = f32(1.0) - s.metalness
    if dielectric > f32(0.0):
        # The opaque share is lit from outside whichever side is seen; only the glass knows an inside.
        fresnel = fresnel_dielectric(o_dot_h, s.ior)
        mirror = dielectric * (f32(1.0) - s.transmission) * fresnel
        if s.transmission > f32(0.0):
            if not s.entering:
                fresnel = fresnel_dielectric(o_dot_h, m.eta)
            glass_share = _thin_wall_reflectance(fresnel) if s.thin_walled else fresnel
            mirror += dielectric * s.transmission * glass_share * m.glass_gain
    value = (mirror, mirror, mirror)
    if s.metalness > f32(0.0):
        metal = mul(fresnel_metal(o_dot_h, s.base_color, s.edge_color), m.metal_gain)
        value = add(value, scale(metal, s.metalness))
    value = scale(value, shape)
    pdf = shape_pdf * (m.chance_mirror + m.chance_glass * glass_share)

    if m.diffuse_scale > f32(0.0):
        value = add(value, scale(s.base_color, m.diffuse_scale * INV_PI * wi[2]))
        pdf += m.chance_diffuse * INV_PI * wi[2]
    value = mul(value, m.base_scale)

    if s.coat > f32(0.0):
        coat_density = ggx_density(h, s.coat_alpha) * quarter
        fresnel = fresnel_dielectric(o_dot_h, s.coat_ior)
        coat = s.coat * fresnel * coat_density / (m.coat_masking + smith_lambda(wi, s.coat_alpha))
        value = add(value, (coat, coat, coat))
        pdf += m.chance_coat * coat_density / m.coat_masking
    return value, pdf


@njit(**SMALL)
def _evaluate_refraction(s, m, wo, wi):
    share = (f32(1.0) - s.metalness) * s.transmission
    zero = f32(0.0)
    if share <= zero:
        return (zero, zero, zero), zero
    one = f32(1.0)
    if s.thin_walled:
        mirrored = (wi[0], wi[1], -wi[2])
        h = normalize(add(wo, mirrored))
        through = one - _thin_wall_reflectance(fresnel_dielectric(dot(wo, h), m.eta))
        base = ggx_density(h, s.alpha) * through * f32(0.25) / wo[2]
    else:
        h = refraction_half(wo, wi, m.eta)
        o_dot_h, i_dot_h = dot(wo, h), dot(wi, h)
        if o_dot_h <= zero or i_dot_h >= zero:
            return (zero, zero, zero), zero
        through = one - fresnel_dielectric(o_dot_h, m.eta)
        jacobian = refraction_jacobian(o_dot_h, i_dot_h, m.eta)
        base = ggx_density(h, s.alpha) * through * o_dot_h * jacobian / wo[2]
    value = base * share * m.glass_gain / (m.masking + smith_lambda(wi, s.alpha))
    pdf = base * m.chance_glass / m.masking
    return mul(scale(s.transmission_color, value), m.base_scale), pdf


@njit(**SMALL)
def evaluate(s, m, wo, wi):
    """(f·|cos θi| rgb, pdf [1/sr]) of the whole mixture for a pair of directions."""
    if wi[2] > f32(0.0):
        return _evaluate_reflection(s, m, wo, wi)
    if wi[2] < f32(0.0):
        return _evaluate_refraction(s, m, wo, wi)
    return (f32(0.0), f32(0.0), f32(0.0)), f32(0.0)


@njit(**SMALL)
def sample(s, m, wo, u_lobe, u1, u2):
    """A direction drawn from the mixture; a zero vector when the microfacet points into the surface."""
    nothing = (f32(0.0), f32(0.0), f32(0.0))
    if u_lobe < m.chance_diffuse:
        return sample_cosine(u1, u2)
    u = u_lobe - m.chance_diffuse
    if u < m.chance_coat:
        h = sample_visible_normal(wo, s.coat_alpha, u1, u2)
        wi = sub(scale(h, f32(2.0) * dot(wo, h)), wo)
        return wi if wi[2] > f32(0.0) else nothing
    u -= m.chance_coat
    h = sample_visible_normal(wo, s.alpha, u1, u2)
    o_dot_h = dot(wo, h)
    wi = sub(scale(h, f32(2.0) * o_dot_h), wo)
    if u < m.chance_glass:
        fresnel = fresnel_dielectric(o_dot_h, m.eta)
        if s.thin_walled:
            fresnel = _thin_wall_reflectance(fresnel)
        if u >= fresnel * m.chance_glass:
            if s.thin_walled:
                return (wi[0], wi[1], -wi[2]) if wi[2] > f32(0.0) else nothing
            possible, wt = refract(wo, h, m.eta)
            return wt if possible and wt[2] < f32(0.0) else nothing
    return wi if wi[2] > f32(0.0) else nothing


@njit(**SMALL)
def is_smooth(s):
    """Whether every lobe is too narrow for light sampling to help."""
    rough = s.alpha > SMOOTH_ALPHA
    diffuse = (f32(1.0) - s.metalness) * (f32(1.0) - s.transmission) > f32(0.001)
    rough_coat = s.coat > f32(0.0) and s.coat_alpha > SMOOTH_ALPHA
    return not (rough or diffuse or rough_coat)
