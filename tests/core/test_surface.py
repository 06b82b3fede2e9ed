"""Lobes against truths that are not themselves: energy, reciprocity, sampling against density, closed forms."""

import numpy as np
import pytest
from numpy import float32 as f32

from lantern.surface.albedo import albedo_block
from lantern.surface.diffuse import diffuse_value, fujii_albedo
from lantern.surface.fresnel import fresnel_dielectric, fresnel_metal_channel
from lantern.surface.fuzz import fuzz_value
from tests.core.surfaces import LOBES, Bench, direction, histograms, integral, reflect, throughput

SAMPLES = 1 << 17


@pytest.fixture(scope="module")
def albedos():
    return albedo_block()


@pytest.mark.parametrize("lobe", LOBES)
@pytest.mark.parametrize("roughness", [0.0, 0.2, 0.5, 1.0])
@pytest.mark.parametrize("cosine", [0.15, 0.6, 1.0])
def test_white_furnace(albedos, lobe, roughness, cosine):
    """In a closed white room every lossless surface returns all light: reflected + transmitted = 1."""
    bench = Bench(albedos, **LOBES[lobe], roughness=roughness)
    mean, error = throughput(*bench.addresses(), direction(cosine), SAMPLES)
    assert abs(mean - 1) < 0.005 + 4 * error
    assert error < 0.01


def stretched(roughness: float, anisotropy: float) -> tuple[float, float]:
    """(αx, αy) as OpenPBR 1.1, section 3.4, splits a roughness."""
    narrow = 1 - anisotropy
    wide = roughness**2 * np.sqrt(2 / (1 + narrow**2))
    return max(wide, 1e-3), max(wide * narrow, 1e-3)


CLAIMED = {"metal": 0.015, "thin-walled glass": 0.015, "diffuse under gloss": 0.04, "coated diffuse": 0.08}
"""Largest error of energy [-] at any single angle. Clear glass is approximated and apart."""


@pytest.mark.parametrize("lobe", CLAIMED)
@pytest.mark.parametrize("roughness", [0.3, 0.5, 0.8, 1.0])
@pytest.mark.parametrize("anisotropy", [0.3, 0.6, 0.9, 1.0])
def test_white_furnace_of_anisotropic_lobes(albedos, lobe, roughness, anisotropy):
    """All light comes back whichever way the brushed surface is turned, at single angles and not in the mean."""
    alpha_x, alpha_y = stretched(roughness, anisotropy)
    coat = {"coat_alpha_x": alpha_x, "coat_alpha_y": alpha_y} if "coat" in lobe else {}
    bench = Bench(albedos, **LOBES[lobe] | coat, alpha_x=alpha_x, alpha_y=alpha_y)
    for cosine in (0.2, 0.5, 0.9):
        for azimuth in np.radians([0, 20, 70, 90]):
            mean, error = throughput(*bench.addresses(), direction(cosine, azimuth), SAMPLES)
            assert abs(mean - 1) < CLAIMED[lobe] + 4 * error, (cosine, azimuth)


@pytest.mark.parametrize("lobe", LOBES)
@pytest.mark.parametrize("anisotropic", [False, True])
def test_sampling_agrees_with_brute_force(albedos, lobe, anisotropic):
    """The sampled estimate equals an integral that uses no sampler, and the density integrates to at most 1."""
    shape = {"alpha_x": 0.5, "alpha_y": 0.2} if anisotropic else {"roughness": 0.6}
    bench = Bench(albedos, **LOBES[lobe] | shape | {"coat_roughness": 0.5})
    wo = direction(0.7, 0.9)
    brute, density = integral(*bench.addresses(), wo, 700)
    sampled, error = throughput(*bench.addresses(), wo, SAMPLES)
    assert sampled == pytest.approx(brute, abs=0.002 + 4 * error)
    assert 0.85 < density < 1.002


@pytest.mark.parametrize("lobe", LOBES)
def test_directions_follow_their_density(albedos, lobe):
    """Chi-square of sampled directions against the stated density, an anisotropic lobe seen aslant."""
    bench = Bench(albedos, **LOBES[lobe] | {"alpha_x": 0.6, "alpha_y": 0.35, "coat_roughness": 0.6})
    found, expected = histograms(*bench.addresses(), direction(0.6, 0.5), 200_000, 8)
    used = expected > 20
    chi_square = ((found[used] - expected[used]) ** 2 / expected[used]).sum()
    freedom = used.sum() - 1
    # The integral over a bin is good to a part in a thousand: near the mask of visible normals it has an edge.
    assert chi_square < freedom + 5 * np.sqrt(2 * freedom) + 1e-5 * expected[used].sum()
    assert found[expected < 1e-9].sum() == 0


def _pairs(count, least=0.05):
    """Random pairs of directions above the surface."""
    generator = np.random.default_rng(3)
    for _ in range(count):
        (a, b), (p, q) = generator.uniform(least, 1, 2), generator.uniform(0, 2 * np.pi, 2)
        yield direction(a, p), direction(b, q)


def test_rough_diffuse_is_reciprocal():
    for roughness in (0.0, 0.4, 1.0):
        for a, b in _pairs(100):
            color = (f32(0.9), f32(0.5), f32(0.1))
            forth = diffuse_value(color, f32(roughness), 1 - fujii_albedo(a[2], f32(roughness)), a, b)
            back = diffuse_value(color, f32(roughness), 1 - fujii_albedo(b[2], f32(roughness)), b, a)
            assert forth == pytest.approx(back, rel=1e-5)


def test_fuzz_is_reciprocal():
    for roughness in (0.1, 0.5, 1.0):
        for a, b in _pairs(100):
            forth = fuzz_value(f32(roughness), a, b) / b[2]
            assert forth == pytest.approx(fuzz_value(f32(roughness), b, a) / a[2], rel=1e-4, abs=1e-7)


@pytest.mark.parametrize("film", [-1, 0])
def test_microfacet_reflection_is_reciprocal(albedos, film):
    """f(a, b) = f(b, a) of an anisotropic metal, its compensation (a factor of the view alone) taken out."""
    bench = Bench(albedos, base_color=0.7, metalness=1.0, alpha_x=0.7, alpha_y=0.3, film=film)
    for a, b in _pairs(200):
        forth = reflect(*bench.addresses(), a, b) / bench.record["metal_gain"][0, 1]
        back = reflect(*bench.addresses(), b, a) / bench.record["metal_gain"][0, 1]
        assert forth == pytest.approx(back, rel=1e-3)


def test_refraction_is_reciprocal(albedos):
    """Of radiance over n², f / n² of the side that the light comes from is symmetric (Veach 1997, equation 5.14)."""
    inward = Bench(albedos, transmission=1.0, roughness=0.6)
    outward = Bench(albedos, transmission=1.0, roughness=0.6, entering=0)
    for a, b in _pairs(200, 0.1):
        below = (b[0], b[1], -b[2])
        forth = reflect(*inward.addresses(), a, below) / inward.record["glass_gain"][0] / 1.5**2
        back = reflect(*outward.addresses(), b, (a[0], a[1], -a[2])) / outward.record["glass_gain"][0]
        assert forth == pytest.approx(back, rel=2e-3, abs=1e-6)


@pytest.mark.parametrize("coat", [0.0, 1.0])
def test_nothing_is_brighter_than_the_light_it_gets(albedos, coat):
    """Random surfaces of all lobes at once: energy out is never above energy in."""
    generator = np.random.default_rng(11)
    for _ in range(40):
        values = {
            name: generator.uniform(0, 1)
            for name in (
                "base_color",
                "metalness",
                "transmission",
                "roughness",
                "diffuse_roughness",
                "fuzz",
                "fuzz_color",
            )
        }
        values |= {"ratio": generator.uniform(1.05, 2.5), "coat": coat, "coat_roughness": generator.uniform(0, 1)}
        bench = Bench(albedos, **values)
        mean, error = throughput(*bench.addresses(), direction(generator.uniform(0.1, 1)), 1 << 14)
        assert mean < 1.005 + 4 * error, values


def test_fresnel_at_known_angles():
    """Normal incidence, Brewster's angle and total reflection have closed forms."""
    assert fresnel_dielectric(f32(1), f32(1.5)) == pytest.approx(0.04, abs=1e-6)
    brewster = np.cos(np.arctan(1.5))
    parallel_zero = fresnel_dielectric(f32(brewster), f32(1.5))
    assert parallel_zero == pytest.approx(0.5 * ((1.5**2 - 1) / (1.5**2 + 1)) ** 2, abs=1e-6)
    assert fresnel_dielectric(f32(0.5), f32(1 / 1.5)) == 1
    assert fresnel_metal_channel(f32(1), f32(0.7), f32(0.4)) == pytest.approx(0.7, abs=1e-6)
    schlick = 0.7 + 0.3 * (6 / 7) ** 5
    assert fresnel_metal_channel(f32(1 / 7), f32(0.7), f32(0.4)) == pytest.approx(0.4 * schlick, abs=1e-5)
