"""A second opinion: a slow path tracer for tests, written from the standards and sharing no code with `lantern`.

In: a scene document, meshes, a map. Out: a picture. It knows the document's fields and nothing of the compiled scene:
rays meet triangles by brute force, directions are scattered lobe by lobe, light is never aimed at. All arrays are
float64, one row a path. Surfaces: `reference_surfaces`.

OpenPBR Surface 1.1 (materials); Möller & Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997; Henyey &
Greenstein 1941 (phase function). Camera, haze and lights are as the document's fields say.
"""

from dataclasses import dataclass

import numpy as np

from tests.verification.reference_surfaces import Surfaces, frame, sampled_cosine

FAR = 1e30
LONGEST, ROULETTE_FROM = 80, 4


@dataclass
class Triangles:
    """All triangles of a scene in the world."""

    corners: np.ndarray  # (t, 3, 3)
    normals: np.ndarray  # (t, 3, 3) of the corners
    outside: np.ndarray  # (t, 3) unit geometric normal
    uvs: np.ndarray  # (t, 3, 2)
    part: np.ndarray  # (t,)
    mirrored: np.ndarray  # (t,)


def triangles_of(scene, meshes) -> Triangles:
    """Every part's mesh where it stands; a mirrored part keeps its outside."""
    rows: dict[str, list] = {name: [] for name in Triangles.__dataclass_fields__}
    for number, part in enumerate(scene.parts.values()):
        mesh = meshes[part.mesh]
        matrix = np.array(part.matrix).reshape(3, 4)
        linear = matrix[:, :3]
        points = mesh.positions.astype(float) @ linear.T + matrix[:, 3]
        normals = mesh.normals.astype(float) @ np.linalg.inv(linear)
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        corners = points[mesh.indices]
        outside = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        outside /= np.linalg.norm(outside, axis=1, keepdims=True)
        is_mirrored = np.linalg.det(linear) < 0
        uvs = np.zeros((len(mesh.positions), 2)) if mesh.uvs is None else mesh.uvs[0].astype(float)
        rows["corners"].append(corners)
        rows["normals"].append(normals[mesh.indices])
        rows["outside"].append(-outside if is_mirrored else outside)
        rows["uvs"].append(uvs[mesh.indices])
        rows["part"].append(np.full(len(corners), number))
        rows["mirrored"].append(np.full(len(corners), is_mirrored))
    return Triangles(**{name: np.concatenate(values) for name, values in rows.items()})


def nearest(triangles: Triangles, origin, direction):
    """(distance, triangle, u, v) of the first triangle of each ray (n, 3); FAR and -1 for none."""
    a = triangles.corners[:, 0]
    e1, e2 = triangles.corners[:, 1] - a, triangles.corners[:, 2] - a
    best, found = np.full(len(origin), FAR), np.full(len(origin), -1)
    us, vs = np.zeros(len(origin)), np.zeros(len(origin))
    for start in range(0, len(origin), 4096):
        rows = slice(start, start + 4096)
        o, d = origin[rows, None], direction[rows, None]
        p = np.cross(d, e2)
        with np.errstate(divide="ignore", invalid="ignore"):
            inverse = 1 / (e1 * p).sum(-1)
            s = o - a
            u = (s * p).sum(-1) * inverse
            q = np.cross(s, e1)
            v = (d * q).sum(-1) * inverse
            t = (e2 * q).sum(-1) * inverse
            t = np.where((u >= 0) & (v >= 0) & (u + v <= 1) & (t > 1e-7), t, FAR)
        t = np.nan_to_num(t, nan=FAR)
        which = t.argmin(1)
        picked = np.take_along_axis(t, which[:, None], 1)[:, 0]
        best[rows], found[rows] = picked, np.where(picked < FAR, which, -1)
        us[rows] = np.take_along_axis(u, which[:, None], 1)[:, 0]
        vs[rows] = np.take_along_axis(v, which[:, None], 1)[:, 0]
    return best, found, us, vs


def map_at(pixels, direction, degrees):
    """Bilinear radiance (n, 3) of a latitude-longitude map turned counter-clockwise seen from above."""
    turn = np.radians(degrees)
    x = np.cos(turn) * direction[:, 0] - np.sin(turn) * direction[:, 2]
    z = np.sin(turn) * direction[:, 0] + np.cos(turn) * direction[:, 2]
    height, width = pixels.shape[:2]
    column = (0.5 + np.arctan2(x, -z) / (2 * np.pi)) * width - 0.5
    row = np.arccos(np.clip(direction[:, 1], -1, 1)) / np.pi * height - 0.5
    x0, y0 = np.floor(column).astype(int), np.floor(row).astype(int)
    fx, fy = (column - x0)[:, None], (row - y0)[:, None]
    rows = np.clip([y0, y0 + 1], 0, height - 1)
    columns = np.mod([x0, x0 + 1], width)
    top = pixels[rows[0], columns[0]] * (1 - fx) + pixels[rows[0], columns[1]] * fx
    bottom = pixels[rows[1], columns[0]] * (1 - fx) + pixels[rows[1], columns[1]] * fx
    return top * (1 - fy) + bottom * fy


def _light_frame(light):
    forward = np.subtract(light.target, light.position)
    forward = forward / np.linalg.norm(forward)
    up = np.array([0.0, 1.0, 0.0]) if abs(forward[1]) < 0.999 else np.array([0.0, 0.0, -1.0])
    across = np.cross(forward, up)
    across /= np.linalg.norm(across)
    return across, np.cross(across, forward), forward


def light_met(light, origin, direction):
    """Distance (n,) at which rays meet the front of a rectangle or sphere light of cd/m²; FAR for a miss."""
    to = np.array(light.position) - origin
    if light.kind == "sphere":
        along = (to * direction).sum(1)
        inside = light.radius**2 - ((to - along[:, None] * direction) ** 2).sum(1)
        near = along - np.sqrt(np.maximum(inside, 0))
        return np.where((inside > 0) & (near > 0), near, FAR)
    across, along, forward = _light_frame(light)
    facing = -(direction @ forward)
    with np.errstate(divide="ignore", invalid="ignore"):
        near = -(to @ forward) / facing
    place = direction * near[:, None] - to
    within = (np.abs(place @ across) <= light.width / 2) & (np.abs(place @ along) <= light.height / 2)
    return np.where((facing > 1e-9) & (near > 0) & within, near, FAR)


def light_radiance(light):
    """(3,) cd/m²: the colour scaled to luminance 1 times the amount."""
    weights = np.array([0.2126, 0.7152, 0.0722])
    return np.array(light.color) / (np.array(light.color) @ weights) * light.amount


def camera_rays(camera, side, generator, count):
    """(pixel (n,), origin, direction) of `count` rays a pixel, the pixel filter a tent of one pixel either way."""
    pixel = np.repeat(np.arange(side * side), count)
    n = len(pixel)
    backwards = np.subtract(camera.position, camera.target)
    backwards = backwards / np.linalg.norm(backwards)
    right = np.cross([0.0, 1.0, 0.0], backwards)
    right /= np.linalg.norm(right)
    up = np.cross(backwards, right)
    half = camera.sensor_width / (2 * camera.focal_length)
    tent = generator.random((n, 2)) + generator.random((n, 2)) - 1
    x = ((pixel % side + 0.5 + tent[:, 0]) / side * 2 - 1) * half
    y = (1 - (pixel // side + 0.5 + tent[:, 1]) / side * 2) * half
    direction = -backwards + x[:, None] * right + y[:, None] * up
    origin = np.broadcast_to(np.array(camera.position, float), (n, 3)).copy()
    if camera.f_number:
        r, turn = np.sqrt(generator.random(n)), generator.random(n) * 2 * np.pi
        r *= camera.focal_length * 1e-3 / (2 * camera.f_number)
        lens = (r * np.cos(turn))[:, None] * right + (r * np.sin(turn))[:, None] * up
        direction = direction * camera.focus_distance - lens
        origin = origin + lens
    return pixel, origin, direction / np.linalg.norm(direction, axis=1, keepdims=True)


class Paths:
    """Paths on their way, one row each; dead ones are taken out."""

    def __init__(self, pixel, origin, direction) -> None:
        n = len(pixel)
        self.pixel, self.origin, self.direction = pixel, origin, direction
        self.beta = np.ones((n, 3))
        self.inside = np.full((n, 4), -1)  # parts whose volumes the path is in, in the order of entering
        self.links = np.full(n, -1)  # part that it left, -1 for none

    def keep(self, alive) -> None:
        for name, values in vars(self).items():
            setattr(self, name, values[alive])


class Reference:
    """One scene, ready to be rendered."""

    def __init__(self, scene, asset, environment) -> None:
        self.scene, self.map = scene, np.asarray(environment, float) * scene.environment.intensity
        self.triangles = triangles_of(scene, asset.meshes)
        self.parts = list(scene.parts.values())
        keys = list(scene.materials)
        self.material_of = np.array([keys.index(part.material) for part in self.parts])
        self.surfaces = Surfaces(list(scene.materials.values()), asset.textures)
        self.lights = [light for light in scene.lights.values() if light.enabled]
        self.part_keys = list(scene.parts)

    def picture(self, side, samples, seed):
        """(side, side, 3) mean radiance."""
        generator = np.random.default_rng(seed)
        total = np.zeros((side * side, 3))
        paths = Paths(*camera_rays(self.scene.camera, side, generator, samples))
        for bounce in range(LONGEST):
            if not len(paths.pixel):
                break
            self._segment(paths, total, generator, bounce)
        return (total / samples).reshape(side, side, 3)

    def _medium(self, paths):
        """Part (n,) whose volume counts, -1 for none: the one of highest priority, of equals the last entered."""
        best, priority = np.full(len(paths.pixel), -1), np.full(len(paths.pixel), -1e9)
        for slot in range(paths.inside.shape[1]):
            part = paths.inside[:, slot]
            own = np.where(part >= 0, self.surfaces.priority[self.material_of[part]], -1e9)
            better = (part >= 0) & (own >= priority)
            best, priority = np.where(better, part, best), np.where(better, own, priority)
        return best

    def _segment(self, paths, total, generator, bounce) -> None:
        distance, triangle, u, v = nearest(self.triangles, paths.origin, paths.direction)
        ground = np.zeros(len(distance), bool)
        if self.scene.ground.enabled:
            height = paths.origin[:, 1] - self.scene.ground.height
            with np.errstate(divide="ignore", invalid="ignore"):
                to_ground = np.where(
                    (paths.direction[:, 1] < 0) & (height > 1e-9), height / -paths.direction[:, 1], FAR
                )
            ground = to_ground < distance
            distance = np.minimum(distance, to_ground)
        self._add_lights(paths, total, distance, bounce)
        distance, scattered = self._cross_media(paths, distance, generator, triangle < 0)
        missed = (triangle < 0) & ~ground & ~scattered
        if missed.any():
            shown = bounce > 0 or self.scene.backdrop.kind == "environment"
            sky = map_at(self.map, paths.direction[missed], self.scene.environment.rotation)
            behind = sky if shown else np.broadcast_to(self.scene.backdrop.color, sky.shape)
            np.add.at(total, paths.pixel[missed], paths.beta[missed] * behind)
        here = paths.origin + paths.direction * np.minimum(distance, 1e6)[:, None]
        hits = ~missed & ~ground & ~scattered
        alive = ~missed
        if scattered.any():
            paths.direction[scattered] = self._phase(paths, scattered, generator)
            paths.origin[scattered], paths.links[scattered] = here[scattered], -1
        if (on := ground & ~scattered).any():
            up = np.broadcast_to([0.0, 1.0, 0.0], (on.sum(), 3))
            paths.direction[on] = sampled_cosine(up, generator)
            paths.origin[on], paths.links[on] = here[on] + up * 1e-6, -1
            paths.beta[on] *= self.scene.ground.reflectance
        if hits.any():
            at = np.flatnonzero(hits)
            alive[at] = self._meet(paths, total, at, here[at], triangle[at], u[at], v[at], generator)
        if bounce > ROULETTE_FROM:
            chance = np.minimum(paths.beta.max(1), 1.0)
            alive &= generator.random(len(chance)) < chance
            paths.beta /= np.maximum(chance, 1e-12)[:, None]
        paths.keep(alive & (paths.beta.max(1) > 0))

    def _add_lights(self, paths, total, distance, bounce) -> None:
        """Lights are in nobody's way: the scenes have none behind another, and no mirrors."""
        for light in self.lights:
            at = light_met(light, paths.origin, paths.direction)
            met = at < distance
            if bounce == 0 and not light.seen_by_camera:
                continue
            unlit = [self.part_keys.index(key) for key in light.unlit_parts if key in self.part_keys]
            met &= ~np.isin(paths.links, unlit)
            if met.any():
                left = self._transmittance(paths, met, at[met])
                np.add.at(total, paths.pixel[met], paths.beta[met] * left * light_radiance(light))

    def _haze_span(self, origin, direction, distance):
        haze = self.scene.haze
        begin, end = np.zeros(len(origin)), distance.copy()
        if haze.box is not None:
            with np.errstate(divide="ignore", invalid="ignore"):
                a, b = (haze.box.low - origin) / direction, (haze.box.high - origin) / direction
            begin = np.maximum(begin, np.minimum(a, b).max(1))
            end = np.minimum(end, np.maximum(a, b).min(1))
        return begin, np.maximum(end, begin)

    def _media_of(self, paths):
        """(extinction (n, 3), albedo (n, 3), anisotropy (n,), whether it is haze (n,)) that the paths travel in."""
        part = self._medium(paths)
        within = part >= 0
        material = self.material_of[np.maximum(part, 0)]
        extinction = np.where(within[:, None], self.surfaces.extinction[material], 0.0)
        albedo = np.where(within[:, None], self.surfaces.albedo[material], 0.0)
        forward = np.where(within, self.surfaces.forward[material], 0.0)
        is_haze = np.zeros(len(part), bool)
        if self.scene.haze.enabled:
            is_haze = ~within
            extinction = np.where(is_haze[:, None], np.log(50) / self.scene.haze.sight, extinction)
            albedo = np.where(is_haze[:, None], self.scene.haze.color, albedo)
            forward = np.where(is_haze, self.scene.haze.anisotropy, forward)
        return extinction, albedo, forward, is_haze

    def _spans(self, paths, distance, is_haze):
        begin, end = np.zeros(len(distance)), distance.copy()
        if is_haze.any():
            low, high = self._haze_span(paths.origin, paths.direction, distance)
            begin, end = np.where(is_haze, low, begin), np.where(is_haze, high, end)
        return begin, end

    def _transmittance(self, paths, which, distance):
        extinction, _, _, is_haze = self._media_of(paths)
        whole = np.full(len(which), 0.0)
        whole[which] = distance
        begin, end = self._spans(paths, whole, is_haze)
        return np.exp(-extinction * (end - begin)[:, None])[which]

    def _cross_media(self, paths, distance, generator, leaves):
        """(distance, whether light scatters there); a channel in proportion to beta decides how far light goes."""
        extinction, albedo, _, is_haze = self._media_of(paths)
        begin, end = self._spans(paths, distance, is_haze)
        # A ray that leaves the scene from within a volume has found a hole in its boundary.
        empty = (extinction.max(1) <= 0) | (leaves & ~is_haze) | (end <= begin)
        length = np.where(empty, 0.0, end - begin)
        share = paths.beta / np.maximum(paths.beta.sum(1, keepdims=True), 1e-300)
        cut = generator.random(len(length))
        channel = (cut[:, None] > np.cumsum(share, 1)).sum(1).clip(0, 2)
        sigma = np.take_along_axis(extinction, channel[:, None], 1)[:, 0]
        with np.errstate(divide="ignore"):
            gone = np.where(sigma > 0, -np.log(1 - generator.random(len(length))) / sigma, FAR)
        scattered = ~empty & (gone < length)
        travelled = np.where(scattered, gone, length)
        fade = np.exp(-extinction * travelled[:, None])
        density = np.where(scattered[:, None], extinction * fade, fade)
        weight = np.where(scattered[:, None], extinction * albedo * fade, fade)
        paths.beta *= weight / np.maximum((share * density).sum(1), 1e-300)[:, None]
        return np.where(scattered, begin + gone, distance), scattered

    def _phase(self, paths, which, generator):
        g = self._media_of(paths)[2][which]
        u = generator.random(len(g))
        small = np.abs(g) < 1e-3
        safe = np.where(small, 0.5, g)
        k = (1 - safe**2) / (1 + safe - 2 * safe * u)
        cosine = np.where(small, 1 - 2 * u, (1 + safe**2 - k**2) / (2 * safe))
        turn = generator.random(len(g)) * 2 * np.pi
        sine = np.sqrt(np.maximum(1 - cosine**2, 0))
        t, b = frame(paths.direction[which])
        across = np.cos(turn)[:, None] * t + np.sin(turn)[:, None] * b
        return sine[:, None] * across + cosine[:, None] * paths.direction[which]

    def _meet(self, paths, total, at, here, triangle, u, v, generator):
        """Whether each path goes on after the surface it has met; emission is added."""
        triangles = self.triangles
        part, outside = triangles.part[triangle], triangles.outside[triangle]
        weights = np.stack([1 - u - v, u, v], 1)[..., None]
        shading = (triangles.normals[triangle] * weights).sum(1)
        shading /= np.linalg.norm(shading, axis=1, keepdims=True)
        uv = (triangles.uvs[triangle] * weights).sum(1)
        material = self.material_of[part]
        wo = -paths.direction[at]
        front = (wo * outside).sum(1) > 0
        surface = self.surfaces.at(material, uv)
        hole = generator.random(len(at)) >= surface.opacity
        encloses = self.surfaces.encloses[material]
        is_in = (paths.inside[at] == part[:, None]).any(1)
        others = np.where(paths.inside[at] == part[:, None], -1, paths.inside[at])
        priority = np.where(others >= 0, self.surfaces.priority[self.material_of[others]], -1e9)
        hidden = encloses & (priority.max(1) > self.surfaces.priority[material])
        passing = hole | hidden
        glowing = ~passing & (front | self.surfaces.two_sided[material])
        np.add.at(total, paths.pixel[at[glowing]], paths.beta[at[glowing]] * surface.emission[glowing])
        # Index of refraction of what is around this volume: that of the highest priority among the others.
        outer = np.take_along_axis(others, priority.argmax(1)[:, None], 1)[:, 0]
        around = np.where(outer >= 0, self.surfaces.ior[self.material_of[outer]], 1.0)
        shading = self.surfaces.bent(material, uv, shading, triangles, triangle)
        n = np.where(front[:, None], shading, -shading)
        geometric = np.where(front[:, None], outside, -outside)
        wi, factor, through = self.surfaces.scatter(material, surface, n, wo, front, around, generator)
        side = (wi * geometric).sum(1)
        factor = np.where((np.where(through, -side, side) > 0)[:, None], factor, 0.0)
        crosses = np.where(passing, hidden | ~front, through) & encloses
        self._cross(paths, at, part, crosses, front, is_in)
        paths.direction[at] = np.where(passing[:, None], paths.direction[at], wi)
        beyond = np.where(passing | through, -1.0, 1.0)
        paths.origin[at] = here + geometric * (beyond * 1e-6)[:, None]
        paths.beta[at] *= np.where(passing[:, None], 1.0, factor)
        paths.links[at] = np.where(passing, paths.links[at], part)
        return paths.beta[at].max(1) > 0

    def _cross(self, paths, at, part, crosses, front, is_in) -> None:
        for row, number, enters, has in zip(at[crosses], part[crosses], front[crosses], is_in[crosses], strict=True):
            slots = paths.inside[row]
            kept = [p for p in slots if p >= 0]
            if enters:
                kept.append(number)
            elif has:
                kept.reverse()
                kept.remove(number)
                kept.reverse()
            paths.inside[row] = (kept + [-1] * 4)[:4]
