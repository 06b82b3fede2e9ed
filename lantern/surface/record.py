"""The surface at a point as one row of a thread's scratch memory.

`lookup.write_surface` fills the parameters, `prepare.prepare` adds what depends on the view, `evaluate` and
`sample` read both. A row at an address, and not a tuple, because a hundred values passed between functions
would go through memory anyway, and a material pays only for the slots of the lobes that it has.
"""

import numpy as np

from lantern.kernel.memory import Table
from lantern.surface.ggx import SMALLEST_ALPHA

SURFACE = Table(
    "surface",
    [
        # Parameters, OpenPBR Surface 1.1, textures applied. Colours are linear Rec. 709.
        ("base_color", "f", 3),  # base_weight applied
        ("metalness", "f", 1),
        ("diffuse_roughness", "f", 1),
        ("specular_weight", "f", 1),
        ("specular_color", "f", 3),
        ("roughness", "f", 1),  # axis of the albedo tables: root of the root mean square of αx and αy
        ("alpha_x", "f", 1),
        ("alpha_y", "f", 1),
        ("ratio", "f", 1),  # n_inside / n_outside of the base, specular weight and coat applied
        ("eta", "f", 1),  # n_beyond / n_here for a ray that is refracted
        ("transmission", "f", 1),
        ("tint", "f", 3),  # of refracted light, when its colour does not depend on depth
        ("subsurface", "f", 1),
        ("subsurface_color", "f", 3),
        ("subsurface_forward", "f", 1),  # share of a thin wall's diffuse light that goes through
        ("coat", "f", 1),
        ("coat_roughness", "f", 1),
        ("coat_alpha_x", "f", 1),
        ("coat_alpha_y", "f", 1),
        ("coat_ior", "f", 1),
        ("coat_color", "f", 3),
        ("coat_darkening", "f", 1),
        ("coat_x", "f", 3),  # the coat's frame in the local frame of the base
        ("coat_y", "f", 3),
        ("coat_z", "f", 3),
        ("fuzz", "f", 1),
        ("fuzz_color", "f", 3),
        ("fuzz_roughness", "f", 1),
        ("film", "i", 1),  # row of the thin-film table, -1 for none
        ("thin_walled", "i", 1),
        ("entering", "i", 1),  # the view is from outside of any volume that the surface encloses
        # What `prepare` adds.
        ("lobes", "i", 1),  # flags below
        ("under_fuzz", "f", 1),  # share that reaches the coat
        ("under_coat", "f", 3),  # share that reaches the base, view direction's absorption applied
        ("coat_absorbs", "i", 1),
        ("metal_gain", "f", 3),
        ("glass_gain", "f", 1),
        ("diffuse_left", "f", 3),  # share that reaches the diffuse base
        ("diffuse_lost", "f", 1),  # 1 - single-scattering albedo of the diffuse base towards the view
        ("masking", "f", 1),  # 1 + Λ(wo)
        ("coat_masking", "f", 1),
        ("chance_fuzz", "f", 1),
        ("chance_coat", "f", 1),
        ("chance_mirror", "f", 1),
        ("chance_glass", "f", 1),
        ("chance_diffuse", "f", 1),
        ("chance_through", "f", 1),  # diffuse light through a thin wall
        ("chance_subsurface", "f", 1),
        # What `evaluate` leaves behind.
        ("diffuse_part", "f", 3),  # of its value
    ],
)

# `lobes`
HAS_METAL, HAS_DIELECTRIC, HAS_GLASS, HAS_DIFFUSE = 1, 2, 4, 8
HAS_COAT, HAS_FUZZ, HAS_FILM, HAS_THROUGH, HAS_SUBSURFACE, HAS_COAT_FRAME = 16, 32, 64, 128, 256, 512


def surface_row(**values: object) -> np.ndarray:
    """One row with the defaults of OpenPBR, some values changed; roughnesses set the alphas. For tests and tools."""
    row = SURFACE.zeros(1)
    defaults: dict[str, object] = {
        "base_color": 0.8, "specular_weight": 1, "specular_color": 1, "roughness": 0.3, "ratio": 1.5, "tint": 1,
        "subsurface_color": 0.8, "subsurface_forward": 0.5, "coat_ior": 1.6, "coat_color": 1, "coat_darkening": 1,
        "coat_x": (1, 0, 0), "coat_y": (0, 1, 0), "coat_z": (0, 0, 1), "fuzz_color": 1, "fuzz_roughness": 0.5,
        "film": -1, "entering": 1,
    }  # fmt: skip
    for name, value in (defaults | values).items():
        row[name] = value
    for prefix in ("", "coat_"):
        if f"{prefix}alpha_x" not in values:
            alpha = max(float(row[f"{prefix}roughness"][0]) ** 2, SMALLEST_ALPHA)
            row[f"{prefix}alpha_x"] = row[f"{prefix}alpha_y"] = alpha
        row[f"{prefix}roughness"] = (0.5 * (row[f"{prefix}alpha_x"] ** 2 + row[f"{prefix}alpha_y"] ** 2)) ** 0.25
    if "eta" not in values:
        row["eta"] = row["ratio"] if row["entering"][0] else 1 / row["ratio"]
    return row
