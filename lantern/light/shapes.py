"""Shaped lights: a point on one for a place in the scene, and the pdf of having picked it.

Pdfs are per solid angle at the lit place. Lights shine from their front; `normal` points that way.
Rectangle: Ureña, Fajardo & King, "An Area-Preserving Parametrization for Spherical Rectangles", EGSR 2013,
listings 1 and 2. Disk: Shirley & Chiu, "A Low Distortion Map Between Disk and Square", JGT 2(3), 1997. Sphere: cone of
directions, Pharr, Jakob & Humphreys, "Physically Based Rendering", 4th ed., section 6.2.4.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_TWO_PI, TWO_PI, arccos, sincos_turn
from lantern.kernel.memory import Table, load_f32, load_i32, load_vector
from lantern.kernel.vectors import EXACT, SMALL, add, dot, frame_around, normalize, scale, sub, to_world

LIGHT = Table(
    "light",
    [
        ("kind", "i", 1),
        ("group", "i", 1),  # number of its light group
        ("link", "i", 1),  # bit of its linking set in `part.links`
        ("seen", "i", 1),  # CAMERA_SEES | REFLECTIONS_SEE
        ("casts", "i", 1),  # parts shade it
        ("two_sided", "i", 1),  # a triangle that shines from its back too
        ("position", "f", 3),  # centre; first corner of a triangle
        ("across", "f", 3),  # rectangle: half side; triangle: edge; others: unit
        ("along", "f", 3),
        ("normal", "f", 3),  # unit; axis of a tube
        ("radiance", "f", 3),  # cd/m²; intensity in cd of a point; irradiance in lx of a distant light of no size
        ("area", "f", 1),  # m²; of a distant light 1 - cos of its radius, 0 for no size
        ("radius", "f", 1),  # m
        ("half_length", "f", 1),  # m, of a tube
        ("cos_inner", "f", 1),  # cone of full light, and where it ends
        ("cos_outer", "f", 1),
        ("profile", "i", 1),  # number of its IES profile, -1 for none
        ("shaping", "i", 1),  # row of what shapes its light (`shaping`), -1 for none
        ("part", "i", 1),  # triangle of an emissive part
        ("primitive", "i", 1),
        ("trail", "i", 1),  # way from the root of the light tree, one bit a level
        ("chance", "f", 1),  # of a distant light among them
    ],
)
L = LIGHT.slots
LIGHT_WIDTH = LIGHT.width
RECTANGLE, DISK, SPHERE, TUBE, TRIANGLE, POINT, DISTANT = range(7)
"""`kind`; the flat ones come first."""
CAMERA_SEES, REFLECTIONS_SEE = 1, 2

_ZERO, _ONE = f32(0.0), f32(1.0)
_NOTHING = ((_ZERO, _ZERO, _ZERO), _ZERO, _ZERO)
_SMALL_ANGLE = f32(0.02)
"""Solid angle [sr] below which a rectangle is sampled by area: the spherical excess would cancel in float32."""


@njit(**SMALL)
def spot_share(cosine, inner, outer):
    """Share of the full intensity of a spot at an angle from its axis: smoothstep between two cones, in the cosine.

    Angles are given by cosines; an `outer` of -1 or less is a light without a cone.
    """
    if outer <= f32(-1.0):
        return _ONE
    if inner <= outer:
        return _ONE if cosine >= outer else _ZERO
    t = min(max((cosine - outer) / (inner - outer), _ZERO), _ONE)
    return t * t * (f32(3.0) - f32(2.0) * t)


def spot_flux(inner, outer):
    """Lumens of a spot of 1 cd: ∫ `spot_share` over the sphere, in closed form. Cosines as there."""
    if outer <= -1.0:
        return 4 * math.pi
    # Over the edge the mean of the smoothstep is a half.
    return 2 * math.pi * ((1 - inner) + (inner - outer) / 2)


@njit(**SMALL)
def concentric_disk(u1, u2):
    """A point of the unit disk, uniform by area, that keeps neighbouring samples neighbours."""
    x, y = f32(2.0) * u1 - _ONE, f32(2.0) * u2 - _ONE
    if x == _ZERO and y == _ZERO:
        return _ZERO, _ZERO
    if abs(x) > abs(y):
        sine, cosine = sincos_turn(f32(0.125) * y / x)
        return x * cosine, x * sine
    sine, cosine = sincos_turn(f32(0.25) - f32(0.125) * x / y)
    return y * cosine, y * sine


@njit(**SMALL)
def _from_area(light, row, p, point, normal, area):
    """(direction, distance, pdf) of a point picked uniformly by area."""
    to = sub(point, p)
    square = dot(to, to)
    if square <= _ZERO:
        return _NOTHING
    distance = math.sqrt(square)
    wi = scale(to, _ONE / distance)
    facing = -dot(wi, normal)
    if load_i32(light, row + L.two_sided) != 0:
        facing = abs(facing)
    if facing <= f32(1e-6):
        return _NOTHING
    return wi, distance, square / (facing * area)


@njit(**SMALL)
def _rectangle_frame(light, row, p):
    """Where p sees the rectangle: (unit x, unit y, unit z, x0, x1, y0, y1, z0, estimate of the solid angle).

    z points away from the rectangle, so z0 < 0.
    """
    half_x, half_y = load_vector(light, row + L.across), load_vector(light, row + L.along)
    centre = load_vector(light, row + L.position)
    width, height = math.sqrt(dot(half_x, half_x)), math.sqrt(dot(half_y, half_y))
    x, y = scale(half_x, _ONE / width), scale(half_y, _ONE / height)
    z = load_vector(light, row + L.normal)
    d = sub(centre, p)
    cx, cy, z0 = dot(d, x), dot(d, y), dot(d, z)
    square = dot(d, d)
    estimate = f32(4.0) * width * height * abs(z0) / max(square * math.sqrt(square), f32(1e-30))
    return x, y, z, cx - width, cx + width, cy - height, cy + height, z0, estimate


@njit(**SMALL)
def _corner_angles(x0, x1, y0, y1, z0):
    """(b0, b1, k, solid angle) of a rectangle seen from the origin (listing 1)."""
    z2 = z0 * z0
    n0, n1 = z0 / math.sqrt(z2 + y0 * y0), -z0 / math.sqrt(z2 + x1 * x1)
    n2, n3 = -z0 / math.sqrt(z2 + y1 * y1), z0 / math.sqrt(z2 + x0 * x0)
    # Normals of the side planes: (0, z0, -y0), (-z0, 0, x1), (0, -z0, y1), (z0, 0, -x0), normalised.
    m0, m1 = -y0 / math.sqrt(z2 + y0 * y0), x1 / math.sqrt(z2 + x1 * x1)
    m2, m3 = y1 / math.sqrt(z2 + y1 * y1), -x0 / math.sqrt(z2 + x0 * x0)
    g0, g1 = arccos(-m0 * m1), arccos(-m1 * m2)
    g2, g3 = arccos(-m2 * m3), arccos(-m3 * m0)
    k = TWO_PI - g2 - g3
    return m0, m2, k, g0 + g1 - k, n0, n1, n2, n3


@njit(**SMALL)
def _sample_rectangle(light, row, p, u1, u2):
    x, y, z, x0, x1, y0, y1, z0, estimate = _rectangle_frame(light, row, p)
    if z0 >= f32(-1e-9):
        return _NOTHING
    if estimate < _SMALL_ANGLE:
        place = (x0 + (x1 - x0) * u1, y0 + (y1 - y0) * u2, z0)
        point = add(p, to_world(place, x, y, z))
        return _from_area(light, row, p, point, z, load_f32(light, row + L.area))
    b0, b1, k, solid_angle, _, _, _, _ = _corner_angles(x0, x1, y0, y1, z0)
    au = u1 * solid_angle + k
    fu = (math.cos(au) * b0 - b1) / math.sin(au)
    cu = math.copysign(_ONE, fu) / math.sqrt(fu * fu + b0 * b0)
    cu = min(max(cu, f32(-0.9999999)), f32(0.9999999))
    xu = -(cu * z0) / math.sqrt(_ONE - cu * cu)
    xu = min(max(xu, x0), x1)
    d = math.sqrt(xu * xu + z0 * z0)
    h0, h1 = y0 / math.sqrt(d * d + y0 * y0), y1 / math.sqrt(d * d + y1 * y1)
    hv = h0 + u2 * (h1 - h0)
    yv = hv * d / math.sqrt(max(_ONE - hv * hv, f32(1e-12))) if hv * hv < f32(0.999999) else y1
    to = to_world((xu, yv, z0), x, y, z)
    distance = math.sqrt(dot(to, to))
    return scale(to, _ONE / distance), distance, _ONE / solid_angle


@njit(**SMALL)
def _sample_sphere(light, row, p, u1, u2):
    radius = load_f32(light, row + L.radius)
    to = sub(load_vector(light, row + L.position), p)
    square = dot(to, to)
    sin2 = radius * radius / max(square, f32(1e-30))
    if sin2 >= _ONE:
        return _NOTHING
    # 1 - cos θ from sin² θ without cancelling for a far sphere.
    span = sin2 / (_ONE + math.sqrt(_ONE - sin2))
    lift = span * u1
    cosine = _ONE - lift
    sine = math.sqrt(max(lift * (f32(2.0) - lift), _ZERO))
    axis = scale(to, _ONE / math.sqrt(square))
    t, b = frame_around(axis)
    s, c = sincos_turn(u2)
    wi = to_world((sine * c, sine * s, cosine), t, b, axis)
    along = dot(wi, to)
    depth = max(radius * radius - (square - along * along), _ZERO)
    return normalize(wi), along - math.sqrt(depth), INV_TWO_PI / span


@njit(**EXACT)
def sample_shape(light, row, p, u1, u2):
    """(unit direction, distance [m], pdf [1/sr]) of a point on light `row` seen from p; pdf 0 for none.

    `light` is the address of the table, `row` the slot where the light's row begins. Not for points and distant lights.
    """
    kind = load_i32(light, row + L.kind)
    if kind == TRIANGLE:
        # Osada et al., "Shape Distributions", ACM TOG 21(4), 2002, section 4.2.
        root = math.sqrt(u1)
        point = add(
            load_vector(light, row + L.position),
            add(
                scale(load_vector(light, row + L.across), root - u2 * root),
                scale(load_vector(light, row + L.along), u2 * root),
            ),
        )
        return _from_area(light, row, p, point, load_vector(light, row + L.normal), load_f32(light, row + L.area))
    if kind == RECTANGLE:
        return _sample_rectangle(light, row, p, u1, u2)
    if kind == SPHERE:
        return _sample_sphere(light, row, p, u1, u2)
    centre, normal = load_vector(light, row + L.position), load_vector(light, row + L.normal)
    x, y = load_vector(light, row + L.across), load_vector(light, row + L.along)
    radius, area = load_f32(light, row + L.radius), load_f32(light, row + L.area)
    if kind == DISK:
        a, b = concentric_disk(u1, u2)
        point = add(centre, add(scale(x, a * radius), scale(y, b * radius)))
        return _from_area(light, row, p, point, normal, area)
    sine, cosine = sincos_turn(u1)
    outward = add(scale(x, cosine), scale(y, sine))
    along = (f32(2.0) * u2 - _ONE) * load_f32(light, row + L.half_length)
    point = add(centre, add(scale(outward, radius), scale(normal, along)))
    return _from_area(light, row, p, point, outward, area)


@njit(**EXACT)
def shape_pdf(light, row, p, wi, distance, facing):
    """Pdf [1/sr] with which `sample_shape` from p picks the point `distance` along wi; `facing` is its |cos θ|."""
    kind = load_i32(light, row + L.kind)
    if kind == RECTANGLE:
        _, _, _, x0, x1, y0, y1, z0, estimate = _rectangle_frame(light, row, p)
        if estimate >= _SMALL_ANGLE:
            return _ONE / _corner_angles(x0, x1, y0, y1, z0)[3]
    elif kind == SPHERE:
        radius = load_f32(light, row + L.radius)
        to = sub(load_vector(light, row + L.position), p)
        sin2 = radius * radius / max(dot(to, to), f32(1e-30))
        if sin2 >= _ONE:
            return _ZERO
        return INV_TWO_PI * (_ONE + math.sqrt(_ONE - sin2)) / sin2
    return distance * distance / (max(facing, f32(1e-6)) * load_f32(light, row + L.area))


@njit(**EXACT)
def meet_shape(light, row, origin, direction):
    """(distance, |cos θ|) where a ray meets the front of a light's shape; distance < 0 for a miss.

    Triangles of parts are met by the ray library itself.
    """
    kind = load_i32(light, row + L.kind)
    centre, normal = load_vector(light, row + L.position), load_vector(light, row + L.normal)
    to = sub(centre, origin)
    radius = load_f32(light, row + L.radius)
    miss = (f32(-1.0), _ZERO)
    if kind == SPHERE:
        along = dot(to, direction)
        # Distance of the centre from the ray, as a vector: the difference of squares cancels for a far sphere.
        aside = sub(to, scale(direction, along))
        depth = radius * radius - dot(aside, aside)
        if depth <= _ZERO:
            return miss
        near = along - math.sqrt(depth)
        return (near, math.sqrt(depth) / radius) if near > _ZERO else miss
    if kind == TUBE:
        # Across the axis it is a circle.
        d = sub(direction, scale(normal, dot(direction, normal)))
        o = sub(scale(to, f32(-1.0)), scale(normal, -dot(to, normal)))
        a, b, c = dot(d, d), dot(o, d), dot(o, o) - radius * radius
        square = b * b - a * c
        if a <= f32(1e-12) or square <= _ZERO or c <= _ZERO:
            return miss
        near = (-b - math.sqrt(square)) / a
        height = dot(direction, normal) * near - dot(to, normal)
        if near <= _ZERO or abs(height) > load_f32(light, row + L.half_length):
            return miss
        return near, math.sqrt(square) / radius
    facing = -dot(direction, normal)
    if facing <= f32(1e-6):
        return miss
    near = -dot(to, normal) / facing
    if near <= _ZERO:
        return miss
    at = sub(scale(direction, near), to)
    x, y = load_vector(light, row + L.across), load_vector(light, row + L.along)
    if kind == DISK:
        return (near, facing) if dot(at, at) <= radius * radius else miss
    inside = abs(dot(at, x)) <= dot(x, x) and abs(dot(at, y)) <= dot(y, y)
    return (near, facing) if inside else miss
