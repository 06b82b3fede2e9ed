"""OBJ and MTL: groups, materials and images as they are in other formats, whatever other programs write into them."""

import zipfile

import numpy as np
import pytest

from lantern.assets.errors import AssetError
from lantern.assets.readers.obj.mtl import parse_mtl
from lantern.assets.reading import import_asset
from lantern.color import decode_srgb
from lantern.scene.surroundings import Environment
from tests.core.mesh_files import SQUARE
from tests.core.quad_files import Picture, png

FOUR = np.array([[[255, 0, 0], [0, 255, 0]], [[0, 0, 255], [188, 188, 188]]], np.uint8)
"""Red, green over blue, linear half grey."""
DARK = {"environment": Environment(intensity=0.0)}


def brought(folder, text, mtl="", name="square.obj", library="square.mtl"):
    (folder / name).write_text(text.format(library=library))
    (folder / "square.mtl").write_text(mtl)
    return import_asset(folder / name)


def dressed(folder, *statements):
    """The one material of a square that an MTL file dresses."""
    asset = brought(folder, SQUARE, "\n".join(["newmtl Red Enamel", *statements]))
    (material,) = asset.materials.values()
    return material, asset


def test_groups_and_materials_become_parts(tmp_path):
    text = SQUARE + "o Lid\nusemtl Blue\nf 1 2 3\nusemtl Red Enamel\nf 1 3 4\nf -4 -2 -1\n"
    asset = brought(tmp_path, text, "newmtl Red Enamel\nKd 1 0 0\nnewmtl Blue\nKd 0 0 1\n")
    names = {part.name: (asset.meshes[part.mesh].triangles, part.material) for part in asset.parts.values()}
    assert names == {
        "Square": (2, "red-enamel"), "Lid Blue": (1, "blue"), "Lid Red Enamel": (2, "red-enamel"),
    }  # fmt: skip
    assert asset.materials["blue"].base_color == (0, 0, 1)
    assert asset.problems == ["OBJ says no unit: taken as metres"]


def test_an_image_lies_as_its_coordinates_say(tmp_path):
    """v runs up from the lower edge; the path is another machine's, and the case of the name another one."""
    (tmp_path / "Textures").mkdir()
    (tmp_path / "Textures" / "Four.PNG").write_bytes(png(FOUR, tmp_path))
    (tmp_path / "square.mtl").write_text("newmtl Red Enamel\nKd 0 0 0\nKs 0 0 0\nmap_Ke C:\\work\\maps\\four.png\n")
    (tmp_path / "square.obj").write_text(SQUARE.format(library="C:\\work\\SQUARE.mtl"))
    shown = Picture(tmp_path / "square.obj", tmp_path, **DARK)
    for (u, v), expected in {(0.25, 0.25): (1, 0, 0), (0.75, 0.25): (0, 1, 0), (0.25, 0.75): (0, 0, 1)}.items():
        assert shown.color(u, v) == pytest.approx(expected, abs=0.08)
    half = decode_srgb(np.full(3, 188) / 255)
    assert shown.color(0.75, 0.75) == pytest.approx(half, abs=0.08)


def test_a_zip_holds_the_asset_with_its_files(tmp_path):
    archive = tmp_path / "set.zip"
    with zipfile.ZipFile(archive, "w") as target:
        target.writestr("set/square.obj", SQUARE.format(library="square.mtl"))
        target.writestr("set/square.mtl", "newmtl Red Enamel\nKd 1 1 1\nmap_Kd four.png\n")
        target.writestr("set/maps/FOUR.png", png(FOUR, tmp_path))
    asset = import_asset(archive, name="upload.zip")
    assert asset.name == "upload" and len(asset.textures) == 1
    assert asset.textures[0].texels[0, 0].tolist() == [255, 0, 0, 255]


def test_phong_becomes_roughness_and_the_additions_are_taken_as_they_are(tmp_path):
    material, _ = dressed(tmp_path, "Kd 0.5 0.4 0.3", "Ks 0.4 0.4 0.4", "Ns 62", "Ni 1.45")
    assert material.base_color == (0.5, 0.4, 0.3)
    assert material.specular_roughness**2 == pytest.approx(np.sqrt(2 / 64)), "Walter et al.: exponent 2 / alpha² - 2"
    assert material.specular_ior == 1.45
    material, _ = dressed(tmp_path, "Pr 0.3", "Pm 1", "Pc 0.5", "Pcr 0.1", "Ps 0.2", "aniso 0.4", "anisor 0.25")
    assert (material.specular_roughness, material.base_metalness) == (0.3, 1)
    assert (material.coat_weight, material.coat_roughness, material.fuzz_weight) == (0.5, 0.1, 0.2)
    assert (material.specular_roughness_anisotropy, material.tangent_rotation) == (0.4, 90)


def test_glass_glow_holes_and_old_metal(tmp_path):
    glass, _ = dressed(tmp_path, "Kd 0 0 0", "Ks 1 1 1", "d 0.1", "illum 7", "Tf 0.9 1 1", "Ni 1.52")
    assert (glass.transmission_weight, glass.transmission_tint, glass.base_metalness) == (0.9, (0.9, 1, 1), 0)
    veil, _ = dressed(tmp_path, "Kd 1 1 1", "Tr 0.25")
    assert (veil.geometry_opacity, veil.transmission_weight) == (0.75, 0)
    lamp, _ = dressed(tmp_path, "Ke 8 4 0")
    assert (lamp.emission_color, lamp.emission_luminance) == ((1, 0.5, 0), 8)
    metal, _ = dressed(tmp_path, "Kd 0 0 0", "Ks 0.9 0.6 0.3", "Ns 100")
    assert (metal.base_metalness, metal.base_color) == (1, (0.9, 0.6, 0.3))


def test_maps_that_come_apart_are_put_together(tmp_path):
    for name, value in {"rough": 50, "metal": 200, "cut": 90}.items():
        (tmp_path / f"{name}.png").write_bytes(png(np.full((4, 4, 1), value, np.uint8), tmp_path))
    (tmp_path / "color.png").write_bytes(png(FOUR, tmp_path))
    material, asset = dressed(
        tmp_path, "map_Kd -s 2 3 1 color.png", "map_Pr rough.png", "map_Pm metal.png", "map_d cut.png"
    )
    surface = asset.textures[material.metallic_roughness_texture.texture].texels
    assert surface[0, 0, 1:3].tolist() == [50, 200] and material.specular_roughness == material.base_metalness == 1
    color = asset.textures[material.base_color_texture.texture].texels
    assert color.shape == (4, 4, 4) and (color[..., 3] == 90).all() and material.alpha_mode == "blend"
    assert material.base_color_texture.matrix == (2, 0, 0, 0, 3, -2), "from the lower edge, of a v that runs down"


def test_heights_become_normals_and_normals_stay(tmp_path):
    ramp = np.repeat(np.arange(0, 160, 10, dtype=np.uint8)[None, :, None], 16, 0)
    (tmp_path / "ramp.png").write_bytes(png(ramp, tmp_path))
    material, asset = dressed(tmp_path, "bump -bm 12.75 ramp.png")
    texels = asset.textures[material.normal_texture.texture].texels
    # It rises by 10 / 255 of 12.75, half a texel, in each texel.
    expected = np.array([-0.5, 0, 1]) / np.sqrt(1.25)
    assert texels[8, 8, :3] / 127.5 - 1 == pytest.approx(expected, abs=0.01)
    flat = np.full((4, 4, 3), (128, 128, 255), np.uint8)
    (tmp_path / "flat.png").write_bytes(png(flat, tmp_path))
    material, asset = dressed(tmp_path, "map_Bump flat.png")
    assert asset.textures[material.normal_texture.texture].texels[0, 0, :3].tolist() == [128, 128, 255]


def test_what_is_missing_is_said_and_the_rest_comes(tmp_path):
    odd = brought(tmp_path, "v 0 0 0\nv 1 0 0\nv 1 1 0\ns 1\nf 1 2 3\nl 1 2\n")
    assert odd.problems[1:] == [
        "lines, points and curves are not drawn",
        "smoothing groups are not used: surfaces are smooth up to an angle",
    ]
    _, asset = dressed(tmp_path, "map_Kd lost.png", "map_Ks shine.png")
    assert "texture 'lost.png' is missing" in asset.problems
    assert "material 'Red Enamel': its map_Ks is not used" in asset.problems
    asset = brought(tmp_path, SQUARE, library="nowhere.mtl")
    assert "material file 'nowhere.mtl' is missing" in asset.problems
    assert asset.parts["square"].material == "red-enamel", "its name is known all the same"


def test_a_mesh_without_normals_is_smooth_but_for_its_edges(tmp_path):
    asset = brought(tmp_path, "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nf 1 2 3 4\nf 2 1 5 6\n")
    (mesh,) = asset.meshes
    assert len(mesh.positions) == 8 and np.allclose(np.abs(mesh.normals).max(1), 1)


def test_coloured_vertices_are_seen(tmp_path):
    asset = brought(tmp_path, "v 0 0 0 1 0.5 0\nv 1 0 0 1 0.5 0\nv 1 1 0 1 0.5 0\nf 1 2 3\n")
    assert asset.meshes[0].colors[0] == pytest.approx([1, decode_srgb(np.array([0.5]))[0], 0, 1], abs=1e-4)
    assert asset.materials["default"].vertex_colors


def test_text_of_two_bytes_a_letter_and_a_long_remark_are_read(tmp_path):
    text = "v 0 0 0\nv 1 0 0\nv 1 1 0\ng\nf 1 2 3\np 1\n"
    (tmp_path / "wide.obj").write_bytes(text.encode("utf-16"))
    assert import_asset(tmp_path / "wide.obj").triangles == 1
    assert brought(tmp_path, "# remark\n" * 200 + text).triangles == 1


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 9\n", "vertex that is not there|damaged OBJ"),
        ("v 0 0 0\nv 1 0 0\nl 1 2\n", "no triangles"),
        ("v 0 0 0\nv nan 0 0\nv 1 1 0\nf 1 2 3\n", "no numbers|damaged|no triangles"),
        ("v 0 0 0\nv 1e30 0 0\nv 1 1 0\nf 1 2 3\n", "lie beyond"),
    ],
)
def test_what_cannot_be_used_is_refused_with_its_name(tmp_path, text, words):
    with pytest.raises(AssetError, match=f"square.obj: .*({words})"):
        brought(tmp_path, text)


def test_statements_of_mtl_are_read_as_they_are_written():
    found = parse_mtl(
        "newmtl a b\n\tKd 1 1 1\nKs spectral file.rfl 1\nmap_Bump\nNs hello\nillum 2\n"
        "map_Kd -o 0.1 0.2 -clamp on -bm 2 my maps/a b.png\n"
    )
    material = found["a b"]
    assert material.colors == {"Kd": (1, 1, 1)} and material.numbers == {"illum": 2}
    laid = material.maps["map_Kd"]
    assert (laid.path, laid.offset, laid.clamped, laid.strength) == ("my maps/a b.png", (0.1, 0.2), True, 2)
    assert list(material.maps) == ["map_Kd"]


def test_faces_of_vertices_that_are_not_there_stop_nothing(tmp_path):
    """Damage that made the library look beyond its arrays: quads, and no vertex at all."""
    with pytest.raises(AssetError, match=r"square.obj: .*(vertex that is not there|damaged)"):
        brought(tmp_path, "vn 0 0 1\no Square\nf 1/1/1 3/2/1 3/3/1 4/4/1\nf 1 2 3 4 5 6\n")


def test_a_face_that_is_not_convex_covers_what_it_should(tmp_path):
    asset = brought(tmp_path, "v 0 0 0\nv 2 1 0\nv 0 2 0\nv 0.5 1 0\nf 1 2 3 4\n")
    corners = asset.meshes[0].positions[asset.meshes[0].indices]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    assert areas.sum() == pytest.approx(1.5)
