"""OpenUSD stages for tests, made by the library that the format comes from."""

from pathlib import Path

from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade, UsdUtils, Vt

SQUARE = [(0, 0, 0), (100, 0, 0), (100, 100, 0), (0, 100, 0)]


def mesh(stage: Usd.Stage, path: str, points=SQUARE, counts=(4,), indices=(0, 1, 2, 3)) -> UsdGeom.Mesh:
    """A mesh that is not to be subdivided, by default a square in the plane of X and Y, 100 units wide."""
    made = UsdGeom.Mesh.Define(stage, path)
    made.CreatePointsAttr(points)
    made.CreateFaceVertexCountsAttr(list(counts))
    made.CreateFaceVertexIndicesAttr(list(indices))
    made.CreateSubdivisionSchemeAttr("none")
    return made


def textured(stage: Usd.Stage, path: str, image: str, **numbers) -> UsdShade.Material:
    """A material whose colour is an image, read by the coordinates called `map1`."""
    material = preview(stage, path, **numbers)
    surface = UsdShade.Shader(stage.GetPrimAtPath(f"{path}/Surface"))
    reader = UsdShade.Shader.Define(stage, f"{path}/Reader")
    reader.CreateIdAttr("UsdPrimvarReader_float2")
    reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("map1")
    laid = UsdShade.Shader.Define(stage, f"{path}/Laid")
    laid.CreateIdAttr("UsdTransform2d")
    laid.CreateInput("in", Sdf.ValueTypeNames.Float2).ConnectToSource(reader.ConnectableAPI(), "result")
    laid.CreateInput("scale", Sdf.ValueTypeNames.Float2).Set(Gf.Vec2f(2, 3))
    texture = UsdShade.Shader.Define(stage, f"{path}/Image")
    texture.CreateIdAttr("UsdUVTexture")
    texture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(image)
    texture.CreateInput("wrapS", Sdf.ValueTypeNames.Token).Set("clamp")
    texture.CreateInput("st", Sdf.ValueTypeNames.Float2).ConnectToSource(laid.ConnectableAPI(), "result")
    color = surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f)
    color.ConnectToSource(texture.ConnectableAPI(), "rgb")
    return material


def preview(stage: Usd.Stage, path: str, **numbers) -> UsdShade.Material:
    """A UsdPreviewSurface; numbers and colours by the names of its inputs."""
    return surface(stage, path, "UsdPreviewSurface", "surface", **numbers)


def surface(stage: Usd.Stage, path: str, identity: str, output: str, **inputs) -> UsdShade.Material:
    """A material of one shader."""
    material = UsdShade.Material.Define(stage, path)
    shader = UsdShade.Shader.Define(stage, f"{path}/Surface")
    shader.CreateIdAttr(identity)
    for name, value in inputs.items():
        kinds = {tuple: Sdf.ValueTypeNames.Color3f, bool: Sdf.ValueTypeNames.Bool}
        kind = kinds.get(type(value), Sdf.ValueTypeNames.Float)
        shader.CreateInput(name, kind).Set(Gf.Vec3f(*value) if isinstance(value, tuple) else value)
    context = "mtlx" if output.startswith("mtlx") else ""
    material.CreateSurfaceOutput(context).ConnectToSource(shader.ConnectableAPI(), "surface")
    return material


def bind(prim: UsdGeom.Gprim | UsdGeom.Subset, material: UsdShade.Material) -> None:
    """Dress a mesh or a part of its faces."""
    UsdShade.MaterialBindingAPI.Apply(prim.GetPrim()).Bind(material)


def still(path: Path) -> Usd.Stage:
    """A stage in centimetres, Z up: a square in red, a ball, a lamp, a camera, three coins of a point instancer."""
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, "Z")
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    square = mesh(stage, "/Set/Square")
    UsdGeom.Xformable(square).AddTranslateOp().Set((10, 20, 30))
    bind(square, preview(stage, "/Looks/Red", diffuseColor=(0.8, 0.1, 0.05), roughness=0.4, metallic=0.25))
    UsdGeom.Sphere.Define(stage, "/Set/Ball").CreateRadiusAttr(5)
    lamp = UsdLux.RectLight.Define(stage, "/Set/Lamp")
    lamp.CreateWidthAttr(40)
    lamp.CreateHeightAttr(20)
    lamp.CreateIntensityAttr(3)
    lamp.CreateExposureAttr(4)
    UsdGeom.Xformable(lamp).AddTranslateOp().Set((0, 0, 200))
    camera = UsdGeom.Camera.Define(stage, "/Set/Camera")
    camera.CreateFocalLengthAttr(50)
    UsdGeom.Xformable(camera).AddTranslateOp().Set((0, -300, 50))
    UsdGeom.Xformable(camera).AddRotateXOp().Set(90)
    coins = UsdGeom.PointInstancer.Define(stage, "/Set/Coins")
    coin = UsdGeom.Cylinder.Define(stage, "/Set/Coins/Prototypes/Coin")
    coin.CreateRadiusAttr(1)
    coin.CreateHeightAttr(0.2)
    UsdGeom.Xformable(coin).AddTranslateOp().Set((0, 0, 5))
    coins.CreatePrototypesRel().SetTargets([coin.GetPath()])
    coins.CreateProtoIndicesAttr([0, 0, 0])
    coins.CreatePositionsAttr(Vt.Vec3fArray([(0, 0, 0), (10, 0, 0), (20, 0, 0)]))
    return stage


def zipped(stage: Usd.Stage, path: Path) -> Path:
    """A usdz of a stage that is saved, with what it refers to."""
    stage.GetRootLayer().Save()
    assert UsdUtils.CreateNewUsdzPackage(Sdf.AssetPath(stage.GetRootLayer().realPath), str(path))
    return path
