"""Lobes against truths that are not themselves: energy, reciprocity, sampling against density."""

import numpy as np
import pytest
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import address
from lantern.kernel.random import path_key, uniform
from lantern.surface.albedo import albedo_block
from lantern.surface.fresnel import fresnel_dielectric, fresnel_metal_channel
from lantern.surface.openpbr import Surface, evaluate, prepare, sample

WHITE = (f32(1), f32(1), f32(1))
BLACK = (f32(0), f32(0), f32(0))
SAMPLES = 1 << 17


def surface(**changes):
    """A white diffuse dielectric with changes; roughnesses also set the alphas."""
    values = {
        "base_color": WHITE, "metalness": f32(0), "edge_color": WHITE, "roughness": f32(0.5), "alpha": f32(0.25),
        "ior": f32(1.5), "entering": True, "transmission": f32(0), "transmission_color": WHITE, "thin_walled": False,
        "coat": f32(0), "coat_roughness": f32(0.2), "coat_alpha": f32(0.04), "coat_ior": f32(1.6),
        "coat_color": WHITE, "emission": BLACK,
    }  # fmt: skip
    for name, value in changes.items():
        values[name] = value if isinstance(value, bool | tuple) else f32(value)
    values["alpha"] = max(f32(values["roughness"] ** 2), f32(1e-3))
    values["coat_alpha"] = max(f32(values["coat_roughness"] ** 2), f32(1e-3))
    return Surface(**values)


@pytest.fixture(scope="module")
def albedos():
    block = albedo_block()
    yield np.uint64(address(block))
    del block


@njit
def _throughput(s, albedos, cosine, count):
    """Mean of f·cos/pdf over sampled directions, and its standard error."""
    wo = (f32(np.sqrt(f32(1) - cosine * cosine)), f32(0), cosine)
    mixture = prepare(s, wo, albedos)
    total, squares = 0.0, 0.0
    for i in range(count):
        key = path_key(i, 0, 5)
        wi = sample(s, mixture, wo, uniform(key, 0), uniform(key, 1), uniform(key, 2))
        if wi[2] != f32(0):
            value, pdf = evaluate(s, mixture, wo, wi)
            if pdf > f32(0):
                w = value[1] / pdf
                total += w
                squares += w * w
    mean = total / count
    return mean, np.sqrt(max(squares / count - mean * mean, 0.0) / count)


LOBES = {
    "diffuse under gloss": {},
    "metal": {"metalness": 1},
    "half metal": {"metalness": 0.5},
    "glass entering": {"transmission": 1},
    "glass leaving": {"transmission": 1, "entering": False},
    "half glass": {"transmission": 0.5},
    "thin-walled glass": {"transmission": 1, "thin_walled": True},
    "coated diffuse": {"coat": 1},
    "coated metal": {"coat": 1, "metalness": 1},
}


@pytest.mark.parametrize("lobe", LOBES)
@pytest.mark.parametrize("roughness", [0.0, 0.2, 0.5, 1.0])
@pytest.mark.parametrize("cosine", [0.15, 0.6, 1.0])
def test_white_furnace(albedos, lobe, roughness, cosine):
    """In a closed white room every lossless surface returns all light: reflected + transmitted = 1."""
    mean, error = _throughput(surface(**LOBES[lobe], roughness=roughness), albedos, f32(cosine), SAMPLES)
    assert abs(mean - 1) < 0.012 + 4 * error
    assert error < 0.01


@njit
def _integral(s, albedos, cosine, count):
    """∫ f·cos dω by uniform sampling of the sphere, knowing nothing of the sampler."""
    wo = (f32(np.sqrt(f32(1) - cosine * cosine)), f32(0), cosine)
    mixture = prepare(s, wo, albedos)
    total, density = 0.0, 0.0
    for i in range(count):
        key = path_key(i, 0, 9)
        z = f32(2) * uniform(key, 0) - f32(1)
        r = f32(np.sqrt(max(f32(1) - z * z, f32(0))))
        phi = f32(6.2831855) * uniform(key, 1)
        value, pdf = evaluate(s, mixture, wo, (r * f32(np.cos(phi)), r * f32(np.sin(phi)), z))
        total += value[1]
        density += pdf
    return total / count * 4 * np.pi, density / count * 4 * np.pi


@pytest.mark.parametrize("lobe", LOBES)
def test_sampling_agrees_with_brute_force(albedos, lobe):
    """The sampled estimate equals an integral that uses no sampler, and the density integrates to at most 1."""
    s = surface(**LOBES[lobe], roughness=0.6, coat_roughness=0.5)
    brute, density = _integral(s, albedos, f32(0.7), 1 << 20)
    sampled, error = _throughput(s, albedos, f32(0.7), SAMPLES)
    assert sampled == pytest.approx(brute, abs=0.015 + 4 * error)
    assert 0.85 < density < 1.01


@njit
def _histograms(s, albedos, cosine, count, bins):
    """Sampled directions and expected counts over (z, φ) bins of the sphere."""
    wo = (f32(np.sqrt(f32(1) - cosine * cosine)), f32(0), cosine)
    mixture = prepare(s, wo, albedos)
    found = np.zeros((2 * bins, 2 * bins))
    expected = np.zeros((2 * bins, 2 * bins))
    for i in range(count):
        key = path_key(i, 0, 11)
        wi = sample(s, mixture, wo, uniform(key, 0), uniform(key, 1), uniform(key, 2))
        if wi[2] != f32(0):
            column = min(int((np.arctan2(wi[1], wi[0]) / (2 * np.pi) + 0.5) * 2 * bins), 2 * bins - 1)
            found[min(int((wi[2] + 1) * bins), 2 * bins - 1), column] += 1
    fine = 24
    for row in range(2 * bins):
        for column in range(2 * bins):
            total = 0.0
            for i in range(fine):
                for j in range(fine):
                    z = (row + (i + 0.5) / fine) / bins - 1
                    phi = ((column + (j + 0.5) / fine) / (2 * bins) - 0.5) * 2 * np.pi
                    r = np.sqrt(1 - z * z)
                    wi = (f32(r * np.cos(phi)), f32(r * np.sin(phi)), f32(z))
                    total += evaluate(s, mixture, wo, wi)[1]
            expected[row, column] = total / (fine * fine) * (1 / bins) * (2 * np.pi / (2 * bins)) * count
    return found, expected


@pytest.mark.parametrize("lobe", LOBES)
def test_directions_follow_their_density(albedos, lobe):
    """Chi-square of sampled directions against the stated density."""
    found, expected = _histograms(
        surface(**LOBES[lobe], roughness=0.7, coat_roughness=0.6), albedos, f32(0.6), 200_000, 8
    )
    used = expected > 20
    chi_square = ((found[used] - expected[used]) ** 2 / expected[used]).sum()
    freedom = used.sum() - 1
    # The numeric integral over a bin is itself only good to about a percent.
    assert chi_square < freedom + 6 * np.sqrt(2 * freedom) + 1e-4 * expected[used].sum()


@pytest.mark.parametrize("lobe", ["metal"])
def test_microfacet_reflection_is_reciprocal(albedos, lobe):
    """f(a, b) = f(b, a) for the uncompensated metal lobe (smooth enough that compensation is below 0.1 %)."""
    s = surface(**LOBES[lobe], roughness=0.25, base_color=(f32(0.9), f32(0.5), f32(0.3)))
    generator = np.random.default_rng(3)
    for _ in range(50):
        a, b = generator.normal(size=(2, 3))
        a = a / np.linalg.norm(a)
        b = a * [-1, -1, 1] + b * 0.1
        a, b = (np.abs(v) * [1, 1, 1] if v[2] < 0 else v for v in (a, b / np.linalg.norm(b)))
        a, b = (tuple(f32(x) for x in v) for v in (a, b))
        if min(a[2], b[2]) < 0.5:
            continue
        forward = evaluate(s, prepare(s, a, albedos), a, b)[0][0] / b[2]
        backward = evaluate(s, prepare(s, b, albedos), b, a)[0][0] / a[2]
        assert forward == pytest.approx(backward, rel=0.01)


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
