"""The tables that shading reads, as one block of addresses: what every function of this room is given."""

from lantern.kernel.memory import Addresses, Table
from lantern.scene.inputs import MOST_STOPS

SHADING = Addresses(
    "shading",
    ["materials", "images", "bindings", "decodings", "albedos", "films", "operations", "placements", "ramps", "grids"],
)

MOST_UV_SETS = 4
RESULTS = 128
"""Slots of a material's row, or more: a program writes what it makes of one there."""
POINT = Table(
    "point",
    [
        ("uv", "f", 2 * MOST_UV_SETS),  # coordinates of each set
        ("color", "f", 4),  # of the vertices, linear, alpha last
        ("own", "f", 3),  # in the part's own space, its unit made metres
        ("own_normal", "f", 3),
        ("rest", "f", 3),  # in the scene as it stands at rest [m]
        ("rest_normal", "f", 3),
        ("chance", "i", 1),  # of the part
        ("edge", "f", 1),  # to the nearest sharp edge that sticks out [m]
        ("crevice", "f", 1),  # to the nearest that leads inwards [m]
        ("curvature", "f", 1),  # [1/m], positive where the shape bulges
        ("copy", "i", 1),  # of a part that is strewn, which; 0 of any other
        ("eye", "f", 3),  # the normal as the camera sees it: to its right, up, towards it
        ("front", "i", 1),  # it is met where its normals look, or bounds a volume, which has one side
        ("results", "f", RESULTS),
        ("above", "f", RESULTS),  # of a layer, before it is laid over the results
    ],
)
"""What a mesh says at a point of it. Only what `needs` of a material asks for is filled."""
NEEDS_COLOR = 1 << MOST_UV_SETS
"""Bit of `needs` after those of the UV sets."""
NEEDS_PLACE = NEEDS_COLOR << 1
"""Bit for everything from `own` to `chance`, and `copy`."""
NEEDS_EDGES = NEEDS_PLACE << 1
"""Bit for `edge`, `crevice` and `curvature`."""
NEEDS_VIEW = NEEDS_EDGES << 1
"""Bit for `eye` and `front`."""

OPERATION = Table(
    "operation",
    [
        ("code", "i", 1),  # of its source
        ("target", "i", 1),  # slot of the material's row
        ("width", "i", 1),  # 3 for a colour, 1 for a number
        ("into", "i", 1),  # STORE, SCALE, SCALE_COLOR or CHOOSE
        ("goes_on", "i", 1),  # what the value is combined with is what the slot has already
        ("combine", "i", 1),
        ("amount", "f", 1),
        ("constant", "f", 3),  # that the value is combined with
        ("least", "f", 1),  # what comes of that is kept within these
        ("most", "f", 1),
        ("scale", "f", 3),  # of what comes of that
        ("low", "f", 1),
        ("high", "f", 1),
        ("ramp", "i", 1),  # -1 for none
        ("placement", "i", 1),
        ("image", "i", 1),
        ("channel", "i", 1),  # -1 for the colour
        ("decoding", "i", 1),
        ("seed", "i", 1),
        ("numbers", "f", 6),  # of the pattern
        ("row", "i", 1),  # of a layer: its material's, and the operations that are run for it; see CHOOSE
        ("first", "i", 1),
        ("run", "i", 1),
    ],
)
STORE, SCALE, SCALE_COLOR, CHOOSE = range(4)
"""`into`: the result takes the place of the slot, multiplies it, or as a number multiplies a colour there.

Or it chooses a row of a table, of those that `first` and `run` say are for its values from `least` to `most`.
"""
EVERYTHING = -1
"""`target` of a layer that covers all of the look below it, not one slot alone."""
PLACEMENT = Table(
    "placement",
    [
        ("kind", "i", 1),
        ("uv_set", "i", 1),
        ("rest", "i", 1),  # in the scene's space
        ("matrix", "f", 12),  # from there, or from (u, v, 0), to repeats
        ("turn", "f", 9),  # of normals
        ("around", "f", 1),  # repeats around a cylinder or sphere; of what bends, widths a height
        ("blend", "f", 1),  # width of seams between the sides of a box
    ],
)
BY_UV, BY_BOX, BY_PLANE, BY_CYLINDER, BY_SPHERE, BY_WRAP = range(6)
"""`kind` of a placement."""
RAMP = Table("ramp", [("count", "i", 1), ("blend", "i", 1), ("at", "f", MOST_STOPS), ("color", "f", 3 * MOST_STOPS)])
LINEAR_RAMP, SMOOTH_RAMP, STEPS = range(3)
"""`blend` of a ramp."""
REPLACE, MULTIPLY, ADD, SCREEN, OVERLAY, DARKER, LIGHTER, AVERAGE = range(8)
"""`combine` of an operation."""
COMBINES = ("replace", "multiply", "add", "screen", "overlay", "darker", "lighter", "average")
