"""The ray library: the only module that knows Embree, its handles and its memory layout.

Embree 4's C library comes inside the `embreex` wheel. The host sets scenes up through ctypes; kernels call
`rtcIntersect1` and `rtcOccluded1` by symbol. The library is loaded on import, before any module with
cached kernels, because cached code resolves its symbols when it is loaded.
"""

import contextlib
import ctypes
from collections.abc import Iterator
from importlib.metadata import files
from pathlib import Path

import llvmlite.binding as llvm
import numpy as np
from numba import njit, types
from numba.core.types.functions import ExternalFunction
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.memory import aligned, load_f32, peek_f32, peek_u32, store_f32, store_u32
from lantern.kernel.vectors import EXACT, SMALL

TRIANGLES, INSTANCE, INSTANCE_ARRAY = 0, 121, 122
INDEX_BUFFER, VERTEX_BUFFER, TRANSFORM_BUFFER = 0, 1, 23
FLOAT3, UINT3, FLOAT3X4_ROW_MAJOR = 0x9003, 0x5003, 0x9134
DYNAMIC = 1
QUALITY_MEDIUM, QUALITY_REFIT = 1, 3
FAR = f32(3e38)

# 32-bit slots of RTCRayHit; an occlusion ray uses the first twelve.
ORIGIN, NEAR, DIRECTION, TIME, FAR_SLOT, MASK, FLAGS = 0, 3, 4, 7, 8, 9, 11
BARYCENTRIC_U, BARYCENTRIC_V, PRIMITIVE, GEOMETRY, INSTANCE_ID, COPY = 15, 16, 17, 18, 19, 20
RAY_SLOTS = 32
VERTEX_FLOATS, NORMAL_AT = 8, 4
NOTHING = u32(0xFFFFFFFF)


class RayLibraryError(RuntimeError):
    """The ray library could not be loaded or refused a call."""


def _library_path(stem: str) -> Path:
    for entry in files("embreex") or []:
        if entry.name.startswith(stem):
            return Path(str(entry.locate())).resolve()
    raise RayLibraryError(
        f"{stem} is not in the embreex package: reinstall it with `pip install --force-reinstall embreex`"
    )


def _load() -> ctypes.CDLL:
    ctypes.CDLL(str(_library_path("libtbb")), mode=ctypes.RTLD_GLOBAL)
    path = str(_library_path("libembree4"))
    library = ctypes.CDLL(path)
    llvm.load_library_permanently(path)
    pointer, unsigned, size = ctypes.c_void_p, ctypes.c_uint, ctypes.c_size_t
    signatures = {
        "rtcNewDevice": (pointer, [ctypes.c_char_p]),
        "rtcReleaseDevice": (None, [pointer]),
        "rtcGetDeviceError": (ctypes.c_int, [pointer]),
        "rtcNewScene": (pointer, [pointer]),
        "rtcSetSceneFlags": (None, [pointer, ctypes.c_int]),
        "rtcSetSceneBuildQuality": (None, [pointer, ctypes.c_int]),
        "rtcCommitScene": (None, [pointer]),
        "rtcReleaseScene": (None, [pointer]),
        "rtcNewGeometry": (pointer, [pointer, ctypes.c_int]),
        "rtcSetSharedGeometryBuffer": (
            None,
            [pointer, ctypes.c_int, unsigned, ctypes.c_int, pointer, size, size, size],
        ),
        "rtcSetGeometryTimeStepCount": (None, [pointer, unsigned]),
        "rtcSetGeometryInstancedScene": (None, [pointer, pointer]),
        "rtcSetGeometryTransform": (None, [pointer, unsigned, ctypes.c_int, pointer]),
        "rtcCommitGeometry": (None, [pointer]),
        "rtcAttachGeometryByID": (None, [pointer, pointer, unsigned]),
        "rtcDetachGeometry": (None, [pointer, unsigned]),
        "rtcSetGeometryMask": (None, [pointer, unsigned]),
        "rtcSetGeometryBuildQuality": (None, [pointer, ctypes.c_int]),
        "rtcUpdateGeometryBuffer": (None, [pointer, ctypes.c_int, unsigned]),
        "rtcGetGeometry": (pointer, [pointer, unsigned]),
        "rtcReleaseGeometry": (None, [pointer]),
    }
    for name, (result, arguments) in signatures.items():
        function = getattr(library, name)
        function.restype, function.argtypes = result, arguments
    return library


_LIBRARY = _load()
_device: int | None = None


def _shared_device() -> int:
    """The library's device, made when the first tree is built: with it come threads, which a fork would lose."""
    global _device
    if _device is None:
        _device = _LIBRARY.rtcNewDevice(None)
    return _device


@contextlib.contextmanager
def building_alone() -> Iterator[None]:
    """Trees are built by the calling thread, and no thread is left behind: the process may fork afterwards.

    To be entered before any tree is built; the trees built inside must be gone at its end. Raises RayLibraryError.
    """
    global _device
    if _device is not None:
        raise RayLibraryError("trees have been built by several threads in this process already")
    _device = _LIBRARY.rtcNewDevice(b"threads=1")
    try:
        yield
    finally:
        _LIBRARY.rtcReleaseDevice(_device)
        _device = None


def _check(what: str) -> None:
    code = _LIBRARY.rtcGetDeviceError(_shared_device())
    if code:
        raise RayLibraryError(f"the ray library failed to {what} (error {code})")


class MeshTree:
    """Bottom-level tree over one triangle mesh. Keeps the arrays that the library reads.

    `positions` (n, 3) or, for a mesh that deforms, (steps, n, 3) float32 [m] at even times from shutter open to
    close; `indices` (m, 3) uint32. `normals`, of the shape of the positions, are kept beside them for kernels. One that
    `bends` can be given other positions.
    """

    def __init__(
        self, positions: np.ndarray, indices: np.ndarray, normals: np.ndarray | None = None, *, bends: bool = False
    ) -> None:
        poses = positions if positions.ndim == 3 else positions[None]
        self.steps, count = len(poses), poses.shape[1]
        # A row is x y z 0, nx ny nz 0: one half of a cache line, and padding enough for the library's 16-byte reads.
        self.vertices = aligned((self.steps, count, VERTEX_FLOATS), np.float32)
        self.vertices[..., :3] = poses
        if normals is not None:
            self.vertices[..., 4:7] = normals
        self.indices = np.ascontiguousarray(indices, np.uint32)
        self._scene = _LIBRARY.rtcNewScene(_shared_device())
        _LIBRARY.rtcSetSceneBuildQuality(self._scene, QUALITY_MEDIUM)
        geometry = _LIBRARY.rtcNewGeometry(_shared_device(), TRIANGLES)
        _LIBRARY.rtcSetGeometryTimeStepCount(geometry, self.steps)
        for step, pose in enumerate(self.vertices):
            _LIBRARY.rtcSetSharedGeometryBuffer(
                geometry, VERTEX_BUFFER, step, FLOAT3, pose.ctypes.data, 0, 4 * VERTEX_FLOATS, count
            )
        _LIBRARY.rtcSetSharedGeometryBuffer(
            geometry, INDEX_BUFFER, 0, UINT3, self.indices.ctypes.data, 0, 12, len(self.indices)
        )
        # The instance decides who sees the mesh; a geometry's own mask would let only the first kind of ray through.
        _LIBRARY.rtcSetGeometryMask(geometry, 0xFFFFFFFF)
        if bends:
            _LIBRARY.rtcSetSceneFlags(self._scene, DYNAMIC)
            _LIBRARY.rtcSetGeometryBuildQuality(geometry, QUALITY_REFIT)
        _LIBRARY.rtcCommitGeometry(geometry)
        _LIBRARY.rtcAttachGeometryByID(self._scene, geometry, 0)
        _LIBRARY.rtcReleaseGeometry(geometry)
        _LIBRARY.rtcCommitScene(self._scene)
        _check("build the tree of a mesh")

    def bend(self, positions: np.ndarray, normals: np.ndarray) -> None:
        """Give a mesh that bends other positions and normals (steps, n, 3): its boxes are fitted, its tree stays.

        What instances it is to be committed again.
        """
        self.vertices[..., :3] = positions
        self.vertices[..., 4:7] = normals
        geometry = _LIBRARY.rtcGetGeometry(self._scene, 0)
        for step in range(self.steps):
            _LIBRARY.rtcUpdateGeometryBuffer(geometry, VERTEX_BUFFER, step)
        _LIBRARY.rtcCommitGeometry(geometry)
        _LIBRARY.rtcCommitScene(self._scene)
        _check("bend the tree of a mesh")

    @property
    def handle(self) -> int:
        return int(self._scene)

    def __del__(self) -> None:
        if getattr(self, "_scene", None):
            _LIBRARY.rtcReleaseScene(self._scene)
            self._scene = None


class InstanceTree:
    """Top-level tree: a `MeshTree` for each part, with placement and visibility; of a strewn part many copies."""

    def __init__(self) -> None:
        self._scene = _LIBRARY.rtcNewScene(_shared_device())
        _LIBRARY.rtcSetSceneFlags(self._scene, DYNAMIC)
        _LIBRARY.rtcSetSceneBuildQuality(self._scene, QUALITY_MEDIUM)
        self._instances: list[int] = []
        self._meshes: list[MeshTree] = []
        self._masks: list[int] = []
        self._copies: dict[int, list[np.ndarray]] = {}
        """What the library reads of parts that are strewn: (n, 12) for each step."""
        _LIBRARY.rtcCommitScene(self._scene)

    @property
    def handle(self) -> int:
        """What kernels pass to `intersect` and `is_occluded`."""
        return int(self._scene)

    def add(self, mesh: MeshTree, poses: np.ndarray, mask: int) -> int:
        """Append an instance and return its number; `mask` has the bits of the rays that see it.

        `poses` is as for `place`.
        """
        number = len(self._instances)
        self._instances.append(self._attached(number, mesh, INSTANCE))
        self._meshes.append(mesh)
        self._masks.append(mask)
        self.place(number, poses)
        return number

    def _attached(self, number: int, mesh: MeshTree, kind: int) -> int:
        instance = _LIBRARY.rtcNewGeometry(_shared_device(), kind)
        _LIBRARY.rtcSetGeometryInstancedScene(instance, mesh.handle)
        _LIBRARY.rtcAttachGeometryByID(self._scene, instance, number)
        return int(instance)

    def _become(self, number: int, kind: int) -> None:
        """Let an instance be one of another kind."""
        _LIBRARY.rtcDetachGeometry(self._scene, number)
        _LIBRARY.rtcReleaseGeometry(self._instances[number])
        self._instances[number] = self._attached(number, self._meshes[number], kind)

    def place(self, number: int, poses: np.ndarray) -> None:
        """Move an instance; takes effect at the next `commit`.

        `poses` is (steps, 3, 4), object to world at even times from shutter open to close, one step for a part at rest;
        or (n, steps, 3, 4) for n copies of it.
        """
        if poses.ndim == 4 or number in self._copies:
            # The number of copies of a geometry is fixed once its buffer is set.
            self._become(number, INSTANCE_ARRAY if poses.ndim == 4 else INSTANCE)
            self._copies.pop(number, None)
        instance = self._instances[number]
        _LIBRARY.rtcSetGeometryTimeStepCount(instance, poses.shape[-3])
        if poses.ndim == 4:
            self._copies[number] = [aligned((len(poses), 12), np.float32) for _ in range(poses.shape[1])]
            for step, rows in enumerate(self._copies[number]):
                rows[:] = poses[:, step].reshape(-1, 12)
                _LIBRARY.rtcSetSharedGeometryBuffer(
                    instance, TRANSFORM_BUFFER, step, FLOAT3X4_ROW_MAJOR, rows.ctypes.data, 0, 48, len(rows)
                )
        else:
            for step, pose in enumerate(poses):
                rows = np.ascontiguousarray(pose, np.float32)
                _LIBRARY.rtcSetGeometryTransform(instance, step, FLOAT3X4_ROW_MAJOR, rows.ctypes.data)
        self.show(number, self._masks[number])

    def show(self, number: int, mask: int) -> None:
        """Set which rays see an instance; takes effect at the next `commit`."""
        self._masks[number] = mask
        _LIBRARY.rtcSetGeometryMask(self._instances[number], mask)
        _LIBRARY.rtcCommitGeometry(self._instances[number])

    def commit(self) -> None:
        """Rebuild the top level."""
        _LIBRARY.rtcCommitScene(self._scene)
        _check("build the tree of the scene")

    def __del__(self) -> None:
        for instance in getattr(self, "_instances", []):
            _LIBRARY.rtcReleaseGeometry(instance)
        if getattr(self, "_scene", None):
            _LIBRARY.rtcReleaseScene(self._scene)
            self._scene = None


_call = types.void(types.uint64, types.uint64, types.uint64)
_intersect = ExternalFunction("rtcIntersect1", _call)
_occluded = ExternalFunction("rtcOccluded1", _call)


@njit(**SMALL)
def set_time(ray, time):
    """Time [0, 1] from shutter open to close of all rays that are written into a record from now on."""
    store_f32(ray, TIME, time)


@njit(**SMALL)
def ray_time(ray):
    return peek_f32(ray, TIME)


@njit(**SMALL)
def set_copy(ray, copy):
    """Which copy of a strewn part a point is asked for that no ray has met."""
    store_u32(ray, COPY, u32(copy))


@njit(**SMALL)
def met_copy(ray):
    """Which copy of a strewn part the last ray met; of no meaning for other parts."""
    return int(peek_u32(ray, COPY))


@njit(**SMALL)
def write_ray(ray, origin, direction, near, far, mask):
    """Fill a ray record but for its time, which stays; `ray` is the address of RAY_SLOTS slots, 16-byte aligned."""
    store_f32(ray, ORIGIN, origin[0])
    store_f32(ray, ORIGIN + 1, origin[1])
    store_f32(ray, ORIGIN + 2, origin[2])
    store_f32(ray, NEAR, near)
    store_f32(ray, DIRECTION, direction[0])
    store_f32(ray, DIRECTION + 1, direction[1])
    store_f32(ray, DIRECTION + 2, direction[2])
    store_f32(ray, FAR_SLOT, far)
    store_u32(ray, MASK, u32(mask))
    store_u32(ray, FLAGS, u32(0))


@njit(**SMALL)
def intersect(scene, ray, origin, direction, near, far, mask):
    """Nearest hit between near and far: (instance, primitive, u, v, distance).

    Instance is -1 on a miss, and the distance then FAR; in a tree without instances a hit has instance 0.
    """
    write_ray(ray, origin, direction, near, far, mask)
    store_u32(ray, GEOMETRY, NOTHING)
    store_u32(ray, INSTANCE_ID, u32(0))
    _intersect(scene, ray, 0)
    if peek_u32(ray, GEOMETRY) == NOTHING:
        return -1, 0, f32(0.0), f32(0.0), FAR
    return (
        int(peek_u32(ray, INSTANCE_ID)),
        int(peek_u32(ray, PRIMITIVE)),
        peek_f32(ray, BARYCENTRIC_U),
        peek_f32(ray, BARYCENTRIC_V),
        peek_f32(ray, FAR_SLOT),
    )


@njit(**SMALL)
def intersect_bare(mesh, ray, origin, direction, near, far):
    """As `intersect`, of the tree of one mesh alone; which copy of a strewn part the ray met before stays known."""
    copy = met_copy(ray)
    found = intersect(mesh, ray, origin, direction, near, far, -1)
    set_copy(ray, copy)
    return found


@njit(**SMALL)
def is_occluded(scene, ray, origin, direction, far, mask):
    """Whether anything lies between the origin and `far` along the direction."""
    write_ray(ray, origin, direction, f32(0.0), far, mask)
    _occluded(scene, ray, 0)
    return peek_f32(ray, FAR_SLOT) < f32(0.0)


@njit(cache=True, **EXACT)
def replay(scene, ray, records, count):
    """Trace recorded rays bare, for the benchmark; far < 0 marks a shadow ray.

    Rows are (ox, oy, oz, dx, dy, dz, far, mask). `ray` and `records` are addresses; returns the number of
    hits so that nothing is optimised away.
    """
    hits = 0
    for i in range(count):
        row = i * 8
        origin = (load_f32(records, row), load_f32(records, row + 1), load_f32(records, row + 2))
        direction = (load_f32(records, row + 3), load_f32(records, row + 4), load_f32(records, row + 5))
        far, mask = load_f32(records, row + 6), int(load_f32(records, row + 7))
        if far < f32(0.0):
            if is_occluded(scene, ray, origin, direction, -far, mask):
                hits += 1
        elif intersect(scene, ray, origin, direction, f32(0.0), far, mask)[0] >= 0:
            hits += 1
    return hits
