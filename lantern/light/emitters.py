"""Every light but the environment map, as the rows that kernels sample: shaped lights, emissive triangles, the sun.

In: lights of the document, profiles, triangles of emissive parts in world space. Out: `Emitters`. Called by
`compile.compiled`. Photometry: CIE S 017 (lm, cd, lx, cd/m²) with Lambertian surfaces.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lantern.light.emissive import EmissiveTriangles
from lantern.light.light_row import aim, distant_row, emitted_color, extent, visibility, write_local
from lantern.light.profiles import PROFILE_SIZE, Profile
from lantern.light.shapes import CAMERA_SEES, DISK, LIGHT, RECTANGLE, REFLECTIONS_SEE, SPHERE, TRIANGLE, TUBE
from lantern.light.tree import Bounds, LightTree, build_tree
from lantern.scene.lights import DirectionalLight, Light


@dataclass(frozen=True, eq=False)
class Emitters:
    """Tables of the lights. Local ones come first and are the leaves of the tree; distant ones follow."""

    lights: np.ndarray  # rows of LIGHT
    shares: np.ndarray  # of the light tree
    nodes: np.ndarray  # rows of NODE
    local: int
    distant: int
    distant_illuminance: float  # lx, sum over the distant lights facing them
    ground_irradiance: np.ndarray  # (3,) lx of the distant lights on level ground
    triangle_lights: np.ndarray  # int32: light of each triangle of each emissive part, -1 for none
    part_triangles: dict[int, int]  # part -> where its triangles begin in `triangle_lights`
    shapes: np.ndarray  # (n,) int32 numbers of lights with a shape that rays can meet
    tree: LightTree


LightEntry = tuple[Light, int, int]
"""A light with its group and its link."""
Sun = tuple[np.ndarray, float, float, np.ndarray, int]
"""Direction (3,), radius [°], illuminance [lx], color (3,), group."""


@dataclass(frozen=True)
class _Locals:
    """Rows of all local lights before the tree has sorted them, and what it knows of them."""

    rows: np.ndarray
    bounds: Bounds


def _write_switches(row: np.ndarray, entry: LightEntry) -> None:
    light, group, link = entry
    row["group"], row["link"], row["seen"], row["casts"] = group, link, visibility(light), light.casts_shadow


def _local_rows(
    entries: Sequence[LightEntry],
    profiles: Sequence[Profile | None],
    shapings: Sequence[int],
    emissive: Sequence[EmissiveTriangles],
) -> _Locals:
    """Shaped lights first, then the triangles of glowing parts. Directional lights among the entries are left out."""
    shaped = [(n, entry) for n, entry in enumerate(entries) if not isinstance(entry[0], DirectionalLight)]
    count = len(shaped) + sum(len(part.rows) for part in emissive)
    rows = np.zeros(count, LIGHT.dtype)
    rows["casts"], rows["link"], rows["shaping"] = 1, -1, -1
    power, spread, reach = (np.zeros(count) for _ in range(3))
    low, high = np.zeros((count, 3)), np.zeros((count, 3))
    for place, (number, entry) in enumerate(shaped):
        row = rows[place]
        power[place], spread[place], reach[place] = write_local(
            row, entry[0], profiles[number], number, shapings[number]
        )
        _write_switches(row, entry)
        low[place], high[place] = row["position"] - extent(row), row["position"] + extent(row)
    place = len(shaped)
    for part in emissive:
        span = slice(place, place + len(part.rows))
        rows[span], power[span] = part.rows, part.power
        spread[span] = -1.0 if part.two_sided else 1.0
        low[span], high[span] = part.low, part.high
        place += len(part.rows)
    cluster = np.where(rows["kind"] == TRIANGLE, rows["part"], -1)
    return _Locals(rows, Bounds(low, high, rows["normal"], spread, reach, power, cluster))


def _distant_rows(entries: Sequence[LightEntry], sun: Sun | None) -> tuple[np.ndarray, float, np.ndarray]:
    """(rows of directional lights and the sun, lx that all give facing them, (3,) lx that they give level ground)."""
    directional = [(light, group, link) for light, group, link in entries if isinstance(light, DirectionalLight)]
    rows = np.zeros(len(directional) + (sun is not None), LIGHT.dtype)
    rows["casts"], rows["link"] = 1, -1
    illuminances, ground = np.zeros(len(rows)), np.zeros(3)
    for place, (light, group, link) in enumerate(directional):
        forward = aim(light.position, light.target, 0.0)[2]
        color = emitted_color(light)
        distant_row(rows[place], -forward, light.spread / 2, light.amount, color)
        _write_switches(rows[place], (light, group, link))
        illuminances[place] = light.amount
        ground += color * light.amount * max(-forward[1], 0.0)
    if sun is not None:
        direction, radius, illuminance, color, group = sun
        distant_row(rows[-1], direction, radius, illuminance, color)
        rows[-1]["group"], rows[-1]["seen"] = group, CAMERA_SEES | REFLECTIONS_SEE
        illuminances[-1] = illuminance
        ground += color * illuminance * max(direction[1], 0.0)
    total = float(illuminances.sum())
    rows["chance"] = illuminances / total if total > 0 else 0.0
    return rows, total, ground


def _triangle_numbers(places: np.ndarray, emissive: Sequence[EmissiveTriangles]) -> tuple[np.ndarray, dict[int, int]]:
    """(light of each triangle of each emissive part, where each part begins); `places` (all locals,) are the lights."""
    count = sum(len(part.rows) for part in emissive)
    first, begins = len(places) - count, {}
    begin = 0
    for part in emissive:
        begins[part.part] = begin
        begin += len(part.rows)
    return (places[first:].astype(np.int32) if count else np.full(1, -1, np.int32)), begins


def build_emitters(
    lights: Sequence[LightEntry],
    profiles: Sequence[Profile | None],
    emissive: Sequence[EmissiveTriangles],
    sun: Sun | None,
    before: Emitters | None = None,
    shapings: Sequence[int] | None = None,
) -> Emitters:
    """Tables for lights, the profiles of the same lights, emissive parts and the sun, or None.

    `shapings` are the rows of what shapes these lights, -1 for none; without them none is shaped.

    `before` are tables of the same lights, some of them changed.
    """
    local = _local_rows(lights, profiles, shapings or [-1] * len(lights), emissive)
    usable = np.flatnonzero(local.bounds.power > 0)
    tree = build_tree(local.bounds.of(usable), before.tree if before is not None else None)
    kept = usable[tree.order]
    distant, illuminance, ground = _distant_rows(lights, sun)
    # As plain numbers: NumPy copies rows of fields one field at a time.
    numbers = [rows.view(np.int32).reshape(len(rows), LIGHT.width) for rows in (local.rows, distant)]
    table = np.concatenate([numbers[0][kept], numbers[1]]).view(LIGHT.dtype).ravel()
    table["trail"][: len(kept)] = tree.trails
    places = np.full(len(local.rows), -1)
    places[kept] = np.arange(len(kept))
    triangle_lights, part_triangles = _triangle_numbers(places, emissive)
    is_met = np.isin(table["kind"], (RECTANGLE, DISK, SPHERE, TUBE)) & (table["area"] > 0)
    return Emitters(
        table if len(table) else LIGHT.zeros(1),
        tree.shares if len(kept) else np.zeros(1, np.float32),
        tree.nodes,
        len(kept),
        len(distant) if illuminance > 0 else 0,
        illuminance,
        ground,
        triangle_lights,
        part_triangles,
        np.flatnonzero(is_met).astype(np.int32),
        tree,
    )


def profile_table(profiles: Sequence[Profile | None]) -> np.ndarray:
    """One float32 block of the profiles, a row for each light, dark where there is none; nothing for none at all."""
    if not any(profiles):
        return np.zeros(1, np.float32)
    dark = np.zeros(PROFILE_SIZE, np.float32)
    return np.concatenate([p.candela.ravel() if p else dark for p in profiles])


ROOM = 1.05
"""Size of a box around a shape, relative to it."""


def proxies(lights: np.ndarray, shapes: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Triangles around the shaped lights, for the ray library: (positions (n, 3), indices (m, 3), light of each).

    A rectangle is itself; a disk its square; sphere and tube a box with room around them, so that its sides lie well
    before and behind what `meet_shape` meets.
    """
    positions: list[np.ndarray] = []
    indices: list[np.ndarray] = []
    owners: list[np.ndarray] = []
    square = np.array([[0, 1, 2], [0, 2, 3]])
    box = np.array(
        [
            [0, 1, 3],
            [0, 3, 2],
            [4, 7, 5],
            [4, 6, 7],
            [0, 4, 5],
            [0, 5, 1],
            [2, 3, 7],
            [2, 7, 6],
            [0, 2, 6],
            [0, 6, 4],
            [1, 5, 7],
            [1, 7, 3],
        ]
    )
    count = 0
    for number in shapes:
        row = lights[number]
        centre, x, y = row["position"], row["across"].astype(np.float64), row["along"].astype(np.float64)
        if row["kind"] in (RECTANGLE, DISK):
            r = 1.0 if row["kind"] == RECTANGLE else float(row["radius"])
            corners = centre + np.array([-x - y, x - y, x + y, y - x]) * r * 1.00001
            faces = square
        else:
            z = row["normal"].astype(np.float64)
            r = float(row["radius"]) * ROOM
            long = r if row["kind"] == SPHERE else float(row["half_length"]) * ROOM
            corners = centre + np.array(
                [i * x * r + j * y * r + k * z * long for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)]
            )
            faces = box
        positions.append(corners)
        indices.append(faces + count)
        owners.append(np.full(len(faces), number))
        count += len(corners)
    if not positions:
        return np.zeros((0, 3), np.float32), np.zeros((0, 3), np.uint32), np.zeros(1, np.int32)
    return (
        np.concatenate(positions).astype(np.float32),
        np.concatenate(indices).astype(np.uint32),
        np.concatenate(owners).astype(np.int32),
    )
