"""Surfaces of the second opinion: OpenPBR's lobes written again from the standard and its papers.

In: materials of a document, textures. Out: where paths go on and what they keep. Lobes: diffuse (Portsmouth, Kutz &
Hill, "EON", JCGT 2025), GGX reflection and refraction (Walter et al. 2007) sampled by visible normals (Heitz, "Sampling
the GGX Distribution of Visible Normals", JCGT 7(4), 2018), F82-tint metal (OpenPBR 1.1, section 3.6.2), thin walls,
opacity. Albedos for layering and lost energy (Turquin 2019) are measured here by these samplers. Radiance is carried as
L / n².
"""

from dataclasses import dataclass

import numpy as np

_GRID, _DRAWS = 24, 6000


def frame(n):
    """Two unit vectors (m, 3) across unit n."""
    other = np.where(np.abs(n[:, :1]) > 0.9, [[0.0, 1.0, 0.0]], [[1.0, 0.0, 0.0]])
    t = np.cross(other, n)
    t /= np.linalg.norm(t, axis=1, keepdims=True)
    return t, np.cross(n, t)


def sampled_cosine(n, generator):
    """Directions of density cos θ / π about n."""
    r, turn = np.sqrt(generator.random(len(n))), generator.random(len(n)) * 2 * np.pi
    t, b = frame(n)
    return (r * np.cos(turn))[:, None] * t + (r * np.sin(turn))[:, None] * b + np.sqrt(1 - r**2)[:, None] * n


def fresnel(cosine, eta):
    """Unpolarised reflectance; eta is n_beyond / n_here."""
    sine2 = (1 - cosine**2) / eta**2
    t = np.sqrt(np.maximum(1 - sine2, 0))
    s = ((cosine - eta * t) / (cosine + eta * t)) ** 2
    p = ((eta * cosine - t) / (eta * cosine + t)) ** 2
    return np.where(sine2 >= 1, 1.0, (s + p) / 2)


def metal_fresnel(cosine, f0, edge):
    """RGB of the F82-tint metal."""
    c = np.clip(cosine, 0, 1)[:, None]
    schlick = f0 + (1 - f0) * (1 - c) ** 5
    anchor = 1 / 7
    at_anchor = f0 + (1 - f0) * (1 - anchor) ** 5
    return schlick - c * (1 - c) ** 6 * at_anchor * (1 - edge) / (anchor * (1 - anchor) ** 6)


def visible_normals(v, alpha, generator):
    """Microfacet normals (local) as seen from v."""
    stretched = v * np.stack([alpha, alpha, np.ones_like(alpha)], 1)
    stretched /= np.linalg.norm(stretched, axis=1, keepdims=True)
    across = stretched[:, 0] ** 2 + stretched[:, 1] ** 2
    safe = np.sqrt(np.maximum(across, 1e-30))
    t1 = np.where(
        (across > 1e-20)[:, None], np.stack([-stretched[:, 1] / safe, stretched[:, 0] / safe, 0 * safe], 1), [[1, 0, 0]]
    )
    t2 = np.cross(stretched, t1)
    r, phi = np.sqrt(generator.random(len(v))), 2 * np.pi * generator.random(len(v))
    a, b = r * np.cos(phi), r * np.sin(phi)
    s = (1 + stretched[:, 2]) / 2
    b = (1 - s) * np.sqrt(np.maximum(1 - a * a, 0)) + s * b
    c = np.sqrt(np.maximum(1 - a * a - b * b, 0))
    n = a[:, None] * t1 + b[:, None] * t2 + c[:, None] * stretched
    n = np.stack([alpha * n[:, 0], alpha * n[:, 1], np.maximum(n[:, 2], 1e-9)], 1)
    return n / np.linalg.norm(n, axis=1, keepdims=True)


def smith(v, alpha):
    """Smith's Λ."""
    cos2 = np.maximum(v[:, 2] ** 2, 1e-14)
    return (np.sqrt(1 + alpha**2 * (1 - cos2) / cos2) - 1) / 2


def shadowing(v, w, alpha):
    """G2 / G1: what a visible normal's weight is."""
    return (1 + smith(v, alpha)) / (1 + smith(v, alpha) + smith(w, alpha))


def refracted(v, h, eta):
    """Direction beyond a microfacet; NaN where all is reflected."""
    c = (v * h).sum(1)
    with np.errstate(invalid="ignore"):
        t = np.sqrt(1 - (1 - c**2) / eta**2)
    return (c / eta - t)[:, None] * h - v / eta[:, None]


def _measured(alpha, eta, generator):
    """Albedos (mirror, dielectric reflection, glass) over a grid of cosines, by the samplers."""
    cosines = np.linspace(0, 1, _GRID)
    found = np.zeros((3, _GRID))
    for i, cosine in enumerate(np.maximum(cosines, 2e-3)):
        v = np.tile([np.sqrt(1 - cosine**2), 0, cosine], (_DRAWS, 1))
        a, e = np.full(_DRAWS, alpha), np.full(_DRAWS, eta)
        h = visible_normals(v, a, generator)
        c = (v * h).sum(1)
        w = 2 * c[:, None] * h - v
        mirror = np.where(w[:, 2] > 0, shadowing(v, w, a), 0)
        f = fresnel(c, e)
        t = np.nan_to_num(refracted(v, h, e))
        through = np.where(t[:, 2] < 0, shadowing(v, t, a) * (1 - f), 0)
        found[:, i] = mirror.mean(), (mirror * f).mean(), (mirror * f + through).mean()
    return found


def texel(texture, uv, *, srgb):
    """Bilinear or nearest texels (n, 3) of the first three channels, decoded before they are blended."""
    data = texture.texels[..., :3] / 255.0
    if srgb:
        data = np.where(data <= 0.04045, data / 12.92, ((data + 0.055) / 1.055) ** 2.4)
    height, width = data.shape[:2]

    def index(i, size, wrap):
        if wrap == 1:
            return np.clip(i, 0, size - 1)
        if wrap == 2:
            i = np.mod(i, 2 * size)
            return np.where(i >= size, 2 * size - 1 - i, i)
        return np.mod(i, size)

    x, y = uv[:, 0] * width, uv[:, 1] * height
    if texture.nearest:
        columns, rows = (
            index(np.floor(x).astype(int), width, texture.wrap_u),
            index(np.floor(y).astype(int), height, texture.wrap_v),
        )
        return data[rows, columns]
    x, y = x - 0.5, y - 0.5
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[:, None], (y - y0)[:, None]
    cols = [index(x0 + k, width, texture.wrap_u) for k in (0, 1)]
    rows = [index(y0 + k, height, texture.wrap_v) for k in (0, 1)]
    top = data[rows[0], cols[0]] * (1 - fx) + data[rows[0], cols[1]] * fx
    low = data[rows[1], cols[0]] * (1 - fx) + data[rows[1], cols[1]] * fx
    return top * (1 - fy) + low * fy


@dataclass
class Looked:
    """What the materials say at some points."""

    base: np.ndarray
    emission: np.ndarray
    opacity: np.ndarray


class Surfaces:
    """All materials of a scene as arrays, and how they scatter."""

    def __init__(self, materials, textures) -> None:
        self.materials, self.textures = materials, textures
        generator = np.random.default_rng(12)

        def column(get):
            return np.array([get(m) for m in materials], float)

        self.base = column(lambda m: np.multiply(m.base_color, m.base_weight))
        self.emission = column(lambda m: np.multiply(m.emission_color, m.emission_luminance))
        self.opacity = column(lambda m: m.geometry_opacity)
        self.metal, self.glass = column(lambda m: m.base_metalness), column(lambda m: m.transmission_weight)
        self.alpha = np.maximum(column(lambda m: m.specular_roughness) ** 2, 1e-3)
        self.ior = np.maximum(column(lambda m: m.specular_ior), 1.001)
        self.edge = column(lambda m: m.specular_color)
        self.rough = column(lambda m: m.base_diffuse_roughness)
        self.thin = np.array([m.geometry_thin_walled for m in materials])
        self.two_sided = np.array([m.double_sided or m.geometry_thin_walled for m in materials])
        self.encloses = (self.glass > 0) & ~self.thin
        self.priority = column(lambda m: m.interior_priority)
        deep = np.array([m.transmission_depth > 0 and not m.geometry_thin_walled for m in materials])
        depth = np.where(deep, column(lambda m: m.transmission_depth), 1.0)[:, None]
        color = column(lambda m: m.transmission_color)
        lost = -np.log(np.maximum(color, 1e-6)) / depth
        scatters = column(lambda m: m.transmission_scatter) / depth
        absorbs = lost - scatters
        absorbs += np.maximum(-absorbs.min(1, keepdims=True), 0)
        self.extinction = np.where(deep[:, None], absorbs + scatters, 0.0)
        with np.errstate(invalid="ignore"):
            self.albedo = np.nan_to_num(np.where(deep[:, None], scatters, 0.0) / self.extinction)
        self.forward = column(lambda m: m.transmission_scatter_anisotropy)
        self.tint = np.where(deep[:, None], 1.0, color) * column(lambda m: m.transmission_tint)
        self.albedos = [
            (_measured(a, n, generator), _measured(a, 1 / n, generator))
            for a, n in zip(self.alpha, self.ior, strict=True)
        ]

    def _mapped(self, name, material, uv, values, *, srgb):
        for number, m in enumerate(self.materials):
            use = getattr(m, f"{name}_texture")
            rows = material == number
            if use is not None and rows.any():
                a, b, c, d, e, f = use.matrix
                u, v = uv[rows].T
                at = np.stack([a * u + b * v + c, d * u + e * v + f], 1)
                values[rows] *= texel(self.textures[use.texture], at, srgb=srgb)
        return values

    def at(self, material, uv) -> Looked:
        """Base colour, emission and opacity of materials at coordinates."""
        base = self._mapped("base_color", material, uv, self.base[material], srgb=True)
        emission = self._mapped("emission", material, uv, self.emission[material], srgb=True)
        return Looked(base, emission, self.opacity[material])

    def bent(self, material, uv, n, triangles, triangle):
        """Shading normals after normal maps: red towards growing u, green towards the top of the picture."""
        n = n.copy()
        for number, m in enumerate(self.materials):
            rows = material == number
            if m.normal_texture is None or not rows.any():
                continue
            corners, uvs = triangles.corners[triangle[rows]], triangles.uvs[triangle[rows]]
            edges = np.stack([corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]], 2)
            steps = np.stack([uvs[:, 1] - uvs[:, 0], uvs[:, 2] - uvs[:, 0]], 2)
            along = edges @ np.linalg.inv(steps)  # columns: dP/du, dP/dv in the world
            value = texel(self.textures[m.normal_texture.texture], uv[rows], srgb=False) * 2 - 1
            value[:, :2] *= m.normal_scale
            t = along[:, :, 0] / np.linalg.norm(along[:, :, 0], axis=1, keepdims=True)
            b = -along[:, :, 1] / np.linalg.norm(along[:, :, 1], axis=1, keepdims=True)
            mapped = value[:, :1] * t + value[:, 1:2] * b + value[:, 2:] * n[rows]
            n[rows] = mapped / np.linalg.norm(mapped, axis=1, keepdims=True)
        return n

    def _albedo(self, material, kind, cosine, leaving):
        out = np.empty(len(material))
        for number in np.unique(material):
            for side in (0, 1):
                rows = (material == number) & (leaving == bool(side))
                table = self.albedos[number][side][kind]
                out[rows] = np.interp(cosine[rows], np.linspace(0, 1, _GRID), table)
        return np.maximum(out, 1e-6)

    def scatter(self, material, looked, n, wo, front, around, generator):
        """(directions, weights rgb, whether they go through the surface)."""
        count = len(material)
        t, b = frame(n)
        v = np.stack([(wo * t).sum(1), (wo * b).sum(1), np.maximum((wo * n).sum(1), 1e-4)], 1)
        v /= np.linalg.norm(v, axis=1, keepdims=True)
        pick = generator.random(count)
        metal, glass = self.metal[material], self.glass[material]
        is_metal = pick < metal
        is_glass = ~is_metal & (generator.random(count) < glass)
        opaque = ~is_metal & ~is_glass
        alpha = self.alpha[material]
        h = visible_normals(v, alpha, generator)
        c = (v * h).sum(1)
        mirrored = 2 * c[:, None] * h - v
        gloss = np.where(mirrored[:, 2] > 0, shadowing(v, mirrored, alpha), 0.0)
        w, weight = mirrored.copy(), np.zeros((count, 3))
        through, outside = np.zeros(count, bool), np.zeros(count, bool)

        m = is_metal
        mirror = self._albedo(material, 0, v[:, 2], outside)
        gain = 1 + looked.base * ((1 - mirror) / mirror)[:, None]
        weight[m] = (metal_fresnel(c, looked.base, self.edge[material]) * gain * gloss[:, None])[m]

        m = opaque
        single = self._albedo(material, 1, v[:, 2], outside)
        f = fresnel(c, self.ior[material])
        takes_gloss = m & (generator.random(count) < 0.5)
        weight[takes_gloss] = (2 * (f * gloss)[:, None] * self.edge[material])[takes_gloss]
        takes_diffuse = m & ~takes_gloss
        down = sampled_cosine(np.tile([0.0, 0.0, 1.0], (count, 1)), generator)
        w[takes_diffuse] = down[takes_diffuse]
        spread = np.pi * eon(looked.base, self.rough[material], v, down)
        weight[takes_diffuse] = (2 * (1 - single)[:, None] * spread)[takes_diffuse]

        self._glass(is_glass, material, v, h, c, mirrored, gloss, front, around, w, weight, through, generator)
        return w[:, :1] * t + w[:, 1:2] * b + w[:, 2:] * n, weight, through

    def _glass(self, m, material, v, h, c, mirrored, gloss, front, around, w, weight, through, generator) -> None:
        """Clear boundaries and thin walls of the rows m."""
        thin, inside = self.thin[material], self.ior[material]
        eta = np.where(front | thin, inside / np.where(thin, 1.0, around), np.where(thin, 1.0, around) / inside)
        r = fresnel(c, eta)
        r = np.where(thin, 2 * r / (1 + r), r)
        reflects = generator.random(len(m)) < r
        mirror = self._albedo(material, 0, v[:, 2], np.zeros(len(m), bool))
        whole = np.where(thin, mirror, self._albedo(material, 2, v[:, 2], ~front))
        bounced = m & reflects
        color = np.where((front | thin)[:, None], self.edge[material], 1.0)
        weight[bounced] = ((gloss / whole)[:, None] * color)[bounced]
        w[bounced] = mirrored[bounced]
        beyond = np.where(thin[:, None], mirrored * [1, 1, -1], refracted(v, h, eta))
        usable = np.where(thin, mirrored[:, 2] > 0, beyond[:, 2] < 0)
        passes = m & ~reflects
        beyond = np.nan_to_num(beyond, nan=-1.0)
        share = np.where(usable, shadowing(v, beyond, self.alpha[material]) / whole, 0.0)
        weight[passes] = (share[:, None] * self.tint[material])[passes]
        w[passes], through[passes] = beyond[passes], True


def eon(color, roughness, v, w):
    """Diffuse f [1/sr] without the cosine: single scattering of Fujii's model and what it loses, given back."""
    r = roughness[:, None]
    c1, c2 = 0.5 - 2 / (3 * np.pi), 2 / 3 - 28 / (15 * np.pi)
    a = 1 / (1 + c1 * r)

    def albedo(mu):
        theta = np.arccos(np.clip(mu, 0, 1))
        sine = np.sin(theta)
        with np.errstate(divide="ignore", invalid="ignore"):
            g = sine * (theta - sine * mu) + 2 / 3 * (sine / mu * (1 - sine**3) - sine)
        return a[:, 0] * (1 + roughness / np.pi * np.where(mu > 1e-6, g, np.pi / 2 - 2 / 3))

    s = (v[:, :2] * w[:, :2]).sum(1)
    s_over_t = np.where(s > 0, s / np.maximum(np.maximum(v[:, 2], w[:, 2]), 1e-9), s)[:, None]
    single = color / np.pi * a * (1 + r * s_over_t)
    mean = a * (1 + c2 * r)
    again = color**2 * mean / (1 - color * (1 - mean)) / np.pi
    lost = ((1 - albedo(v[:, 2])) * (1 - albedo(w[:, 2])))[:, None] / np.maximum(1 - mean, 1e-9)
    return single + np.where(r > 0, again * lost, 0.0)
