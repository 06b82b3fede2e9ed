"""OpenUSD export: a usdz of what stands in a scene (UsdGeom, UsdShade, UsdLux; "usdz File Format Specification").

In: a `Content`, its lights in cd/m², cd or lx. Out: the bytes of a usdz, and what it could not say. Called by
`engine.exporting`. Copies of a part are instances of a point instancer.
"""

import math
import re
from collections.abc import Iterable, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade, UsdUtils, Vt

from lantern.assets.mesh import Mesh
from lantern.assets.writers.content import Content, Copies, Placed, Written, looking
from lantern.assets.writers.usd_materials import MaterialWriter
from lantern.color import LUMINANCE
from lantern.scene.lights import (
    DirectionalLight,
    DiskLight,
    LightBase,
    PointLight,
    RectangleLight,
    SphereLight,
    SpotLight,
    TubeLight,
)

RATE = 24.0
"""Time codes a second."""
POINT_RADIUS = 0.001
"""m, of the ball that a light without extent is written as."""


def write_usdz(content: Content) -> Written:
    """The usdz of a scene."""
    with TemporaryDirectory() as place:
        folder = Path(place)
        writer = _Writer(content, folder)
        writer.write(folder / "model.usdc")
        target = folder / "model.usdz"
        UsdUtils.CreateNewUsdzPackage(Sdf.AssetPath(str(folder / "model.usdc")), str(target))
        return Written(target.read_bytes(), writer.lost)


Lamp = UsdLux.BoundableLightBase | UsdLux.NonboundableLightBase


class _Writer:
    def __init__(self, content: Content, folder: Path) -> None:
        self._content, self._folder = content, folder
        self.lost: list[str] = []
        self._paths: set[str] = set()
        self._sets = _identifiers([one.name for one in content.variants])

    def write(self, target: Path) -> None:
        content = self._content
        stage = Usd.Stage.CreateNew(str(target))
        UsdGeom.SetStageMetersPerUnit(stage, 1.0)
        UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
        stage.SetTimeCodesPerSecond(RATE)
        moments = [float(m) for part in content.parts if len(part.matrices) > 1 for m in part.moments]
        stage.SetStartTimeCode(RATE * min(moments, default=0.0))
        stage.SetEndTimeCode(RATE * max(moments, default=0.0))
        root = UsdGeom.Xform.Define(stage, "/Root")
        stage.SetDefaultPrim(root.GetPrim())
        materials = MaterialWriter(stage, content, self._folder, self.lost)
        for part in content.parts:
            material = materials.of(part.material)
            if part.copies is None:
                geometry = self._mesh(stage, self._path(part.name), part, part.matrices)
                self._dress(root.GetPrim(), geometry.GetPrim(), part, material, materials)
            elif len(part.copies.places):
                self._instancer(stage, part, part.copies, material)
        for name, one in zip(self._sets, content.variants, strict=True):
            if one.chosen is not None and root.GetPrim().GetVariantSets().HasVariantSet(name):
                variant = _identifiers(one.variants)[one.chosen]
                root.GetPrim().GetVariantSet(name).SetVariantSelection(variant)
        for light in content.lights:
            self._light(stage, light)
        self._camera(stage)
        stage.GetRootLayer().Save()

    def _dress(
        self, root: Usd.Prim, geometry: Usd.Prim, part: Placed, material: UsdShade.Material, materials: MaterialWriter
    ) -> None:
        """Bind what a part wears; within the variants that say so, as what is said outside of them is stronger."""
        if not part.variants:
            UsdShade.MaterialBindingAPI.Apply(geometry).Bind(material)
            return
        for (number, variant), key in part.variants.items():
            bound = materials.of(key)
            variants = root.GetVariantSets().AddVariantSet(self._sets[number])
            name = _identifiers(self._content.variants[number].variants)[variant]
            variants.AddVariant(name)
            variants.SetVariantSelection(name)
            with variants.GetVariantEditContext():
                UsdShade.MaterialBindingAPI.Apply(geometry).Bind(bound)

    def _path(self, name: str, below: str = "/Root") -> str:
        stem = _identifier(name)
        path, number = f"{below}/{stem}", 1
        while path in self._paths:
            number += 1
            path = f"{below}/{stem}_{number}"
        self._paths.add(path)
        return path

    def _mesh(self, stage: Usd.Stage, path: str, part: Placed, matrices: np.ndarray) -> UsdGeom.Mesh:
        source = self._content.meshes[part.mesh]
        if source.shapes is not None:
            self.lost.append(f"{part.name}: how its shape changes")
        mesh = UsdGeom.Mesh.Define(stage, path)
        mesh.GetPrim().SetDisplayName(part.name)
        mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(source.positions, np.float32)))
        mesh.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(source.indices), 3, np.int32)))
        mesh.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(source.indices.astype(np.int32).ravel()))
        mesh.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(source.normals, np.float32)))
        mesh.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
        mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
        mesh.CreateExtentAttr(_extent(source))
        material = self._content.materials[part.material]
        mesh.CreateDoubleSidedAttr(material.double_sided or material.geometry_thin_walled)
        _primvars(mesh, source, colored=material.vertex_colors)
        self._place(mesh, part.moments, matrices)
        return mesh

    def _place(self, prim: UsdGeom.Xformable, moments: np.ndarray, matrices: np.ndarray) -> None:
        operation = prim.AddTransformOp()
        if len(matrices) == 1:
            operation.Set(_rows(matrices[0]))
            return
        for moment, matrix in zip(moments.tolist(), matrices, strict=True):
            operation.Set(_rows(matrix), Usd.TimeCode(RATE * moment))

    def _instancer(self, stage: Usd.Stage, part: Placed, copies: Copies, material: UsdShade.Material) -> None:
        path = self._path(part.name)
        instancer = UsdGeom.PointInstancer.Define(stage, path)
        instancer.GetPrim().SetDisplayName(part.name)
        inner = self._mesh(stage, self._path(part.name, path), part, part.matrices)
        UsdShade.MaterialBindingAPI.Apply(inner.GetPrim()).Bind(material)
        instancer.CreatePrototypesRel().SetTargets([inner.GetPath()])
        count = len(copies.places)
        instancer.CreateProtoIndicesAttr(Vt.IntArray.FromNumpy(np.zeros(count, np.int32)))
        instancer.CreatePositionsAttr(Vt.Vec3fArray.FromNumpy(copies.places.astype(np.float32)))
        turns = [Gf.Quatf(float(w), float(x), float(y), float(z)) for x, y, z, w in copies.turns.tolist()]
        instancer.CreateOrientationsfAttr(Vt.QuatfArray(turns))
        sizes = np.repeat(copies.sizes[:, None], 3, axis=1).astype(np.float32)
        instancer.CreateScalesAttr(Vt.Vec3fArray.FromNumpy(sizes))

    def _light(self, stage: Usd.Stage, light: LightBase) -> None:
        path = self._path(light.name)
        made = self._of_its_kind(stage, path, light)
        if made is None:
            self.lost.append(f"light {light.name!r}: UsdLux has no such kind")
            return
        lamp, luminance = made
        brightness = max(float(LUMINANCE @ np.array(light.color)), 1e-9)
        lamp.CreateColorAttr(Gf.Vec3f(*light.color))
        lamp.CreateIntensityAttr(luminance / brightness)
        if light.temperature is not None:
            lamp.CreateEnableColorTemperatureAttr(True)
            lamp.CreateColorTemperatureAttr(light.temperature)
        matrix = looking(light.position, light.target)
        if roll := math.radians(getattr(light, "roll", 0.0)):
            c, s = math.cos(roll), math.sin(roll)
            matrix[:3, :2] = matrix[:3, :2] @ np.array([[c, -s], [s, c]])
        UsdGeom.Xformable(lamp.GetPrim()).AddTransformOp().Set(_rows(matrix))

    def _of_its_kind(
        self, stage: Usd.Stage, path: str, light: LightBase
    ) -> tuple[UsdLux.BoundableLightBase, float] | None:
        """(the light's prim, luminance [cd/m²] or illuminance [lx])."""
        match light:
            case RectangleLight():
                rect = UsdLux.RectLight.Define(stage, path)
                rect.CreateWidthAttr(light.width)
                rect.CreateHeightAttr(light.height)
                return rect, light.amount
            case DiskLight():
                disk = UsdLux.DiskLight.Define(stage, path)
                disk.CreateRadiusAttr(light.radius)
                return disk, light.amount
            case SphereLight():
                sphere = UsdLux.SphereLight.Define(stage, path)
                sphere.CreateRadiusAttr(light.radius)
                return sphere, light.amount
            case TubeLight():
                tube = UsdLux.CylinderLight.Define(stage, path)
                tube.CreateLengthAttr(light.length)
                tube.CreateRadiusAttr(light.radius)
                return tube, light.amount
            case DirectionalLight():
                distant = UsdLux.DistantLight.Define(stage, path)
                distant.CreateAngleAttr(light.spread)
                distant.CreateNormalizeAttr(True)
                return distant, light.amount
            case PointLight() | SpotLight():
                ball = UsdLux.SphereLight.Define(stage, path)
                ball.CreateRadiusAttr(POINT_RADIUS)
                ball.CreateTreatAsPointAttr(True)
                if isinstance(light, SpotLight):
                    shaping = UsdLux.ShapingAPI.Apply(ball.GetPrim())
                    shaping.CreateShapingConeAngleAttr(light.cone / 2)
                    shaping.CreateShapingConeSoftnessAttr(light.softness)
                if light.profile is not None:
                    self.lost.append(f"light {light.name!r}: its profile")
                return ball, light.amount / (math.pi * POINT_RADIUS**2)
        return None

    def _camera(self, stage: Usd.Stage) -> None:
        seen, path = self._content.camera, self._path("Camera")
        camera = UsdGeom.Camera.Define(stage, path)
        if seen.projection != "perspective":
            self.lost.append("the camera: it is written as a perspective one")
        # The schema counts both in tenths of the scene's unit, of which only the ratio matters.
        camera.CreateHorizontalApertureAttr(seen.sensor_width)
        camera.CreateVerticalApertureAttr(seen.sensor_width / self._content.aspect)
        camera.CreateFocalLengthAttr(seen.focal_length)
        camera.CreateFocusDistanceAttr(seen.focus_distance)
        camera.CreateFStopAttr(seen.f_number or 0.0)
        UsdGeom.Xformable(camera.GetPrim()).AddTransformOp().Set(_rows(looking(seen.position, seen.target, seen.roll)))


def _identifiers(names: Sequence[str]) -> list[str]:
    """Names as the format has them, no two alike."""
    found: list[str] = []
    for name in names:
        stem = _identifier(name)
        own, number = stem, 1
        while own in found:
            number += 1
            own = f"{stem}_{number}"
        found.append(own)
    return found


def _identifier(name: str) -> str:
    stem = re.sub(r"[^A-Za-z0-9_]", "_", name) or "Part"
    return stem if not stem[0].isdigit() else f"_{stem}"


def _rows(matrix: np.ndarray) -> Gf.Matrix4d:
    """For the library, whose vectors are rows."""
    return Gf.Matrix4d(*matrix.T.ravel().tolist())


def _extent(mesh: Mesh) -> Vt.Vec3fArray:
    return Vt.Vec3fArray.FromNumpy(
        np.stack([mesh.positions.min(axis=0), mesh.positions.max(axis=0)]).astype(np.float32)
    )


def _primvars(mesh: UsdGeom.Mesh, source: Mesh, *, colored: bool) -> None:
    variables = UsdGeom.PrimvarsAPI(mesh)
    sets: Iterable[np.ndarray] = () if source.uvs is None else source.uvs
    for number, uvs in enumerate(sets):
        name = "st" if number == 0 else f"st{number}"
        made = variables.CreatePrimvar(name, Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex)
        # The schema's v runs up.
        made.Set(Vt.Vec2fArray.FromNumpy((uvs * [1, -1] + [0, 1]).astype(np.float32)))
    if colored and source.colors is not None:
        made = variables.CreatePrimvar("displayColor", Sdf.ValueTypeNames.Color3fArray, UsdGeom.Tokens.vertex)
        made.Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(source.colors[:, :3], np.float32)))
