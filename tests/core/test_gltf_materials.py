"""Ratified material extensions arrive as the OpenPBR parameters that look the same."""

import copy

import pytest

from lantern.assets.reading import import_asset
from tests.core import gltf_files


@pytest.fixture
def imported(tmp_path):
    """imported(extensions, **changes): (material, problems) of the test square with another material."""

    def make(extensions, **changes):
        document = copy.deepcopy(gltf_files.document())
        material = document["materials"][0]
        material["extensions"] = extensions
        material.update(changes)
        path = tmp_path / "square.glb"
        path.write_bytes(gltf_files.glb(document))
        asset = import_asset(path)
        (found,) = asset.materials.values()
        return found, asset.problems

    return make


def test_sheen_is_fuzz(imported):
    material, problems = imported(
        {"KHR_materials_sheen": {"sheenColorFactor": [0.5, 0.25, 0], "sheenRoughnessFactor": 0.3}}
    )
    assert material.fuzz_weight == pytest.approx(0.5)
    assert material.fuzz_color == pytest.approx((1, 0.5, 0)) and material.fuzz_roughness == pytest.approx(0.3)
    assert problems == []


def test_anisotropy_keeps_both_alphas(imported):
    """αb stays the roughness squared, αt is mixed towards 1 by the strength squared (the extension's own formula)."""
    material, _ = imported({"KHR_materials_anisotropy": {"anisotropyStrength": 0.6, "anisotropyRotation": 1.5707963}})
    narrow = 1 - material.specular_roughness_anisotropy
    wide = material.specular_roughness**2 * (2 / (1 + narrow**2)) ** 0.5
    assert wide == pytest.approx(0.16 + (1 - 0.16) * 0.36, rel=1e-3)
    assert wide * narrow == pytest.approx(0.16, rel=1e-3)
    assert material.tangent_rotation == pytest.approx(90, abs=1e-3)


def test_iridescence_dispersion_and_specular(imported):
    material, _ = imported(
        {
            "KHR_materials_iridescence": {
                "iridescenceFactor": 0.8, "iridescenceIor": 1.8, "iridescenceThicknessMaximum": 550
            },
            "KHR_materials_dispersion": {"dispersion": 0.4},
            "KHR_materials_specular": {"specularFactor": 0.7, "specularColorFactor": [1, 0.5, 0.2]},
        }
    )  # fmt: skip
    assert (material.thin_film_weight, material.thin_film_ior) == (0.8, 1.8)
    assert material.thin_film_thickness == pytest.approx(0.55)
    assert material.transmission_dispersion_abbe_number == pytest.approx(50)
    assert material.specular_weight == pytest.approx(0.7) and material.specular_color == (1, 0.5, 0.2)


def test_specular_of_a_metal_is_left_alone(imported):
    material, _ = imported(
        {"KHR_materials_specular": {"specularFactor": 0.2}},
        pbrMetallicRoughness={"metallicFactor": 1, "roughnessFactor": 0.3},
    )
    assert material.specular_weight == 1


def test_alpha_modes(imported):
    blend, _ = imported({}, alphaMode="BLEND", pbrMetallicRoughness={"baseColorFactor": [1, 1, 1, 0.25]})
    assert blend.alpha_mode == "blend" and blend.geometry_opacity == 0.25
    mask, _ = imported({}, alphaMode="MASK", alphaCutoff=0.3, pbrMetallicRoughness={"baseColorFactor": [1, 1, 1, 0.6]})
    assert mask.alpha_mode == "mask" and mask.alpha_cutoff == pytest.approx(0.3)
    assert mask.geometry_opacity == pytest.approx(0.6), "the cut-off is on factor times texture"
