"""Meshes and simple shapes of a stage (UsdGeom: Mesh, Subset, Cube, Sphere, Cylinder, Cone, Capsule, Plane).

In: a prim. Out: meshes of an `ImportedAsset`, one for each material. Called by `stage`.
"""

from dataclasses import replace
from typing import Any, Literal, NamedTuple

import numpy as np
import trimesh
from pxr import Usd, UsdGeom

from lantern.assets.cage import INFINITE, Cage, Channel, cage_of_faces
from lantern.assets.corners import mesh_of_corners
from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.polygons import triangulated
from lantern.assets.readers.usd.moving import moving
from lantern.assets.smoothing import SHARP_DEGREES, smooth_mesh
from lantern.assets.source import Source
from lantern.scene.fields import FAR

Scheme = Literal["none", "catmull_clark", "loop"]
_AXES = {
    UsdGeom.Tokens.x: ((0, 0, 1), (1, 0, 0), (0, 1, 0)),
    UsdGeom.Tokens.y: ((0, 1, 0), (0, 0, 1), (1, 0, 0)),
    UsdGeom.Tokens.z: ((1, 0, 0), (0, 1, 0), (0, 0, 1)),
}
"""Rows of the turn of a shape along Z to its own axis."""
_SCHEMES: dict[str, Scheme] = {UsdGeom.Tokens.catmullClark: "catmull_clark", UsdGeom.Tokens.loop: "loop"}


class Piece(NamedTuple):
    """A mesh for one material: its number, the prim to which that is bound, what it adds to the name."""

    mesh: int
    prim: Usd.Prim
    name: str
    colored: bool
    scheme: Scheme = "none"


class _Corners(NamedTuple):
    """A mesh as triangles of corners, with what they bring."""

    points: np.ndarray  # (n, 3)
    vertices: np.ndarray  # (3m,) of points
    faces: np.ndarray  # (m,) of the file
    normals: np.ndarray | None  # (3m, 3)
    uvs: np.ndarray | None  # (sets, 3m, 2)
    colors: np.ndarray | None  # (3m, 4)
    whole: "_Faces"


class _Faces(NamedTuple):
    """The same mesh as the faces of the file."""

    counts: np.ndarray  # (f,)
    vertices: np.ndarray  # (c,) of points
    uvs: np.ndarray | None  # (sets, c, 2)
    colors: np.ndarray | None  # (c, 4)
    creases: np.ndarray  # (k, 2) of points
    sharpness: np.ndarray  # (k,)


class MeshReader:
    """Reads meshes of one stage at its start; one that is shown several times is read once."""

    def __init__(
        self, source: Source, asset: ImportedAsset, uv_sets: list[str], start: Usd.TimeCode, rate: float
    ) -> None:
        self._source, self._asset, self._uv_sets = source, asset, uv_sets
        self._start, self._rate = start, rate
        self._made: dict[Any, list[Piece]] = {}

    def pieces(self, prim: Usd.Prim) -> list[Piece]:
        """The pieces of a prim. Raises AssetError for one that is damaged."""
        own = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        if own.GetPath() not in self._made:
            self._made[own.GetPath()] = self._read(own)
        return self._made[own.GetPath()]

    def _fail(self, prim: Usd.Prim, problem: str) -> Exception:
        return self._source.fail(f"{prim.GetPath()}: {problem}")

    def _read(self, prim: Usd.Prim) -> list[Piece]:
        if not prim.IsA(UsdGeom.Mesh):
            mesh = self._shape(prim)
            return [] if mesh is None else [self._piece(mesh, prim, "", False)]
        mesh = UsdGeom.Mesh(prim)
        corners = self._corners(mesh)
        if corners is None:
            return []
        scheme = mesh.GetSubdivisionSchemeAttr().Get()
        subdivided = scheme != UsdGeom.Tokens.none and corners.normals is None
        # What a file does not say is the standard's "Catmull-Clark", which few that leave it out mean.
        means_it = subdivided and mesh.GetSubdivisionSchemeAttr().HasAuthoredValue()
        sharp = 180.0 if subdivided and not mesh.GetCreaseIndicesAttr().Get(self._start) else SHARP_DEGREES
        found = []
        for name, chosen, bound in self._subsets(mesh, corners.faces):
            if chosen.any():
                made = _built(corners, chosen, sharp)
                made, problem = moving(mesh, made, corners.points, self._start.GetValue(), self._rate)
                if problem is not None:
                    self._asset.problems.append(f"{prim.GetName()}: {problem}")
                piece = self._piece(made, bound, name, corners.colors is not None)
                found.append(piece._replace(scheme=_SCHEMES.get(scheme, "none") if means_it else "none"))
        return found

    def _piece(self, mesh: Mesh, prim: Usd.Prim, name: str, colored: bool) -> Piece:
        self._asset.meshes.append(mesh)
        return Piece(len(self._asset.meshes) - 1, prim, name, colored)

    def _subsets(self, mesh: UsdGeom.Mesh, faces: np.ndarray) -> list[tuple[str, np.ndarray, Usd.Prim]]:
        """Name, triangles (m,) and prim of what has a material of its own, and of the rest."""
        found, rest = [], np.ones(len(faces), bool)
        for subset in UsdGeom.Subset.GetGeomSubsets(mesh, UsdGeom.Tokens.face, "materialBind"):
            numbers = np.asarray(subset.GetIndicesAttr().Get(self._start) or [], np.int64)
            chosen = np.isin(faces, numbers) & rest
            rest &= ~chosen
            found.append((subset.GetPrim().GetName(), chosen, subset.GetPrim()))
        return [*found, ("", rest, mesh.GetPrim())]

    def _corners(self, mesh: UsdGeom.Mesh) -> _Corners | None:
        prim = mesh.GetPrim()
        points = np.asarray(mesh.GetPointsAttr().Get(self._start) or [], np.float64).reshape(-1, 3)
        counts = np.asarray(mesh.GetFaceVertexCountsAttr().Get(self._start) or [], np.int64)
        indices = np.asarray(mesh.GetFaceVertexIndicesAttr().Get(self._start) or [], np.int64)
        if not len(counts) or not len(points):
            return None
        if counts.min() < 0 or counts.sum() != len(indices):
            raise self._fail(prim, f"has {len(indices)} corners of faces that need {int(counts.sum())}")
        if len(indices) and (indices.min() < 0 or indices.max() >= len(points)):
            raise self._fail(prim, f"has a face of vertex {int(indices.max())}; there are {len(points)}")
        places = points[indices]
        if not np.isfinite(places).all() or (len(places) and np.abs(places).max() > FAR / 1e-3):
            raise self._fail(prim, "has vertices that are no numbers, or lie too far away")
        triangles, faces = triangulated(counts, places)
        if mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded:
            triangles = triangles[:, ::-1]
        corner = triangles.ravel()
        if not len(corner):
            return None
        at = _At(indices, counts, corner)
        every = _At(indices, counts, np.arange(len(indices)))
        whole = _Faces(
            counts,
            indices,
            self._coordinates(prim, every),
            self._colors(prim, every),
            *self._creases(mesh, len(points)),
        )
        if mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded:
            whole = _turned(whole)
        return _Corners(
            points, indices[corner], faces, self._normals(mesh, at), self._coordinates(prim, at),
            self._colors(prim, at), whole,
        )  # fmt: skip

    def _creases(self, mesh: UsdGeom.Mesh, points: int) -> tuple[np.ndarray, np.ndarray]:
        """((k, 2) ends, (k,) sharpness) of edges that are sharp; none where the file contradicts itself."""
        chains = np.asarray(mesh.GetCreaseIndicesAttr().Get(self._start) or [], np.int64)
        lengths = np.asarray(mesh.GetCreaseLengthsAttr().Get(self._start) or [], np.int64)
        sharp = np.asarray(mesh.GetCreaseSharpnessesAttr().Get(self._start) or [], np.float64)
        none = np.zeros((0, 2), np.int64), np.zeros(0)
        if not len(lengths) or lengths.min() < 2 or lengths.sum() != len(chains):
            return none
        if chains.min() < 0 or chains.max() >= points or len(sharp) not in (len(lengths), int((lengths - 1).sum())):
            return none
        inner = np.ones(len(chains), bool)
        inner[np.cumsum(lengths) - 1] = False  # the last of a chain begins no edge
        begins = np.flatnonzero(inner)
        each = sharp if len(sharp) == len(begins) else np.repeat(sharp, lengths - 1)
        return np.column_stack([chains[begins], chains[begins + 1]]), np.nan_to_num(each, nan=0.0, posinf=INFINITE)

    def _normals(self, mesh: UsdGeom.Mesh, at: "_At") -> np.ndarray | None:
        own = UsdGeom.PrimvarsAPI(mesh).GetPrimvar("normals")
        if own and own.HasAuthoredValue():
            return at.values(own.ComputeFlattened(self._start), own.GetInterpolation(), 3)
        values = mesh.GetNormalsAttr().Get(self._start)
        return None if values is None else at.values(values, mesh.GetNormalsInterpolation(), 3)

    def _coordinates(self, prim: Usd.Prim, at: "_At") -> np.ndarray | None:
        """(sets, 3m, 2), with v down, of the sets that the materials name and those that there are."""
        api = UsdGeom.PrimvarsAPI(prim)
        there = {
            p.GetPrimvarName(): p
            for p in api.GetPrimvarsWithValues()
            if str(p.GetTypeName()) in ("texCoord2f[]", "texCoord2d[]", "texCoord2h[]", "float2[]")
        }
        sets = []
        for name in self._uv_sets:
            primvar = there.pop(name, None)
            others = [other for other in there if other not in self._uv_sets]
            if primvar is None and name == self._uv_sets[0] and others:
                primvar = there.pop(others[0])  # not the name that the material means, but the only one
            found = primvar and at.values(primvar.ComputeFlattened(self._start), primvar.GetInterpolation(), 2)
            sets.append(np.zeros((len(at.corner), 2)) if found is None else found * [1, -1] + [0, 1])
        return np.stack(sets).astype(np.float32) if any(s.any() for s in sets) else None

    def _colors(self, prim: Usd.Prim, at: "_At") -> np.ndarray | None:
        primvar = UsdGeom.PrimvarsAPI(prim).GetPrimvar("displayColor")
        if not primvar or not primvar.HasAuthoredValue():
            return None
        found = at.values(primvar.ComputeFlattened(self._start), primvar.GetInterpolation(), 3)
        return None if found is None else np.column_stack([np.clip(found, 0, 1), np.ones(len(found))])

    def _shape(self, prim: Usd.Prim) -> Mesh | None:
        """A simple shape; None, with a problem, for what is no surface."""
        get = prim.GetAttribute

        def number(name: str) -> float:
            return float(get(name).Get(self._start))

        kind = prim.GetTypeName()
        if kind == "Cube":
            made = trimesh.creation.box((number("size"),) * 3)
        elif kind == "Sphere":
            made = trimesh.creation.icosphere(5, number("radius"))
        elif kind == "Cylinder":
            made = trimesh.creation.cylinder(number("radius"), number("height"), sections=96)
        elif kind == "Cone":
            made = trimesh.creation.cone(number("radius"), number("height"), sections=96)
            made.vertices[:, 2] -= number("height") / 2
        elif kind == "Capsule":
            made = trimesh.creation.capsule(number("height"), number("radius"), count=[48, 96])
            made.vertices[:, 2] -= made.vertices[:, 2].mean()
        elif kind == "Plane":
            wide, long = number("width") / 2, number("length") / 2
            made = trimesh.Trimesh(
                [[-wide, -long, 0], [wide, -long, 0], [wide, long, 0], [-wide, long, 0]], [[0, 1, 2], [0, 2, 3]],
                process=False,
            )  # fmt: skip
        else:
            self._asset.problems.append(f"{prim.GetName()}: a {kind} is not drawn")
            return None
        axis = get("axis").Get(self._start) if get("axis") else None
        turned = made.vertices @ np.array(_AXES.get(axis, np.eye(3)), np.float64).T
        return smooth_mesh(turned.astype(np.float32), np.asarray(made.faces))


class _At(NamedTuple):
    """Where the corners of triangles are among those of a file."""

    indices: np.ndarray  # vertices of the file's corners
    counts: np.ndarray  # corners of its faces
    corner: np.ndarray  # (3m,) of the file's corners

    def values(self, stored: Any, interpolation: str, width: int) -> np.ndarray | None:
        """(3m, width) of a primvar; None when it has fewer values than its interpolation needs."""
        values = np.asarray([] if stored is None else stored, np.float64)
        if values.ndim != 2 or values.shape[1] != width or not np.isfinite(values).all():
            return None
        if interpolation == UsdGeom.Tokens.constant:
            places = np.zeros(len(self.corner), np.int64)
        elif interpolation == UsdGeom.Tokens.uniform:
            places = np.repeat(np.arange(len(self.counts)), self.counts)[self.corner]
        elif interpolation == UsdGeom.Tokens.faceVarying:
            places = self.corner
        else:
            places = self.indices[self.corner]
        return values[places] if len(values) and places.max(initial=0) < len(values) else None


def _turned(whole: _Faces) -> _Faces:
    """The same faces, each run the other way round."""
    ends = np.cumsum(whole.counts)
    order = np.repeat(2 * ends - whole.counts - 1, whole.counts) - np.arange(len(whole.vertices))
    return whole._replace(
        vertices=whole.vertices[order],
        uvs=None if whole.uvs is None else whole.uvs[:, order],
        colors=None if whole.colors is None else whole.colors[order],
    )


def _cage(corners: _Corners, chosen: np.ndarray) -> Cage | None:
    """The faces of the file of which some triangles are."""
    whole = corners.whole
    kept = np.zeros(len(whole.counts), bool)
    kept[corners.faces[chosen]] = True
    some = np.repeat(kept, whole.counts)
    uvs = [] if whole.uvs is None else [Channel.of(values[some]) for values in whole.uvs]
    colors = None if whole.colors is None else Channel.of(whole.colors[some])
    return cage_of_faces(
        corners.points, whole.counts[kept], whole.vertices[some], uvs, colors, whole.creases, whole.sharpness
    )


def _built(corners: _Corners, chosen: np.ndarray, sharp: float) -> Mesh:
    """The mesh of some of the triangles."""
    three = np.repeat(chosen, 3)
    used, indices = np.unique(corners.vertices[three], return_inverse=True)
    points, triangles = corners.points[used].astype(np.float32), indices.reshape(-1, 3)
    uvs = None if corners.uvs is None else corners.uvs[:, three]
    colors = None if corners.colors is None else corners.colors[three]
    if corners.normals is not None:
        made = mesh_of_corners(points, triangles, corners.normals[three], uvs, colors)
    else:
        made = smooth_mesh(points, triangles, colors, uvs, sharp)
    return replace(made, cage=_cage(corners, chosen))
