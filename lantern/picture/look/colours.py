"""What a wavelength looks like to the film: colours of linear Rec. 709 that sum to white over the visible range."""

from functools import cache

import numpy as np

from lantern.kernel.spectrum import XYZ_TO_RGB, matching_functions

GREEN = 550.0
"""Wavelength [nm] that sizes are told for."""
COUNT = 15


@cache
def wavelengths() -> np.ndarray:
    """(COUNT,) nm, evenly through the visible range."""
    return np.linspace(420.0, 680.0, COUNT)


@cache
def weights() -> np.ndarray:
    """(COUNT, 3) linear Rec. 709 of each of them, not negative; each channel sums to 1."""
    rgb = matching_functions(wavelengths()) @ XYZ_TO_RGB.T
    rgb = np.maximum(rgb, 0.0)
    return np.asarray(rgb / rgb.sum(axis=0))
