"""What stands on a stage: meshes and shapes, instances of both kinds, cameras, lights; how they move.

In: an open stage. Out: parts, lights and sights of an `ImportedAsset`. Called by `asset`.
"""

from itertools import pairwise
from typing import Any

import numpy as np
from pxr import Gf, Usd, UsdGeom, UsdLux

from lantern.assets.errors import AssetError
from lantern.assets.imported import DEFAULT, ImportedAsset, Progress, Sight
from lantern.assets.keys import unique_key
from lantern.assets.readers.usd.lights import light_of
from lantern.assets.readers.usd.materials import MaterialReader
from lantern.assets.readers.usd.meshes import MeshReader
from lantern.assets.readers.usd.variants import SHOWN, Stood, VariantSets, bound_material
from lantern.assets.source import Source
from lantern.assets.tree import Chain, grouped
from lantern.scene.document import Part, PartKey

MOST_PARTS = 200_000
MOST_KEYS = 2000
_UPRIGHT = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], np.float64)
"""From Z up to Y up."""


class StageReader:
    """Reads one stage into `asset`. Raises AssetError for what cannot be used."""

    def __init__(self, source: Source, stage: Usd.Stage, asset: ImportedAsset, progress: Progress) -> None:
        self._source, self._stage, self._asset, self._progress = source, stage, asset, progress
        self._unit = UsdGeom.GetStageMetersPerUnit(stage)
        self._world = np.diag([self._unit, self._unit, self._unit, 1.0])
        if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z:
            self._world = _UPRIGHT @ self._world
        self._rate = stage.GetTimeCodesPerSecond() or 24.0
        self._start = Usd.TimeCode(stage.GetStartTimeCode() if stage.HasAuthoredTimeCodeRange() else 0.0)
        self._places = UsdGeom.XformCache(self._start)
        self._materials = MaterialReader(source, asset)
        self._meshes = MeshReader(source, asset, self._materials.uv_sets, self._start, self._rate)
        self._moved: dict[Any, tuple[float, ...]] = {}
        self._chains: dict[str, Chain] = {}
        self._stood: dict[str, Stood] = {}

    def read(self) -> None:
        """Everything that is shown, in the order of the stage."""
        if not self._stage.HasAuthoredMetadata(UsdGeom.Tokens.metersPerUnit):
            self._asset.problems.append("the stage says no unit: taken as centimetres")
        self._materials.find_sets(self._stage)
        prims = iter(Usd.PrimRange.Stage(self._stage, Usd.TraverseInstanceProxies()))
        self._progress("Reading meshes", 0.3)
        for prim in prims:
            if not self._is_shown(prim):
                prims.PruneChildren()
            elif prim.IsA(UsdGeom.PointInstancer):
                self._add_instances(UsdGeom.PointInstancer(prim))
                prims.PruneChildren()
            else:
                self._add(prim, None)
        self._asset.parts, self._asset.groups = grouped(self._asset.parts, self._chains)
        self._progress("Reading variants", 0.95)
        sets = VariantSets(self._stage, self._asset, self._materials, self._stood, self._start)
        self._asset.variants = sets.groups()

    def _is_shown(self, prim: Usd.Prim) -> bool:
        image = UsdGeom.Imageable(prim)
        if not image:
            return True
        hidden = image.GetVisibilityAttr().Get(self._start) == UsdGeom.Tokens.invisible
        return not hidden and image.ComputePurpose() in SHOWN

    def _add(self, prim: Usd.Prim, instance: tuple[str, np.ndarray] | None) -> None:
        """One prim, or as an instance with a name of its own and a matrix to the world."""
        if prim.IsA(UsdGeom.Gprim):
            self._add_parts(prim, instance)
        elif instance is None and prim.IsA(UsdGeom.Camera):
            self._add_camera(UsdGeom.Camera(prim))
        elif instance is None and (prim.HasAPI(UsdLux.LightAPI) or prim.IsA(UsdLux.BoundableLightBase)):
            light = light_of(prim, self._matrix(prim), self._unit, self._start)
            if light is None:
                self._asset.problems.append(f"{prim.GetName()}: a {prim.GetTypeName()} is not read")
            else:
                self._asset.lights[unique_key(light.name, self._asset.lights)] = light

    def _matrix(self, prim: Usd.Prim) -> np.ndarray:
        """(4, 4) from a prim to our world [m]."""
        return self._world @ _column(self._places.GetLocalToWorldTransform(prim))

    def _add_parts(self, prim: Usd.Prim, instance: tuple[str, np.ndarray] | None) -> None:
        matrix = self._matrix(prim) if instance is None else instance[1]
        if not np.isfinite(matrix).all():
            raise self._source.fail(f"{prim.GetPath()} has a transform that is not finite")
        name = (prim.GetName() if instance is None else instance[0])[:180]
        keys = self._keys(prim) if instance is None else ()
        for piece in self._meshes.pieces(prim):
            if len(self._asset.parts) >= MOST_PARTS:
                raise self._source.fail(f"has more than {MOST_PARTS} parts")
            own = name if not piece.name else f"{name} {piece.name}"[:200]
            key = unique_key(own, self._asset.parts)
            self._chains[key] = tuple((str(each.GetPath()), each.GetName()) for each in reversed(_upwards(prim)))
            if instance is None and not prim.IsInstanceProxy():
                self._stood[key] = Stood(str(prim.GetPath()), str(piece.prim.GetPath()))
            self._asset.parts[key] = Part(
                name=own,
                mesh=piece.mesh,
                material=self._material_of(piece.prim, prim, piece.colored),
                matrix=tuple(matrix[:3].ravel().tolist()),
                keys=keys,
                subdivision=piece.scheme,
            )

    def _material_of(self, piece: Usd.Prim, prim: Usd.Prim, colored: bool) -> str:
        if bound := bound_material(piece, prim):
            return self._materials.key_of(bound)
        key = "display" if colored else "default"
        name = "Display colour" if colored else DEFAULT.name
        self._asset.materials.setdefault(key, DEFAULT.model_copy(update={"vertex_colors": colored, "name": name}))
        return key

    def _keys(self, prim: Usd.Prim) -> tuple[PartKey, ...]:
        """How a prim moves, at the moments that it or what it hangs on says, in seconds from the stage's start."""
        times = sorted({time for each in _upwards(prim) for time in self._times(each)})
        if len(times) < 2:
            return ()
        if len(times) > MOST_KEYS:
            times = [times[i] for i in np.linspace(0, len(times) - 1, MOST_KEYS).astype(int)]
        keys = []
        for time in times:
            matrix = self._world @ _column(UsdGeom.XformCache(Usd.TimeCode(time)).GetLocalToWorldTransform(prim))
            seconds = (time - self._start.GetValue()) / self._rate
            keys.append(PartKey(time=seconds, matrix=tuple(matrix[:3].ravel().tolist())))
        return tuple(keys) if any(a.matrix != b.matrix for a, b in pairwise(keys)) else ()

    def _times(self, prim: Usd.Prim) -> tuple[float, ...]:
        if prim.GetPath() not in self._moved:
            xform = UsdGeom.Xformable(prim)
            self._moved[prim.GetPath()] = tuple(xform.GetTimeSamples()) if xform else ()
        return self._moved[prim.GetPath()]

    def _add_instances(self, instancer: UsdGeom.PointInstancer) -> None:
        prim = instancer.GetPrim()
        prototypes = [self._stage.GetPrimAtPath(path) for path in instancer.GetPrototypesRel().GetTargets()]
        matrices = instancer.ComputeInstanceTransformsAtTime(self._start, self._start)
        numbers = instancer.GetProtoIndicesAttr().Get(self._start)
        if matrices is None or numbers is None or len(numbers) < len(matrices):
            raise self._source.fail(f"{prim.GetPath()}: its instances cannot be read")
        above = self._matrix(prim)
        for count, (row, number) in enumerate(zip(np.asarray(matrices), numbers, strict=False)):
            if not 0 <= number < len(prototypes) or not prototypes[number]:
                raise self._source.fail(
                    f"{prim.GetPath()}: instance {count} is of prototype {number}, which is missing"
                )
            prototype = prototypes[number]
            # The instancer's matrices hold the prototype's own place.
            within = np.linalg.inv(_column(self._places.GetLocalToWorldTransform(prototype)))
            for child in Usd.PrimRange(prototype, Usd.TraverseInstanceProxies()):
                if child.IsA(UsdGeom.Gprim) and self._is_shown(child):
                    local = within @ _column(self._places.GetLocalToWorldTransform(child))
                    self._add(child, (f"{child.GetName()} {count + 1}", above @ row.T @ local))

    def _add_camera(self, camera: UsdGeom.Camera) -> None:
        matrix, seen = self._matrix(camera.GetPrim()), camera.GetCamera(self._start)
        if seen.projection != Gf.Camera.Perspective:
            self._asset.problems.append(f"camera {camera.GetPrim().GetName()}: only perspective cameras are read")
            return
        ahead = -matrix[:3, 2] / max(float(np.linalg.norm(matrix[:3, 2])), 1e-30)
        height = float(np.radians(seen.GetFieldOfView(Gf.Camera.FOVVertical)))
        if not 0 < height < np.pi:
            raise AssetError(self._source.name, f"camera {camera.GetPrim().GetName()} sees {height} rad")
        place = tuple(matrix[:3, 3].tolist())
        self._asset.sights.append(Sight(camera.GetPrim().GetName()[:200], place, tuple(ahead.tolist()), height))


def _upwards(prim: Usd.Prim) -> list[Usd.Prim]:
    found = []
    while prim and not prim.IsPseudoRoot():
        found.append(prim)
        prim = prim.GetParent()
    return found


def _column(matrix: Gf.Matrix4d) -> np.ndarray:
    """The library's matrix, which is laid on rows, for columns."""
    return np.array(matrix, np.float64).T
