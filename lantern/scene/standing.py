"""The unit and the upright axis of an asset; and how they are put right, with everything around it.

In: the document, the box around the asset, what is wanted. Out: a document. Called by `arranging`. What has a place or
a length follows: ground, lights, haze, camera, decals, depths and patterns of materials; so the picture stays as it
was, but for focus and depth of field, which are what a wrong unit breaks.
"""

from collections.abc import Sequence
from typing import Any, TypeVar

import numpy as np

from lantern.scene.decal_places import scaled_decal
from lantern.scene.document import Asset, Camera, Material, Part, Scene
from lantern.scene.fields import Box
from lantern.scene.forms import scaled_form
from lantern.scene.framing import fit_camera
from lantern.scene.inputs import scaled_input
from lantern.scene.layers import scaled_layers
from lantern.scene.movements import placed_move
from lantern.scene.placed import Placed
from lantern.scene.scaled_light import scaled_light
from lantern.scene.scatter import scaled_scatter
from lantern.scene.starts import as_bright
from lantern.scene.turning import UPRIGHT

_Placed = TypeVar("_Placed", bound=Placed)
_DEPTHS = ("transmission_depth", "subsurface_radius")
"""Lengths of a material, in the space of the asset."""
_LIMITS = {"transmission_depth": 1000.0, "subsurface_radius": 10.0}


def rescaled(scene: Scene, asset: Asset, scale: float) -> Scene:
    """A document whose asset has another unit [m], and what is around it as much larger."""
    ratio = scale / asset.scale

    def place(point: Sequence[float]) -> tuple[float, ...]:
        return tuple(_held(p * ratio, 1e6) for p in point)

    def seen(camera: Camera) -> Camera:
        on = camera.focus_on
        # Of a part of the asset the point is told in the unit of its file.
        if on is not None and on.part in scene.parts and scene.parts[on.part].form is not None:
            on = on.model_copy(update={"point": place(on.point)})
        keys = tuple(
            key.model_copy(update={"position": place(key.position), "target": place(key.target)}) for key in camera.keys
        )
        return camera.model_copy(
            update={
                "position": place(camera.position), "target": place(camera.target), "focus_on": on, "keys": keys,
                "focus_distance": min(max(camera.focus_distance * ratio, 0.001), 1e6),
            }
        )  # fmt: skip

    return scene.model_copy(
        update={
            "asset": asset.model_copy(update={"scale": scale}),
            "parts": {key: _sized(_carried(part, place), ratio) for key, part in scene.parts.items()},
            "part_groups": {key: _carried(group, place) for key, group in scene.part_groups.items()},
            "materials": {key: _material(material, ratio) for key, material in scene.materials.items()},
            "decals": {key: scaled_decal(decal, ratio) for key, decal in scene.decals.items()},
            **scaled_light(scene, place, ratio, _held(scene.ground.height * ratio, 1000.0)),
            "camera": seen(scene.camera),
            "motion": scene.motion.model_copy(
                update={"moves": {key: placed_move(move, place, ratio) for key, move in scene.motion.moves.items()}}
            ),
            "shots": {key: shot.model_copy(update={"camera": seen(shot.camera)}) for key, shot in scene.shots.items()},
        }
    )


def turned_up(scene: Scene, asset: Asset, up: str, box: Box) -> Scene:
    """A document whose asset, in a box, has another upright axis: it stands on the ground and in the picture."""
    turn = np.array(UPRIGHT[up]) @ np.array(UPRIGHT[asset.up]).T
    corners = np.array(box, np.float64) @ turn.T
    low, high = corners.min(axis=0), corners.max(axis=0)

    def place(point: Sequence[float]) -> tuple[float, ...]:
        return tuple(_held(float(v), 1e6) for v in turn @ np.array(point, np.float64))

    aspect = scene.print.width / scene.print.height
    return scene.model_copy(
        update={
            "asset": asset.model_copy(update={"up": up}),
            "parts": {key: part if part.form else _carried(part, place) for key, part in scene.parts.items()},
            "part_groups": {key: _carried(group, place) for key, group in scene.part_groups.items()},
            "ground": scene.ground.model_copy(update={"height": _held(float(low[1]), 1000.0)}),
            "camera": fit_camera(scene.camera, low, high, aspect, keep_direction=True),
        }
    )


def _carried(one: _Placed, place: Any) -> _Placed:
    return one.model_copy(update={"offset": place(one.offset), "pivot": place(one.pivot)})


def _sized(part: Part, ratio: float) -> Part:
    """A part, whose form, displacement, scatter and rounding, if it has them, are as much larger."""
    moved = _held(part.displacement * ratio, 100.0)
    form = None if part.form is None else scaled_form(part.form, ratio)
    scatter = None if part.strewn is None else scaled_scatter(part.strewn, ratio)
    radius = None if part.edge_radius is None else min(max(part.edge_radius * ratio, 1e-6), 10.0)
    pattern = None if part.displacement_input is None else scaled_input(part.displacement_input, ratio)
    changes = {"form": form, "displacement": moved, "strewn": scatter, "edge_radius": radius}
    return part.model_copy(update=changes | {"displacement_input": pattern})


def _material(material: Material, ratio: float) -> Material:
    depths = {name: min(getattr(material, name) * ratio, _LIMITS[name]) for name in _DEPTHS}
    inputs = {name: scaled_input(one, ratio) for name, one in material.inputs.items()}
    layers = scaled_layers(material.layers, ratio)
    return as_bright(material, ratio).model_copy(
        update={**depths, "bump": _held(material.bump * ratio, 100.0), "inputs": inputs, "layers": layers}
    )


def _held(value: float, most: float) -> float:
    return float(f"{min(max(value, -most), most):.9g}")
