"""Rigs of our own: light arranged about an asset half a metre across, by kinds of light and what they are for.

Each is made of lights and of a graded environment with cards, so that none needs a file. Called by the library, which
shows them on the asset that is there.
"""

from collections.abc import Callable, Sequence

from lantern.scene.lights import BarnDoors, DirectionalLight, DiskLight, Light, RectangleLight, SpotLight, TubeLight
from lantern.scene.rigs import Rig
from lantern.scene.surroundings import Backdrop, Card, Environment, Graded, Ground

_MIDDLE = (0.0, 0.13, 0.0)
Color = tuple[float, float, float]


def _even(level: float, color: Color = (1.0, 1.0, 1.0), **fields: object) -> Environment:
    """Soft light from everywhere, a little darker from below."""
    r, g, b = (level * c for c in color)
    graded = Graded(zenith=(r, g, b), horizon=(0.8 * r, 0.8 * g, 0.8 * b), ground=(0.4 * r, 0.4 * g, 0.4 * b))
    return Environment.model_validate({"graded": graded, **fields})


def _box(name: str, at: Sequence[float], size: tuple[float, float], lx: float, kelvin: float, **more: object) -> Light:
    fields = {"name": name, "group": name, "position": at, "target": _MIDDLE, "width": size[0], "height": size[1]}
    return RectangleLight.model_validate({**fields, "unit": "lx", "amount": lx, "temperature": kelvin, **more})


def _strip(name: str, at: Sequence[float], length: float, lx: float, kelvin: float, **more: object) -> Light:
    return _box(name, at, (0.08, length), lx, kelvin, **more)


def _spot(name: str, at: Sequence[float], cone: float, lx: float, kelvin: float, **more: object) -> Light:
    fields = {"name": name, "group": name, "position": at, "target": _MIDDLE, "cone": cone, "unit": "lx"}
    return SpotLight.model_validate({**fields, "amount": lx, "temperature": kelvin, **more})


def _rig(
    name: str, lights: Sequence[Light], around: Environment, behind: tuple[Color, Color], floor: float, exposure: float,
    glow: float = 0.0,
) -> Rig:  # fmt: skip
    """A rig before a graded backdrop, (lower, upper) colours, over ground as bright as its lower one."""
    lower, upper = behind
    return Rig(
        name=name,
        lights={f"light-{number}": light for number, light in enumerate(lights, 1)},
        environment=around,
        backdrop=Backdrop(kind="gradient", color=lower, upper=upper, middle=0.45, glow=glow),
        ground=Ground(reflectance=(floor, floor, floor), reflection=0.04, reflection_roughness=0.25),
        exposure=exposure,
    )


def three_lamps() -> Rig:
    """A key from the left, half as much from the right, an edge from behind."""
    return _rig(
        "Key, fill and rim",
        [
            _box("Key", (-0.75, 0.75, 0.7), (0.5, 0.5), 9, 5200),
            _box("Fill", (0.9, 0.4, 0.6), (0.7, 0.5), 2.4, 6000),
            _strip("Rim", (0.45, 0.6, -0.75), 0.7, 10, 6500),
        ],
        _even(0.7), ((0.32, 0.31, 0.3), (0.08, 0.08, 0.09)), 0.35, -0.5,
    )  # fmt: skip


def broad_window() -> Rig:
    """A window at the left, its bars in every reflection, and a pale wall opposite."""
    cards = {
        "card-1": Card(name="Window", shape="window", azimuth=-95, elevation=25, width=62, height=58, luminance=14,
                       temperature=6200.0, edge=0.03),
        "card-2": Card(name="Pale wall", azimuth=95, elevation=5, width=100, height=60, luminance=0.5, edge=0.6),
    }  # fmt: skip
    return _rig("Window to the left", [], _even(0.45, cards=cards), ((0.5, 0.48, 0.45), (0.26, 0.26, 0.27)), 0.45, 0.1)


def two_strips() -> Rig:
    """Two long strips behind the sides: edges of light down whatever is round, and a dark front."""
    return _rig(
        "Two strips",
        [
            _strip("Left edge", (-0.85, 0.75, -0.55), 0.9, 9, 6000),
            _strip("Right edge", (0.85, 0.75, -0.55), 0.9, 9, 6000),
            _box("Front", (0.0, 0.9, 0.9), (0.5, 0.3), 1.6, 5600),
        ],
        _even(0.32), ((0.06, 0.06, 0.065), (0.015, 0.015, 0.018)), 0.07, 0.0, 0.6,
    )  # fmt: skip


def overhead_cloth() -> Rig:
    """A large cloth overhead and white below the front: soft, with one broad gradient from above."""
    cards = {
        "card-1": Card(name="Below the front", azimuth=180, elevation=-35, width=90, height=40, luminance=1.2, edge=0.7)
    }
    return _rig(
        "Cloth overhead",
        [_box("Cloth", (0.0, 0.95, 0.05), (1.2, 1.0), 10, 5600, seen_by_camera=False)],
        _even(0.6, cards=cards), ((0.62, 0.62, 0.61), (0.42, 0.42, 0.43)), 0.55, -0.1,
    )  # fmt: skip


def low_back_light() -> Rig:
    """A low lamp behind, towards the camera: long shadows to the front, and light through what lets it through."""
    return _rig(
        "Low back light",
        [
            _box("Back", (0.35, 0.22, -0.95), (0.5, 0.3), 12, 4300),
            _box("Front", (-0.6, 0.6, 0.9), (0.8, 0.6), 1.8, 6500),
        ],
        _even(0.5, (0.9, 0.95, 1.0)), ((0.28, 0.22, 0.16), (0.07, 0.06, 0.06)), 0.3, -0.1, 0.5,
    )  # fmt: skip


def white_tent() -> Rig:
    """White all around, two black flags at the sides to draw the edges of what is pale."""
    cards = {
        f"card-{n}": Card(name=f"Flag {n}", shape="strip", azimuth=side, elevation=5, width=24, height=110,
                          blend="darken", edge=0.5)
        for n, side in ((1, -88.0), (2, 88.0))
    }  # fmt: skip
    return _rig(
        "White tent",
        [_box("Above", (0.0, 1.0, 0.3), (1.0, 0.8), 3, 5600)],
        _even(1.0, cards=cards), ((0.9, 0.9, 0.9), (0.82, 0.82, 0.82)), 0.8, -0.3,
    )  # fmt: skip


def hard_sun() -> Rig:
    """A small hard light high at the right and the blue of an open sky: crisp shadows."""
    sun = DirectionalLight(
        name="Sun", group="Sun", position=(0.6, 0.8, 0.45), target=_MIDDLE, amount=11, spread=0.6, temperature=5200.0
    )
    return _rig("Hard sun", [sun], _even(0.9, (0.62, 0.78, 1.0)), ((0.72, 0.66, 0.58), (0.5, 0.56, 0.64)), 0.5, -0.6)


def rim_alone() -> Rig:
    """One lamp straight above and behind: an outline in the dark."""
    return _rig(
        "Rim alone",
        [_box("Rim", (0.0, 0.85, -0.6), (0.9, 0.12), 9, 6000, grid=50.0)],
        _even(0.14), ((0.03, 0.03, 0.034), (0.008, 0.008, 0.01)), 0.04, 0.7, 0.8,
    )  # fmt: skip


def warm_and_cool() -> Rig:
    """A warm key against cool light from the other side."""
    return _rig(
        "Warm against cool",
        [
            _box("Warm", (-0.8, 0.5, 0.55), (0.4, 0.5), 7, 3000),
            _box("Cool", (0.8, 0.55, -0.25), (0.35, 0.8), 6, 10000),
        ],
        _even(0.42, (0.8, 0.85, 1.0)), ((0.14, 0.13, 0.15), (0.03, 0.035, 0.05)), 0.16, -0.1, 0.5,
    )  # fmt: skip


def lamp_at_night() -> Rig:
    """A warm pool of light from above in a blue night."""
    return _rig(
        "Lamp at night",
        [
            _spot("Pool", (0.1, 1.1, 0.15), 38, 9, 2700, softness=0.9),
            _strip("Moon", (-0.7, 0.6, -0.6), 0.8, 2.6, 12000),
        ],
        _even(0.22, (0.4, 0.55, 1.0)), ((0.05, 0.055, 0.08), (0.008, 0.01, 0.02)), 0.12, 0.4,
    )  # fmt: skip


def many_points() -> Rig:
    """Nine small lamps in a ring and one soft one: sparkle on facets and rims."""
    places = [(-0.5, 0.9, 0.2), (-0.3, 1.0, -0.2), (0.0, 1.05, 0.3), (0.3, 1.0, -0.25), (0.5, 0.9, 0.25),
              (-0.7, 0.5, 0.5), (0.7, 0.5, 0.5), (-0.55, 0.45, -0.6), (0.55, 0.45, -0.6)]  # fmt: skip
    lamps: list[Light] = [
        DiskLight(name=f"Point {n}", group="Points", position=at, target=_MIDDLE, radius=0.015, unit="lx", amount=1.1,
                  temperature=5600.0)
        for n, at in enumerate(places, 1)
    ]  # fmt: skip
    return _rig(
        "Sparkle", [*lamps, _box("Soft", (0.0, 0.7, 0.9), (0.9, 0.5), 1.6, 5600)],
        _even(0.4), ((0.2, 0.2, 0.21), (0.06, 0.06, 0.07)), 0.22, -0.2, 0.4,
    )  # fmt: skip


def dark_field() -> Rig:
    """For glass: bright to both sides of a dark middle behind, so that edges are lines of light."""
    cards = {
        "card-1": Card(name="Left of the dark", azimuth=-42, elevation=8, width=34, height=80, luminance=9, edge=0.25),
        "card-2": Card(name="Right of the dark", azimuth=42, elevation=8, width=34, height=80, luminance=9, edge=0.25),
    }
    return _rig(
        "Dark field for glass", [_box("Above", (0.0, 0.9, -0.1), (0.6, 0.4), 2, 5600)],
        _even(0.04, cards=cards), ((0.02, 0.02, 0.022), (0.01, 0.01, 0.012)), 0.03, 0.5,
    )  # fmt: skip


def bright_field() -> Rig:
    """For glass: a bright middle behind and dark to both sides, so that edges are dark lines."""
    cards = {
        "card-1": Card(name="Behind", azimuth=0, elevation=10, width=60, height=70, luminance=4, edge=0.3),
    }
    return _rig(
        "Bright field for glass", [], _even(0.15, cards=cards), ((0.95, 0.95, 0.94), (0.7, 0.7, 0.71)), 0.6, 0.3, 0.3
    )


def slashed_wall() -> Rig:
    """Light cut by barn doors to a slash, and a tube of its own colour low behind."""
    slash = _box("Slash", (-0.6, 0.8, 0.7), (0.4, 0.4), 9, 4800, doors=BarnDoors(upper=-4, lower=-4, left=50, right=50))
    tube = TubeLight(
        name="Tube", group="Tube", position=(0.45, 0.12, -0.45), target=_MIDDLE, length=0.5, radius=0.008, unit="lx",
        amount=4, gel="magenta", temperature=5600.0, roll=60,
    )  # fmt: skip
    return _rig("Slash and tube", [slash, tube], _even(0.3), ((0.13, 0.11, 0.12), (0.03, 0.03, 0.035)), 0.2, 0.0)


RIGS: dict[str, Callable[[], Rig]] = {
    "three-lamps": three_lamps, "window": broad_window, "two-strips": two_strips, "overhead": overhead_cloth,
    "back-light": low_back_light, "white-tent": white_tent, "hard-sun": hard_sun, "rim": rim_alone,
    "warm-cool": warm_and_cool, "night": lamp_at_night, "sparkle": many_points, "dark-field": dark_field,
    "bright-field": bright_field, "slash": slashed_wall,
}  # fmt: skip
"""By their keys, in the order in which the shelf shows them."""
