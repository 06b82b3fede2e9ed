"""Surfaces for tests, and the estimates that tests make of them. Kernels here know nothing of how lobes are written."""

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import address
from lantern.kernel.random import path_key, uniform
from lantern.surface.evaluate import evaluate
from lantern.surface.film import film_row
from lantern.surface.prepare import prepare
from lantern.surface.record import surface_row
from lantern.surface.sample import ENTERED, sample

FILM = film_row(450.0, 1.4, 1.5, np.array([1.0, 1.0, 1.0]), np.array([1.0, 1.0, 1.0]), 1.0)

LOBES = {
    "diffuse": {"base_color": 1.0, "ratio": 1.001},
    "rough diffuse": {"base_color": 1.0, "ratio": 1.001, "diffuse_roughness": 1.0},
    "diffuse under gloss": {"base_color": 1.0},
    "metal": {"base_color": 1.0, "metalness": 1.0},
    "half metal": {"base_color": 1.0, "metalness": 0.5},
    "glass entering": {"transmission": 1.0},
    "glass leaving": {"transmission": 1.0, "entering": 0},
    "half glass": {"base_color": 1.0, "transmission": 0.5},
    "thin-walled glass": {"transmission": 1.0, "thin_walled": 1},
    "thin leaf": {"subsurface": 1.0, "subsurface_color": 1.0, "thin_walled": 1},
    "coated diffuse": {"base_color": 1.0, "coat": 1.0, "coat_roughness": 0.2},
    "coated metal": {"base_color": 1.0, "metalness": 1.0, "coat": 1.0, "coat_roughness": 0.2},
    "fuzz on diffuse": {"base_color": 1.0, "fuzz": 1.0, "ratio": 1.001},
    "film on diffuse": {"base_color": 1.0, "film": 0},
}
"""Lossless surfaces: each returns all light that it gets. A mirror under a film loses what the film's colour says."""


class Bench:
    """One surface record and the tables that its kernels read, kept alive together."""

    def __init__(self, albedos: np.ndarray, **values: object) -> None:
        self.record, self.albedos, self.films = surface_row(**values), albedos, FILM
        self.row, self.table = np.uint64(address(self.record)), np.uint64(address(albedos))
        self.film = np.uint64(address(FILM))

    def addresses(self) -> tuple[np.uint64, np.uint64, np.uint64]:
        return self.row, self.table, self.film


def direction(cosine: float, angle: float = 0.0) -> tuple[np.float32, np.float32, np.float32]:
    """A unit direction `cosine` above (or below) the surface."""
    sine = np.sqrt(1 - cosine * cosine)
    return f32(sine * np.cos(angle)), f32(sine * np.sin(angle)), f32(cosine)


@njit
def throughput(row, albedos, films, wo, count):
    """Mean of f·cos/pdf over sampled directions, its standard error; light that enters a subsurface counts as kept."""
    prepare(row, wo, albedos, films)
    total, squares = 0.0, 0.0
    for i in range(count):
        key = path_key(i, 0, 5)
        decision, wi = sample(row, wo, uniform(key, 0), uniform(key, 1), uniform(key, 2), films)
        if decision != ENTERED and wi[2] != f32(0):
            value, pdf = evaluate(row, wo, wi, films)
            if pdf > f32(0):
                w = value[1] / pdf
                total += w
                squares += w * w
    mean = total / count
    return mean, np.sqrt(max(squares / count - mean * mean, 0.0) / count)


@njit
def integral(row, albedos, films, wo, side):
    """(∫ f·cos dω, ∫ pdf dω) over the sphere by a fine even grid, knowing nothing of the sampler."""
    prepare(row, wo, albedos, films)
    total, density = 0.0, 0.0
    for i in range(side):
        z = f32(2.0 * (i + 0.5) / side - 1.0)
        r = f32(np.sqrt(1.0 - z * z))
        for j in range(2 * side):
            phi = np.pi * (j + 0.5) / side
            value, pdf = evaluate(row, wo, (r * f32(np.cos(phi)), r * f32(np.sin(phi)), z), films)
            total += value[1]
            density += pdf
    cell = 2.0 * np.pi / (side * side)
    return total * cell, density * cell


@njit
def histograms(row, albedos, films, wo, count, bins):
    """Sampled and expected counts over (z, φ) bins of the sphere."""
    prepare(row, wo, albedos, films)
    found, expected = np.zeros((2 * bins, 2 * bins)), np.zeros((2 * bins, 2 * bins))
    for i in range(count):
        key = path_key(i, 0, 11)
        decision, wi = sample(row, wo, uniform(key, 0), uniform(key, 1), uniform(key, 2), films)
        if decision != ENTERED and wi[2] != f32(0):
            column = min(int((np.arctan2(wi[1], wi[0]) / (2 * np.pi) + 0.5) * 2 * bins), 2 * bins - 1)
            found[min(int((wi[2] + 1) * bins), 2 * bins - 1), column] += 1
    fine = 32
    for a in range(2 * bins):
        for b in range(2 * bins):
            total = 0.0
            for i in range(fine):
                for j in range(fine):
                    z = (a + (i + 0.5) / fine) / bins - 1
                    phi = ((b + (j + 0.5) / fine) / (2 * bins) - 0.5) * 2 * np.pi
                    r = np.sqrt(1 - z * z)
                    total += evaluate(row, wo, (f32(r * np.cos(phi)), f32(r * np.sin(phi)), f32(z)), films)[1]
            expected[a, b] = total / (fine * fine) * (1 / bins) * (2 * np.pi / (2 * bins)) * count
    return found, expected


@njit
def reflect(row, albedos, films, wo, wi):
    """f [1/sr] of one pair of directions, green channel."""
    prepare(row, wo, albedos, films)
    return evaluate(row, wo, wi, films)[0][1] / abs(wi[2])
