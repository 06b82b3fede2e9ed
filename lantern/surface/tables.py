"""The tables that shading reads, as one block of addresses: what every function of this room is given."""

from lantern.kernel.memory import Addresses, Table

SHADING = Addresses("shading", ["materials", "images", "bindings", "decodings", "albedos", "films"])

MOST_UV_SETS = 4
POINT = Table(
    "point",
    [
        ("uv", "f", 2 * MOST_UV_SETS),  # coordinates of each set
        ("color", "f", 4),  # of the vertices, linear, alpha last
    ],
)
"""What a mesh says at a point of it. Only what `needs` of a material asks for is filled."""
NEEDS_COLOR = 1 << MOST_UV_SETS
"""Bit of `needs` after those of the UV sets."""
