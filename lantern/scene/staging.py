"""Pieces of a set around an asset: backdrops, plinths and bodies, and what light and colour are judged by.

In: the document, the boxes around its parts, what is wanted. Out: a patch that adds a part with a form, of a size and
at a place that suit the asset. Called by `arranging`.
"""

import math
from collections.abc import Callable, Collection
from typing import Any, Literal

from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.fields import Box
from lantern.scene.forms import (
    BallForm,
    BoxForm,
    ChartForm,
    CylinderForm,
    Form,
    PlaneForm,
    PlinthForm,
    SweepForm,
    TableTopForm,
)
from lantern.scene.keys import free_key
from lantern.scene.making import Made, two_digits
from lantern.scene.starts import size_of

Piece = Literal["plane", "sweep", "plinth", "table_top", "box", "ball", "cylinder", "mirror_ball", "grey_ball", "chart"]
NAMES: dict[Piece, str] = {
    "plane": "Plane", "sweep": "Sweep", "plinth": "Plinth", "table_top": "Table top", "box": "Box", "ball": "Ball",
    "cylinder": "Cylinder", "mirror_ball": "Mirror ball", "grey_ball": "Grey ball", "chart": "Colour chart",
}  # fmt: skip
_PAPER = ("set-grey", Material(name="Set, grey", base_color=(0.5, 0.5, 0.5), specular_roughness=0.6))
_MATT = {"specular_weight": 0.0, "specular_roughness": 1.0}
MATERIALS: dict[str, tuple[str, Material]] = {
    "mirror_ball": (
        "mirror",
        Material(name="Mirror", base_color=(1, 1, 1), base_metalness=1.0, specular_roughness=0.0),
    ),
    "grey_ball": ("grey-18", Material(name="Grey of 18 %", base_color=(0.18, 0.18, 0.18), **_MATT)),
    "chart": ("colour-chart", Material(name="Colour chart", base_color=(1, 1, 1), vertex_colors=True, **_MATT)),
}
"""Those of the pieces that are judged by; the others are of grey paper."""
_ALONE: Box = ((-0.15, 0.0, -0.15), (0.15, 0.3, 0.15))
"""Around nothing: a set may be built before there is an asset."""
_UNDER = ("plinth", "table_top")
_BEHIND = ("plane", "sweep")


def staged(scene: Scene, piece: Piece, box: Box | None) -> Made:
    """The patch that adds a piece, made for what stands in a box.

    A sweep or plane takes the place of the ground; a plinth or table top is put below what stands there, and the
    ground lowered: the asset stays in the picture as it is. Everything else is put beside it, to the right and the left
    as the camera sees it.
    """
    box = box or _ALONE
    size = size_of(box)
    form = _FORMS[piece](size, box)
    turn = _azimuth(scene.camera)
    key, number = free_key(scene.parts, piece.replace("_", "-"))
    worn, material = MATERIALS.get(piece, _PAPER)
    part = Part(
        name=NAMES[piece] if number == 1 else f"{NAMES[piece]} {number}",
        form=form,
        material=worn,
        offset=_place(scene, piece, box, size, turn),
        turn_y=round(math.degrees(turn), 3),
    )
    patch = [] if worn in scene.materials else [_added(f"/materials/{worn}", material)]
    return Made(key, f"Add {part.name}", [*patch, _added(f"/parts/{key}", part), *_ground(scene, form, box)])


def _added(path: str, value: Material | Part) -> dict[str, Any]:
    return {"op": "add", "path": path, "value": value.model_dump(mode="json")}


def _azimuth(camera: Camera) -> float:
    """The turn about the vertical [rad] by which the front of a form comes to face the camera."""
    (x, _, z), (a, _, c) = camera.position, camera.target
    return math.atan2(x - a, z - c) if (x, z) != (a, c) else 0.0


def _footprint(box: Box) -> float:
    (x0, _, z0), (x1, _, z1) = box
    return max(x1 - x0, z1 - z0, size_of(box) / 10)


_FORMS: dict[Piece, Callable[[float, Box], Form]] = {
    "plane": lambda size, box: PlaneForm(width=two_digits(6 * size), depth=two_digits(6 * size)),
    "sweep": lambda size, box: SweepForm(
        width=two_digits(8 * size), depth=two_digits(6 * size), height=two_digits(4 * size), bend=two_digits(1.5 * size)
    ),
    "plinth": lambda size, box: PlinthForm(
        width=two_digits(1.3 * _footprint(box)), height=two_digits(0.6 * size), edge=two_digits(size / 150)
    ),
    "table_top": lambda size, box: TableTopForm(
        width=two_digits(4 * size), depth=two_digits(2.6 * size), thickness=two_digits(0.08 * size),
        corner=two_digits(0.08 * size), edge=two_digits(0.012 * size),
    ),
    "box": lambda size, box: BoxForm(
        width=two_digits(0.3 * size), height=two_digits(0.3 * size), depth=two_digits(0.3 * size),
        edge=two_digits(size / 150),
    ),
    "cylinder": lambda size, box: CylinderForm(
        radius=two_digits(0.15 * size), height=two_digits(0.3 * size), edge=two_digits(size / 150)
    ),
    "ball": lambda size, box: BallForm(radius=two_digits(0.12 * size)),
    "mirror_ball": lambda size, box: BallForm(radius=two_digits(0.12 * size)),
    "grey_ball": lambda size, box: BallForm(radius=two_digits(0.12 * size)),
    "chart": lambda size, box: ChartForm(width=two_digits(0.4 * size)),
}  # fmt: skip


def _place(scene: Scene, piece: Piece, box: Box, size: float, turn: float) -> tuple[float, float, float]:
    (x0, low, z0), (x1, _, z1) = box
    x, z = (x0 + x1) / 2, (z0 + z1) / 2
    foot = low
    if piece in _UNDER or piece == "plane":
        aside, back = 0.0, 0.0
    elif piece == "sweep":
        aside, back = 0.0, size  # more floor before the wall than in front
    else:
        # The first to the right, the second to the left, and so on outwards.
        pair, left = divmod(sum(part.form is not None and not _carries(part.form) for part in scene.parts.values()), 2)
        aside = math.hypot(x1 - x0, z1 - z0) / 2 + size * (0.3 + 0.45 * pair)
        aside, back = -aside if left else aside, 0.0
        if any(part.form is not None and part.form.kind in _UNDER for part in scene.parts.values()):
            foot = min(low, scene.ground.height)
    right, front = (math.cos(turn), -math.sin(turn)), (math.sin(turn), math.cos(turn))
    x, z = x + aside * right[0] - back * front[0], z + aside * right[1] - back * front[1]
    return _rounded(x), _rounded(foot), _rounded(z)


def ground_again(scene: Scene, gone: Collection[str]) -> list[dict[str, Any]]:
    """The patch that brings the ground back when the last floor that was in its place goes."""
    floors = {key for key, part in scene.parts.items() if isinstance(part.form, PlaneForm | SweepForm)}
    is_last = bool(floors) and floors.issubset(gone)
    return [{"op": "replace", "path": "/ground/enabled", "value": True}] if is_last and not scene.ground.enabled else []


def _rounded(value: float) -> float:
    return float(f"{value:.6g}")


def _carries(form: Form) -> bool:
    return form.kind in (*_UNDER, *_BEHIND)


def _ground(scene: Scene, form: Form, box: Box) -> list[dict[str, Any]]:
    """What becomes of the ground, and of a floor that took its place."""
    if isinstance(form, PlaneForm | SweepForm):
        return [{"op": "replace", "path": "/ground/enabled", "value": False}] if scene.ground.enabled else []
    if isinstance(form, PlinthForm | TableTopForm):
        deep = form.height if isinstance(form, PlinthForm) else form.thickness
        height = _rounded(max(min(box[0][1] - deep, 1000.0), -1000.0))
        floors = {
            f"/parts/{key}/offset": [part.offset[0], height, part.offset[2]]
            for key, part in scene.parts.items()
            if isinstance(part.form, PlaneForm | SweepForm)
        }
        lowered = floors | {"/ground/height": height}
        return [{"op": "replace", "path": path, "value": value} for path, value in lowered.items()]
    return []
