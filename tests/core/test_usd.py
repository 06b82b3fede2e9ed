"""OpenUSD: stages made by the format's own library come as they are meant, in metres, Y up."""

from pathlib import Path

import numpy as np
import pytest
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdSkel

from lantern.assets.errors import AssetError
from lantern.assets.polygons import triangulated
from lantern.assets.reading import import_asset
from lantern.scene.surroundings import Environment
from tests.core import usd_files
from tests.core.quad_files import Picture, png
from tests.core.test_obj import FOUR

DARK = {"environment": Environment(intensity=0.0)}


@pytest.fixture
def stage(tmp_path):
    made = Usd.Stage.CreateNew(str(tmp_path / "made.usda"))
    UsdGeom.SetStageMetersPerUnit(made, 1.0)
    return made


def read(stage):
    stage.GetRootLayer().Save()
    return import_asset(Path(stage.GetRootLayer().realPath))


def corners(asset, name):
    """(n, 3) places of a part's vertices in the world."""
    part = next(part for part in asset.parts.values() if part.name == name)
    matrix = np.array(part.matrix).reshape(3, 4)
    return asset.meshes[part.mesh].positions @ matrix[:, :3].T + matrix[:, 3]


@pytest.mark.parametrize("ending", ["usda", "usdc", "usdz", "stored"])
def test_a_stage_of_any_form_comes_in_metres_and_upright(tmp_path, ending):
    made = usd_files.still(tmp_path / ("set.usdc" if ending == "usdc" else "set.usda"))
    made.GetRootLayer().Save()
    if ending == "usdz":
        asset = import_asset(usd_files.zipped(made, tmp_path / "set.usdz"))
    elif ending == "stored":
        (tmp_path / "upload").write_bytes((tmp_path / "set.usda").read_bytes())
        asset = import_asset(tmp_path / "upload", name="set.usda")
    else:
        asset = import_asset(tmp_path / f"set.{ending}")
    assert [part.name for part in asset.parts.values()] == ["Square", "Ball", "Coin 1", "Coin 2", "Coin 3"]
    square = corners(asset, "Square")
    # 1 m wide, moved by (10, 20, 30) cm, with Z up: x stays, z becomes y, y becomes -z.
    assert square.min(0) == pytest.approx([0.1, 0.3, -1.2]) and square.max(0) == pytest.approx([1.1, 0.3, -0.2])
    assert np.ptp(corners(asset, "Ball"), axis=0) == pytest.approx([0.1] * 3, rel=0.01)
    assert corners(asset, "Coin 3").mean(0) == pytest.approx([0.2, 0.05, 0], abs=1e-4)
    meshes = {part.mesh for part in asset.parts.values() if part.name.startswith("Coin")}
    assert len(meshes) == 1, "instances share their mesh"
    red = asset.materials["red"]
    assert (red.base_color, red.specular_roughness, red.base_metalness) == ((0.8, 0.1, 0.05), 0.4, 0.25)
    (lamp,) = asset.lights.values()
    assert (lamp.amount, lamp.unit, lamp.width, lamp.height) == (48, "cd/m²", 0.4, 0.2), "3 times two to the fourth"
    assert np.subtract(lamp.target, lamp.position) == pytest.approx([0, -1, 0])
    (sight,) = asset.sights
    assert sight.position == pytest.approx((0, 0.5, 3)) and sight.ahead == pytest.approx((0, 0, -1), abs=1e-9)


def test_an_image_lies_as_its_coordinates_say(stage, tmp_path):
    """Texture coordinates of another name than usual, laid two and three times."""
    (tmp_path / "four.png").write_bytes(png(FOUR, tmp_path))
    square = usd_files.mesh(stage, "/Square", [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)])
    st = UsdGeom.PrimvarsAPI(square).CreatePrimvar("map1", Sdf.ValueTypeNames.TexCoord2fArray, "faceVarying")
    st.Set([(0, 0), (0.5, 0), (0.5, 1 / 3), (0, 1 / 3)])  # the material lays it two and three times
    material = usd_files.textured(stage, "/Look", "four.png", roughness=1.0)
    usd_files.bind(square, material)
    surface = stage.GetPrimAtPath("/Look/Surface")
    color = surface.GetAttribute("inputs:diffuseColor")
    surface.CreateAttribute("inputs:emissiveColor", Sdf.ValueTypeNames.Color3f).SetConnections(color.GetConnections())
    color.ClearConnections()
    color.Set(Gf.Vec3f(0, 0, 0))
    stage.GetRootLayer().Save()
    shown = Picture(tmp_path / "made.usda", tmp_path, **DARK)
    for (u, v), expected in {(0.25, 0.25): (1, 0, 0), (0.75, 0.25): (0, 1, 0), (0.25, 0.75): (0, 0, 1)}.items():
        assert shown.color(u, v) == pytest.approx(expected, abs=0.08)


def test_faces_with_materials_of_their_own_are_parts(stage):
    strip = usd_files.mesh(
        stage, "/Strip", [(x, y, 0) for x in range(3) for y in (0, 1)], (4, 4), (0, 2, 3, 1, 2, 4, 5, 3)
    )
    red, blue = (usd_files.preview(stage, f"/{name}", diffuseColor=color) for name, color in
                 (("Red", (1.0, 0.0, 0.0)), ("Blue", (0.0, 0.0, 1.0))))  # fmt: skip
    usd_files.bind(strip, red)
    right = UsdGeom.Subset.CreateGeomSubset(strip, "right", "face", [1], "materialBind")
    usd_files.bind(right, blue)
    asset = read(stage)
    assert {part.name: part.material for part in asset.parts.values()} == {"Strip right": "blue", "Strip": "red"}
    assert corners(asset, "Strip right")[:, 0].min() == 1


def test_left_handed_faces_look_the_same_way(stage):
    mesh = usd_files.mesh(stage, "/Square")
    mesh.CreateOrientationAttr("leftHanded")
    assert (read(stage).meshes[0].normals == [0, 0, -1]).all()


def test_what_is_hidden_or_a_stand_in_is_left_out(stage):
    for name in ("Shown", "Hidden", "Rough"):
        stage.DefinePrim(f"/{name}", "Xform")
        usd_files.mesh(stage, f"/{name}/Mesh")
    UsdGeom.Imageable(stage.GetPrimAtPath("/Hidden")).MakeInvisible()
    UsdGeom.Imageable.Get(stage, "/Rough/Mesh").CreatePurposeAttr("proxy")
    assert len(read(stage).parts) == 1


def test_scene_graph_instances_share_a_mesh_and_a_chosen_variant_is_read(stage):
    usd_files.mesh(stage, "/Proto/Mesh")
    for number in range(3):
        prim = stage.DefinePrim(f"/Copy{number}", "Xform")
        prim.GetReferences().AddInternalReference("/Proto")
        prim.SetInstanceable(True)
        UsdGeom.Xformable(prim).AddTranslateOp().Set((0, 0, float(number)))
    variants = stage.DefinePrim("/Choice", "Xform").GetVariantSets().AddVariantSet("size")
    for name in ("small", "large"):
        variants.AddVariant(name)
        variants.SetVariantSelection(name)
        with variants.GetVariantEditContext():
            usd_files.mesh(stage, f"/Choice/{name}")
    asset = read(stage)
    names = [part.name for part in asset.parts.values()]
    assert names.count("Mesh") == 4 and "large" in names and "small" not in names
    assert len({part.mesh for part in asset.parts.values() if part.name == "Mesh"}) <= 2
    assert sorted({part.matrix[11] for part in asset.parts.values()}) == [0, 1, 2]


def test_points_that_move_are_shapes_of_their_mesh(stage):
    """A square that leans back about its lower edge within a second."""
    stage.SetTimeCodesPerSecond(24)
    stage.SetStartTimeCode(12)
    stage.SetEndTimeCode(36)
    mesh = usd_files.mesh(stage, "/Flag")
    for code, deep in ((12, 0.0), (24, 50.0), (36, 100.0)):
        high = (100.0**2 - deep**2) ** 0.5
        mesh.GetPointsAttr().Set([(0, 0, 0), (100, 0, 0), (100, high, -deep), (0, high, -deep)], code)
    asset = read(stage)
    (made,) = asset.meshes
    assert not asset.problems and made.shapes.times == (0.0, 0.5, 1.0)
    upper = made.positions[:, 1] > 50
    assert np.allclose(made.shapes.positions[1][upper][:, 1:], [86.60254, -50.0], atol=1e-3)
    assert np.allclose(np.abs(made.shapes.normals[1] @ [0, 0.5, 0.8660254]), 1, atol=1e-5)
    assert np.allclose(made.shapes.positions[:, ~upper], made.positions[~upper])


def test_points_that_change_their_number_are_said_and_left(stage):
    mesh = usd_files.mesh(stage, "/Flag")
    mesh.GetPointsAttr().Set(usd_files.SQUARE, 0)
    mesh.GetPointsAttr().Set(usd_files.SQUARE[:3], 1)
    asset = read(stage)
    assert asset.problems == ["Flag: its points change their number, which is not shown"]
    assert asset.meshes[0].shapes is None


def test_a_skeleton_moves_what_is_bound_to_it(stage):
    """The upper edge hangs on a joint that turns by 90° about X, the lower one on one that rests."""
    root = UsdSkel.Root.Define(stage, "/Figure")
    mesh = usd_files.mesh(stage, "/Figure/Flag")
    skeleton = UsdSkel.Skeleton.Define(stage, "/Figure/Bones")
    joints, rest = ["Hip", "Hip/Head"], [Gf.Matrix4d(1.0), Gf.Matrix4d().SetTranslate((0, 100, 0))]
    skeleton.CreateJointsAttr(joints)
    skeleton.CreateBindTransformsAttr(rest)
    skeleton.CreateRestTransformsAttr(rest)
    motion = UsdSkel.Animation.Define(stage, "/Figure/Nod")
    motion.CreateJointsAttr(joints)
    motion.CreateTranslationsAttr([(0, 0, 0), (0, 100, 0)])
    motion.CreateScalesAttr([(1, 1, 1), (1, 1, 1)])
    turns = motion.CreateRotationsAttr()
    for code, degrees in ((0, 0), (24, 90)):
        nod = Gf.Rotation((1, 0, 0), degrees).GetQuat()
        turns.Set([Gf.Quatf(1), Gf.Quatf(nod)], code)
    stage.SetStartTimeCode(0)
    stage.SetEndTimeCode(24)
    UsdSkel.BindingAPI.Apply(skeleton.GetPrim()).CreateAnimationSourceRel().SetTargets([motion.GetPath()])
    bound = UsdSkel.BindingAPI.Apply(mesh.GetPrim())
    bound.CreateSkeletonRel().SetTargets([skeleton.GetPath()])
    # Of the upper corners each hangs on the head, 10 units above its joint for one of them.
    mesh.GetPointsAttr().Set([(0, 0, 0), (100, 0, 0), (100, 110, 0), (0, 100, 0)])
    bound.CreateJointIndicesPrimvar(False, 1).Set([0, 0, 1, 1])
    bound.CreateJointWeightsPrimvar(False, 1).Set([1.0] * 4)
    before = root.GetPrim().GetStage().ExportToString()
    asset = read(stage)
    (made,) = asset.meshes
    assert not asset.problems and stage.ExportToString() == before
    corner = int(np.argmax(made.positions[:, 1]))
    assert made.positions[corner] == pytest.approx([100, 110, 0])
    assert made.shapes.times[-1] == 1.0
    assert made.shapes.positions[-1][corner] == pytest.approx([100, 100, 10], abs=1e-3), "turned about its joint"


def test_motion_comes_in_seconds(stage):
    stage.SetStartTimeCode(10)
    stage.SetEndTimeCode(58)
    stage.SetTimeCodesPerSecond(24)
    usd_files.mesh(stage, "/Arm/Square")
    move = UsdGeom.Xformable(stage.DefinePrim("/Arm", "Xform")).AddTranslateOp()
    move.Set((0, 0, 0), 10)
    move.Set((0, 2, 0), 58)
    (part,) = read(stage).parts.values()
    assert [(key.time, key.matrix[7]) for key in part.keys] == [(0, 0), (2, 2)]


def test_materialx_surfaces_are_read_by_the_names_of_their_standard(stage):
    looks = {
        "Open": ("ND_open_pbr_surface_surfaceshader", {
            "base_color": (0.2, 0.4, 0.6), "coat_weight": 0.5, "coat_roughness": 0.2, "specular_ior": 1.7,
            "transmission_depth": 0.25, "emission_luminance": 20.0,
        }),
        "Standard": ("ND_standard_surface_surfaceshader", {
            "base": 0.5, "base_color": (0.2, 0.4, 0.6), "metalness": 1.0, "specular_IOR": 1.6, "coat": 0.25,
            "sheen": 0.75, "thin_film_thickness": 400.0, "thin_film_IOR": 1.3,
        }),
    }  # fmt: skip
    for name, (identity, inputs) in looks.items():
        usd_files.bind(usd_files.mesh(stage, f"/{name}/Mesh"),
                       usd_files.surface(stage, f"/Looks/{name}", identity, "mtlx:surface", **inputs))  # fmt: skip
    materials = read(stage).materials
    open_pbr, standard = materials["open"], materials["standard"]
    for name, value in looks["Open"][1].items():
        assert getattr(open_pbr, name) == pytest.approx(value), name
    assert (standard.base_weight, standard.base_metalness, standard.specular_ior) == (0.5, 1, 1.6)
    assert (standard.coat_weight, standard.fuzz_weight) == (0.25, 0.75)
    assert (standard.thin_film_weight, standard.thin_film_thickness, standard.thin_film_ior) == (1, 0.4, 1.3)


def test_lights_shine_as_much_as_they_say(stage):
    usd_files.mesh(stage, "/Square")
    sun = UsdLux.DistantLight.Define(stage, "/Sun")
    sun.CreateIntensityAttr(1e5)
    sun.CreateAngleAttr(0.5)
    ball = UsdLux.SphereLight.Define(stage, "/Ball")
    ball.CreateRadiusAttr(0.5)
    ball.CreateIntensityAttr(10)
    ball.CreateNormalizeAttr(True)
    UsdLux.DomeLight.Define(stage, "/Dome")
    asset = read(stage)
    lights = {light.name: light for light in asset.lights.values()}
    assert lights["Sun"].amount == pytest.approx(1e5 * np.pi * np.sin(np.radians(0.25)) ** 2)
    assert lights["Ball"].amount == pytest.approx(10 / np.pi), "spread over its surface"
    assert "Dome: a DomeLight is not read" in asset.problems


def test_nothing_outside_its_own_files_is_read(stage, tmp_path):
    elsewhere = tmp_path.parent / f"{tmp_path.name}-other.usda"
    other = Usd.Stage.CreateNew(str(elsewhere))
    usd_files.mesh(other, "/Secret")
    other.GetRootLayer().Save()
    stage.DefinePrim("/Taken").GetReferences().AddReference(str(elsewhere), "/Secret")
    with pytest.raises(AssetError, match="outside its own files"):
        read(stage)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"#usda 1.0\ndef Mesh {", "damaged USD"),
        (b"PXR-USDC" + b"\0" * 90, "damaged USD"),
        (b"#usda 1.0\ndef Mesh \"\x97\xff\" {\n int[] a = \x8a }\n", "damaged USD"),
        (b"#usda 1.0\ndef Xform \"Empty\" {}\n", "no triangles"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_refused_with_its_name(tmp_path, content, words):
    (tmp_path / "bad.usda").write_bytes(content)
    with pytest.raises(AssetError, match=f"bad.usda: .*{words}"):
        import_asset(tmp_path / "bad.usda", name="bad.usda")


def test_indices_beyond_the_points_are_refused(stage):
    usd_files.mesh(stage, "/Square", indices=(0, 1, 2, 9))
    with pytest.raises(AssetError, match=r"/Square: has a face of vertex 9; there are 4"):
        read(stage)


def area(triangles, places):
    a, b, c = (places[triangles[:, i]] for i in range(3))
    return np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2


def test_a_polygon_that_is_not_convex_is_cut_into_what_it_covers():
    """A comb, a quad with a dent and an L: the areas of the triangles add up to that of the polygon."""
    comb = [(0, 0), (5, 0), (5, 3), (4, 3), (4, 1), (3, 1), (3, 2), (2, 2), (2, 1), (1, 1), (1, 1.5), (0, 1.5)]
    dent = [(0, 0), (2, 1), (0, 2), (0.5, 1)]
    for outline in (comb, comb[::-1], dent, dent[1:] + dent[:1], [(0, 0), (2, 0), (2, 1), (1, 1), (1, 2), (0, 2)]):
        places = np.array([(0.0, x, y) for x, y in outline])
        x, y = places[:, 1], places[:, 2]
        true = abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
        triangles, faces = triangulated(np.array([len(outline)]), places)
        assert len(triangles) == len(outline) - 2 and (faces == 0).all()
        assert area(triangles, places) == pytest.approx(true)


def test_faces_of_any_number_of_corners_keep_their_order():
    places = np.random.default_rng(3).normal(size=(11, 3))
    triangles, faces = triangulated(np.array([2, 3, 0, 4, 2]), places)
    assert faces.tolist() == [1, 3, 3] and triangles[0].tolist() == [2, 3, 4]
    assert set(triangles[1:].ravel().tolist()) == {5, 6, 7, 8}
