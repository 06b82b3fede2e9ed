"""What the path kernel reads and writes: one description of every block, for the host and the kernel."""

from lantern.kernel.memory import Addresses, Table
from lantern.trace.embree import RAY_SLOTS

SCENE = Addresses(
    [
        "settings",
        "camera",
        "parts",
        "meshes",
        "materials",
        "textures",
        "bindings",
        "texels",
        "albedos",
        "environment",
        "environment_pixels",
        "environment_choices",
        "environment_densities",
        "environment_edges",
        "film",
        "control",
    ]
)

MESH = Addresses(["positions", "indices", "normals", "uvs", "tangents"])

SETTINGS = Table(
    "settings",
    [
        ("width", "i", 1),
        ("height", "i", 1),
        ("target_samples", "i", 1),
        ("seed", "i", 1),
        ("depth", "i", 1),
        ("camera_sees_environment", "i", 1),
        ("backdrop", "f", 3),
        ("ground", "i", 1),
        ("ground_height", "f", 1),
        ("ground_reflectance", "f", 3),
        ("open_irradiance", "f", 3),  # on unshadowed ground
    ],
)

CAMERA = Table(
    "camera",
    [
        ("position", "f", 3),
        ("right", "f", 3),
        ("up", "f", 3),
        ("forward", "f", 3),
        ("half_width", "f", 1),  # of the picture at unit distance
        ("half_height", "f", 1),
        ("pixel", "f", 1),  # side of a pixel at unit distance
        ("lens_radius", "f", 1),  # m
        ("focus_distance", "f", 1),  # m
    ],
)

PART = Table(
    "part",
    [
        ("matrix", "f", 12),  # object to world, rows
        ("normal_matrix", "f", 9),  # inverse transpose, sign of the determinant applied
        ("mesh", "i", 1),
        ("material", "i", 1),
    ],
)

FILM = Table(
    "film",
    [
        ("radiance", "f", 3),
        ("alpha", "f", 1),
        ("albedo", "f", 3),
        ("normal", "f", 3),
        ("depth", "f", 1),  # sum over the samples that hit something
        ("depth_hits", "f", 1),
        ("squared_luminance", "f", 1),
        ("part", "i", 1),  # of the first sample; -1 for none
        ("samples", "i", 1),
        ("spare", "f", 1),  # rows of one cache line
    ],
)

# Per-thread scratch: a ray record, then counters (int64), then where recorded rays go (address, used, room).
SCRATCH_RAY = 0
SCRATCH_COUNTERS = RAY_SLOTS // 2  # in 64-bit slots
COUNTERS = ("camera", "bounce", "shadow", "not_finite")
SCRATCH_RECORDS = SCRATCH_COUNTERS + len(COUNTERS)
SCRATCH_SLOTS = 32  # of 64 bits

TILE = 16
"""Side of a tile in pixels: neighbouring rays stay together, one atomic step for each tile."""

# Control block: int32 next tile, int32 cancel flag.
CONTROL_NEXT, CONTROL_CANCEL = 0, 1
