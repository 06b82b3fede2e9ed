"""Motion in a glTF file: where nodes are and how meshes deform at a moment.

glTF 2.0, sections 3.7.2.2 and 3.11, interpolation by appendix C. In: the first animation of a file. Out: matrices and
weights of shapes at any moment, and the moments that keys are needed at. Called by `gltf`.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import pygltflib

from lantern.assets.accessors import AccessorReader
from lantern.assets.container import Container
from lantern.assets.errors import AssetError

KINDS = {"translation": "VEC3", "rotation": "VEC4", "scale": "VEC3", "weights": "SCALAR"}
BENDS = 4
"""Pieces that a stretch between two keys is cut into where it is no even motion."""
JUMP_SECONDS = 1e-4
"""How long a sudden change takes at most."""
MOST_KEYS = 2000


@dataclass(frozen=True)
class Channel:
    """One animated property of one node."""

    times: np.ndarray  # (k,) s, rising
    values: np.ndarray  # (k, width), with CUBICSPLINE (k, 3, width): tangent in, value, tangent out
    interpolation: str

    def at(self, time: float, *, turns: bool = False) -> np.ndarray:
        """(width,) float64 at a moment, held before the first key and after the last; `turns` for quaternions."""
        i = int(np.searchsorted(self.times, time, side="right")) - 1
        cubic = self.interpolation == "CUBICSPLINE"
        values = self.values[:, 1] if cubic else self.values
        if i < 0 or i >= len(self.times) - 1 or self.interpolation == "STEP":
            return np.asarray(values[min(max(i, 0), len(values) - 1)])
        span = self.times[i + 1] - self.times[i]
        t = (time - self.times[i]) / span
        first, second = values[i], values[i + 1]
        if cubic:
            leaving, arriving = span * self.values[i, 2], span * self.values[i + 1, 0]
            return np.asarray(
                (2 * t**3 - 3 * t**2 + 1) * first
                + (t**3 - 2 * t**2 + t) * leaving
                + (3 * t**2 - 2 * t**3) * second
                + (t**3 - t**2) * arriving
            )
        return _slerp(first, second, t) if turns else np.asarray(first + (second - first) * t)

    def moments(self) -> np.ndarray:
        """Moments [s] between which it changes evenly."""
        if self.interpolation == "STEP" and len(self.times) > 1:
            before = self.times[1:] - np.minimum(JUMP_SECONDS, np.diff(self.times) / 2)
            return np.sort(np.concatenate([self.times, before]))
        return _bent(self.times) if self.interpolation == "CUBICSPLINE" else self.times


def _bent(times: np.ndarray) -> np.ndarray:
    """Each stretch between two moments cut into BENDS."""
    if len(times) < 2:
        return times
    pieces = [np.linspace(a, b, BENDS, endpoint=False) for a, b in pairwise(times)]
    return np.concatenate([*pieces, times[-1:]])


def _slerp(first: np.ndarray, second: np.ndarray, t: float) -> np.ndarray:
    """The quaternion a share t of the way along the shorter arc."""
    first, second = first / (np.linalg.norm(first) or 1.0), second / (np.linalg.norm(second) or 1.0)
    cosine = float(first @ second)
    if cosine < 0:
        second, cosine = -second, -cosine
    if cosine > 1 - 1e-9:
        return np.asarray(first + (second - first) * t)
    angle = math.acos(cosine)
    return np.asarray((math.sin((1 - t) * angle) * first + math.sin(t * angle) * second) / math.sin(angle))


def composed(translation: Sequence[float], rotation: Sequence[float], scale: Sequence[float]) -> np.ndarray:
    """(4, 4) matrix of a translation [m], a quaternion x y z w of any length, and a scale (section 3.5.3)."""
    matrix = np.eye(4)
    x, y, z, w = rotation
    length = (x * x + y * y + z * z + w * w) ** 0.5 or 1.0
    x, y, z, w = x / length, y / length, z / length, w / length
    turn = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )
    matrix[:3, :3] = turn * np.array(scale)
    matrix[:3, 3] = translation
    return matrix


class Motion:
    """The first animation of a file; nothing moves in a file without one."""

    def __init__(self, container: Container, reader: AccessorReader, problems: list[str]) -> None:
        self._container = container
        self._nodes = container.document.nodes or []
        self._channels: dict[tuple[int, str], Channel] = {}
        animations = container.document.animations or []
        problems += [f"animation {n + 1} is not used: only the first is" for n in range(1, len(animations))]
        for number, channel in enumerate(animations[0].channels or []) if animations else []:
            where = f"animation channel {number}"
            target = channel.target
            if target is None or target.node is None or target.path not in KINDS:
                problems.append(f"{where}: what it moves is not known, it is left out")
                continue
            samplers = animations[0].samplers or []
            if not isinstance(channel.sampler, int) or not 0 <= channel.sampler < len(samplers):
                raise reader.fail(f"{where}: sampler {channel.sampler} is missing")
            self._channels[target.node, target.path] = _read_channel(
                reader, samplers[channel.sampler], target.path, where
            )

    def _moved(self, node: int) -> list[Channel]:
        return [c for path in ("translation", "rotation", "scale") if (c := self._channels.get((node, path)))]

    def moments(self, chain: Iterable[int]) -> np.ndarray:
        """Moments [s] of the keys that a part needs whose nodes, from the root down, are `chain`; none if it rests."""
        moving = [channels for node in chain if (channels := self._moved(node))]
        if not moving:
            return np.zeros(0)
        times = np.unique(np.concatenate([channel.moments() for channels in moving for channel in channels]))
        # One even motion on top of another is no even motion.
        times = _bent(times) if len(moving) > 1 else times
        return times if len(times) <= MOST_KEYS else times[np.linspace(0, len(times) - 1, MOST_KEYS).astype(int)]

    def matrix(self, number: int, time: float | None = None) -> np.ndarray:
        """(4, 4) node to parent at a moment, at rest for None. Raises AssetError for one that cannot be read."""
        node = self._nodes[number]
        try:
            matrix = self._matrix_at(number, node, time)
        except (TypeError, ValueError) as error:
            raise AssetError(self._container.name, f"node {number} has an unreadable transform ({error})") from error
        if not np.isfinite(matrix).all():
            raise AssetError(self._container.name, f"node {number} has a transform that is not finite")
        return matrix

    def _matrix_at(self, number: int, node: pygltflib.Node, time: float | None) -> np.ndarray:
        if node.matrix is not None:
            return np.array(node.matrix, np.float64).reshape(4, 4).T

        def value(path: str, rest: Sequence[float]) -> Sequence[float]:
            channel = self._channels.get((number, path))
            return rest if channel is None or time is None else channel.at(time, turns=path == "rotation").tolist()

        return composed(
            value("translation", node.translation or (0.0, 0.0, 0.0)),
            value("rotation", node.rotation or (0.0, 0.0, 0.0, 1.0)),
            value("scale", node.scale or (1.0, 1.0, 1.0)),
        )

    def shape_weights(self, number: int, rest: Sequence[float]) -> tuple[np.ndarray, np.ndarray]:
        """(moments (k,) [s], weights (k, shapes)) of a node's mesh; one moment, 0, for a mesh that keeps its shape."""
        channel = self._channels.get((number, "weights"))
        if channel is None:
            try:
                return np.zeros(1), np.array([rest], np.float64).reshape(1, -1)
            except (TypeError, ValueError) as error:
                raise AssetError(self._container.name, f"node {number} has unreadable weights ({error})") from error
        times = channel.moments()
        return times, np.stack([channel.at(float(time)) for time in times])


def _read_channel(reader: AccessorReader, sampler: pygltflib.AnimationSampler, path: str, where: str) -> Channel:
    times = reader.floats(sampler.input, "SCALAR").astype(np.float64)
    values = reader.floats(sampler.output, KINDS[path]).astype(np.float64)
    interpolation = sampler.interpolation or "LINEAR"
    if not len(times) or not np.isfinite(times).all() or (np.diff(times) <= 0).any():
        raise reader.fail(f"{where}: its times do not rise")
    if not np.isfinite(values).all():
        raise reader.fail(f"{where}: a value is not finite")
    parts = len(times) * (3 if interpolation == "CUBICSPLINE" else 1)
    if len(values) % parts or not len(values) or (path != "weights" and len(values) != parts):
        raise reader.fail(f"{where}: {len(values)} values for {len(times)} times")
    shape = (len(times), 3, -1) if interpolation == "CUBICSPLINE" else (len(times), -1)
    return Channel(times, values.reshape(shape), interpolation)
