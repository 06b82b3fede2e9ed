"""Motion in a glTF file: where nodes are and how meshes deform at a moment.

glTF 2.0, sections 3.7.2.2 and 3.11, interpolation by appendix C; `KHR_animation_pointer` as far as it points at nodes.
In: an animation of a file. Out: matrices and weights of shapes at any moment, and the moments that keys are needed at.
Called by `nodes`.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.spatial.transform import Rotation

from lantern.assets.errors import AssetError
from lantern.assets.imported import ImportedAsset
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry

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

    def at(self, moments: np.ndarray, *, turns: bool = False) -> np.ndarray:
        """(m, width) float64 at moments (m,), held before the first key and after the last; `turns` for quaternions."""
        cubic = self.interpolation == "CUBICSPLINE"
        values = self.values[:, 1] if cubic else self.values
        last = len(self.times) - 1
        i = np.clip(np.searchsorted(self.times, moments, side="right") - 1, 0, last)
        if self.interpolation == "STEP" or last == 0:
            return np.asarray(values[i])
        i = np.minimum(i, last - 1)
        span = self.times[i + 1] - self.times[i]
        t = np.clip((moments - self.times[i]) / span, 0.0, 1.0)[:, None]
        first, second = values[i], values[i + 1]
        if cubic:
            leaving, arriving = span[:, None] * self.values[i, 2], span[:, None] * self.values[i + 1, 0]
            return np.asarray(
                (2 * t**3 - 3 * t**2 + 1) * first
                + (t**3 - 2 * t**2 + t) * leaving
                + (3 * t**2 - 2 * t**3) * second
                + (t**3 - t**2) * arriving
            )
        return _slerp(first, second, t[:, 0]) if turns else np.asarray(first + (second - first) * t)

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


def _rotations(quaternions: np.ndarray) -> Rotation:
    """Rotations of quaternions (..., 4) x y z w of any length; one of no length turns nothing."""
    length = np.linalg.norm(quaternions, axis=-1, keepdims=True)
    return Rotation.from_quat(np.where(length > 0, quaternions, [0.0, 0.0, 0.0, 1.0]))


def _slerp(first: np.ndarray, second: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Quaternions (m, 4) a share t (m,) of the way along the shorter arc."""
    begin = _rotations(first)
    way = Rotation.from_rotvec((begin.inv() * _rotations(second)).as_rotvec() * t[:, None])
    return np.asarray((begin * way).as_quat())


def composed(translation: np.ndarray, rotation: np.ndarray, scale: np.ndarray) -> np.ndarray:
    """(m, 4, 4) matrices of translations (m, 3) [m], quaternions (m, 4) and scales (m, 3) (section 3.5.3)."""
    matrices = np.zeros((len(translation), 4, 4))
    matrices[:, :3, :3] = _rotations(rotation).as_matrix() * scale[:, None, :]
    matrices[:, :3, 3], matrices[:, 3, 3] = translation, 1.0
    return matrices


POINTER = "KHR_animation_pointer"
_NODE = re.compile(r"/nodes/(\d{1,9})/(translation|rotation|scale|weights)")


def clips_of(container: Container) -> list[str]:
    """Names of the animations of a file, each another."""
    names: list[str] = []
    for number, animation in enumerate(container.document.animations or []):
        name = str(animation.name or f"Clip {number + 1}")[:180]
        names.append(name if name not in names else f"{name} {number + 1}")
    return names


def clip_number(asset: ImportedAsset, clip: str | None) -> int:
    """Number of the clip with a name; of one that is not there the first, and that is said."""
    if clip is None or clip in asset.clips:
        return 0 if clip is None else asset.clips.index(clip)
    asset.problems.append(f"there is no clip {clip!r}; it moves as the first says, if there is one")
    return 0


def _target(channel: Entry) -> tuple[int, str] | None:
    """(node, property) that a channel moves; None for what has no place here."""
    target = channel.target
    if target is None:
        return None
    if target.path == "pointer":
        extension = (target.extensions or {}).get(POINTER)
        found = _NODE.fullmatch(str(extension.get("pointer"))) if isinstance(extension, dict) else None
        return (int(found[1]), found[2]) if found else None
    return (target.node, target.path) if target.node is not None and target.path in KINDS else None


class Motion:
    """One animation of a file; nothing moves in a file without one."""

    def __init__(self, container: Container, reader: AccessorReader, problems: list[str], animation: int = 0) -> None:
        self._container = container
        self._nodes = container.document.nodes or []
        self._channels: dict[tuple[int, str], Channel] = {}
        animations = container.document.animations or []
        for number, channel in enumerate(animations[animation].channels or []) if animations else []:
            where = f"animation channel {number}"
            target = _target(channel)
            if target is None:
                problems.append(f"{where}: what it moves is not known, it is left out")
                continue
            samplers = animations[animation].samplers or []
            if not isinstance(channel.sampler, int) or not 0 <= channel.sampler < len(samplers):
                raise reader.fail(f"{where}: sampler {channel.sampler} is missing")
            self._channels[target] = _read_channel(reader, samplers[channel.sampler], target[1], where)

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

    def moments_of_all(self, nodes: Iterable[int]) -> np.ndarray:
        """Moments [s] at which any of some nodes is elsewhere, so close that turns between them are nearly straight."""
        found = [channel.moments() for node in nodes for channel in self._moved(node)]
        return _bent(np.unique(np.concatenate(found))) if found else np.zeros(0)

    def matrix(self, number: int) -> np.ndarray:
        """(4, 4) node to parent at rest. Raises AssetError for one that cannot be read."""
        return np.asarray(self._checked(number, None)[0])

    def matrices(self, number: int, moments: np.ndarray) -> np.ndarray:
        """(m, 4, 4) node to parent at moments (m,) [s]. Raises AssetError for one that cannot be read."""
        return self._checked(number, moments)

    def _checked(self, number: int, moments: np.ndarray | None) -> np.ndarray:
        try:
            matrices = self._matrices_at(number, moments)
        except (TypeError, ValueError) as error:
            raise AssetError(self._container.name, f"node {number} has an unreadable transform ({error})") from error
        if not np.isfinite(matrices).all():
            raise AssetError(self._container.name, f"node {number} has a transform that is not finite")
        return matrices

    def _matrices_at(self, number: int, moments: np.ndarray | None) -> np.ndarray:
        node, count = self._nodes[number], 1 if moments is None else len(moments)
        if node.matrix is not None:
            return np.broadcast_to(np.array(node.matrix, np.float64).reshape(4, 4).T, (count, 4, 4))

        def values(path: str, rest: Sequence[float]) -> np.ndarray:
            channel = self._channels.get((number, path))
            if channel is None or moments is None:
                return np.broadcast_to(np.array(rest, np.float64), (count, len(rest)))
            return channel.at(moments, turns=path == "rotation")

        return composed(
            values("translation", node.translation or (0.0, 0.0, 0.0)),
            values("rotation", node.rotation or (0.0, 0.0, 0.0, 1.0)),
            values("scale", node.scale or (1.0, 1.0, 1.0)),
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
        return times, channel.at(times)

    def shape_weights_at(self, number: int, times: np.ndarray, weights: np.ndarray) -> np.ndarray:
        """(k, shapes) weights of a node's mesh at moments (k,) [s]; `weights` are those of one that keeps its shape."""
        channel = self._channels.get((number, "weights"))
        return np.repeat(weights[:1], len(times), 0) if channel is None else channel.at(times)


def _read_channel(reader: AccessorReader, sampler: Entry, path: str, where: str) -> Channel:
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
