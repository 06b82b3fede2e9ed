"""What the path kernel reads and writes: one description of every block, for the host and the kernel."""

from lantern.kernel.memory import Addresses, Table
from lantern.light.tree_kernels import WIDE
from lantern.pattern.tables import POINT
from lantern.rays.embree import RAY_SLOTS
from lantern.surface.record import SURFACE

SCENE = Addresses(
    "scene",
    [
        "settings",
        "camera",
        "aperture",
        "parts",
        "poses",  # (m, 12) float32
        "arrivals",  # float32: share of the light of local lights that arrives on a cluster of triangles
        "meshes",
        "roundings",  # of edges, a row of `rays.rounding.ROUNDING` each
        "shading",  # block of the tables that surfaces read (`pattern.tables`)
        "materials",  # those of them that transport reads itself
        "albedos",
        "films",
        "environment",
        "environment_pixels",
        "environment_rows",
        "environment_cells",
        "environment_guides",
        "environment_pdfs",
        "environment_edges",
        "reflected",  # a row of ENVIRONMENT and its pixels: the map as gloss sees it
        "reflected_pixels",
        "backdrop",  # a row of ENVIRONMENT, and its pixels
        "backdrop_pixels",
        "prefiltered",  # environment blurred by rough mirrors, 0 but for a draft
        "lights",
        "light_nodes",
        "light_profiles",
        "light_shapings",
        "light_gates",  # images in the gates of spots
        "light_shares",
        "triangle_lights",
        "shape_owners",
        "shape_tree",  # a tree of the ray library, 0 for none
        "points",
        "mask",
        "film",
        "aovs",  # 0 for none
        "groups",  # (pixels, 3 x settings.groups) float32, 0 for none
        "control",
    ],
)

# vertices: rows of `embree.VERTEX_FLOATS`, one block a step of a deforming mesh; tangents (count, 4), uvs (uv_sets,
# count, 2), colors (count, 4) float32, 0 for none; uv_sets, steps and count are numbers.
MESH = Addresses("mesh", ["vertices", "indices", "tangents", "uvs", "uv_sets", "colors", "steps", "count"])

SETTINGS = Table(
    "settings",
    [
        ("width", "i", 1),
        ("height", "i", 1),
        ("target_samples", "i", 1),
        ("first_sample", "i", 1),  # row 0 of the points
        ("seed", "i", 1),
        ("depth", "i", 1),
        ("groups", "i", 1),  # light groups that the film tells apart
        ("keeps", "i", 1),  # it has AOVs or light groups
        ("camera_sees_environment", "i", 1),
        ("backdrop", "f", 3),
        ("backdrop_lookup", "i", 1),  # NO_PICTURE, BY_DIRECTION or IN_THE_FRAME
        ("backdrop_span", "f", 2),  # widths and heights of the picture that the frame spans
        ("grounded", "f", 1),  # m above the ground from which the map is projected on it, 0 for not
        ("ground", "i", 1),
        ("ground_height", "f", 1),
        ("ground_reflectance", "f", 3),
        ("ground_reflection", "f", 1),  # of its polish at normal incidence, 0 for none
        ("ground_roughness", "f", 1),
        ("open_irradiance", "f", 3),  # of everything far away on unshadowed ground
        ("local_lights", "i", 1),
        ("ground_arrives", "f", 1),  # share of local lights' light, as probes found
        ("shaped_lights", "i", 1),
        ("distant_first", "i", 1),
        ("distant_lights", "i", 1),
        ("environment_chance", "f", 1),  # among what is far away
        ("far_irradiance", "f", 1),  # lx, weighed against the light tree's estimate
        ("opacity", "i", 1),  # some part lets rays through
        ("hides", "i", 1),  # a volume may hide the boundary of another
        ("apart", "i", 1),  # what is seen and what is shaded differ somewhere: see `transport.visibility`
        ("estimator", "i", 1),  # BOTH, or one of the two techniques alone
        ("caustic_alpha", "f", 1),  # least alpha after a wide bounce; 0 for exact caustics
        ("haze", "i", 1),
        ("haze_extinction", "f", 1),  # 1/m
        ("haze_albedo", "f", 3),
        ("haze_forward", "f", 1),
        ("haze_thins", "f", 1),  # 1/m by which it thins out with height, 0 for not; as said at haze_from
        ("haze_from", "f", 1),  # m
        ("haze_low", "f", 3),
        ("haze_high", "f", 3),
        ("moves", "i", 1),  # something moves while the shutter is open
        ("limit", "f", 1),  # cd/m² a sample may bring to its pixel; 0 for none
        ("region_x", "i", 1),  # pixels that the pass is about
        ("region_y", "i", 1),
        ("region_width", "i", 1),
        ("region_height", "i", 1),
        ("gloss_sees_other", "i", 1),  # map than matt surfaces are lit by
        ("white", "i", 1),  # material in the place of whatever the camera sees, -1 for none: it shows illuminance
        ("way", "i", 1),  # of looking; see `looking`
        ("near", "f", 1),  # m along the view: range of the depth that is shown
        ("far", "f", 1),
        ("reach", "f", 1),  # m within which something occludes
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
        ("shift_x", "f", 1),  # at unit distance
        ("shift_y", "f", 1),
        ("distortion", "f", 1),  # of the radius, relative to half the width
        ("pixel", "f", 1),  # side of a pixel at unit distance
        ("orthographic", "i", 1),  # half_width, half_height, pixel, shifts are metres then
        ("lens_radius", "f", 1),  # m
        ("focus_distance", "f", 1),  # m
        ("tilt_x", "f", 1),  # tangents of the plane of focus: it is nearer to the right and upwards
        ("tilt_y", "f", 1),
        ("narrowed", "f", 1),  # width of the aperture, of its height
        ("cats_eye", "f", 1),  # by how many radii the rim is shifted at the corner
        ("bladed", "i", 1),  # the aperture table is used
        ("steps", "i", 1),  # further rows of the table follow for a moving camera
    ],
)

PART = Table(
    "part",
    [
        ("matrix", "f", 12),  # object to world, rows
        ("normal_matrix", "f", 9),  # inverse transpose, sign of the determinant applied
        ("mesh", "i", 1),
        ("material", "i", 1),
        ("triangle_lights", "i", 1),  # where its triangles' lights begin, -1 for a dark part
        ("links", "i", 1),  # bits of the linking sets that light it
        ("receives_shadow", "i", 1),
        ("glossy", "i", 1),  # it is seen in reflections
        ("mirrored", "i", 1),
        ("first_pose", "i", 1),  # row of the poses of a part that moves or is strewn, copy by copy; -1 of another
        ("poses", "i", 1),  # of it, or of each copy, at even times from shutter open to close
        ("strewn", "i", 1),  # there are copies of it
        ("first_arrival", "i", 1),  # where its clusters of triangles begin in the arrivals
        ("metres", "f", 1),  # that a unit of its mesh is long
        ("chance", "i", 1),  # a number that its key has
        ("rounding", "i", 1),  # row of its rounded edges, -1 for none
        ("edges", "i", 1),  # row of the edges that its material asks for, -1 for none
        ("cluster_shift", "i", 1),  # a cluster is 2^shift triangles in the order of the mesh
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
        ("settled", "i", 1),  # the pixel needs no more samples; the row is one cache line
    ],
)

MOST_GROUPS = 64
"""Light groups that a film can tell apart; those beyond share the last."""
ENVIRONMENT_GROUP, EMISSIVE_GROUP = 0, 1
"""Numbers of the two light groups that are always there."""
IDENTITIES = 6  # different parts or materials that a pixel can tell apart
AOVS = Table(
    "aovs",
    [
        ("direct", "f", 3),
        ("indirect", "f", 3),
        ("diffuse", "f", 3),
        ("specular", "f", 3),
        ("transmission", "f", 3),
        ("emission", "f", 3),
        ("background", "f", 3),
        ("position", "f", 3),
        ("lit", "f", 1),  # direct luminance with shadows, and without
        ("unlit", "f", 1),
        ("part_ids", "i", IDENTITIES),
        ("part_cover", "f", IDENTITIES),
        ("material_ids", "i", IDENTITIES),
        ("material_cover", "f", IDENTITIES),
    ],
)
SUMMED = AOVS.slot("part_ids")
"""Slots of AOVS that are plain sums over samples."""

HIT = Table(
    "hit",
    [
        ("position", "f", 3),
        ("ray_offset", "f", 1),  # m from the surface at which a ray may start
        ("terminator", "f", 3),  # where rays leave an opaque surface that stands for a rounded one
        ("geometric", "f", 3),  # unit, on the side the ray came from
        ("shading", "f", 3),
        ("tangent", "f", 3),
        ("bitangent", "f", 3),
        ("coat", "f", 3),  # normal of the coat
        ("own_coat", "i", 1),  # it differs from the shading normal
        ("point", "f", POINT.width),  # what the mesh says there, as far as the material needs it
        ("entering", "i", 1),
        ("material", "i", 1),
        ("part", "i", 1),
        ("body", "i", 1),  # what its inside is known by: the part, or one copy of it
        ("primitive", "i", 1),
        ("links", "i", 1),
        ("receives_shadow", "i", 1),
        ("arrives", "f", 1),  # share of local lights' light, as probes found
        ("matrix", "f", 12),  # of a part with poses, at the time of the ray
        ("normal_matrix", "f", 9),
    ],
)

POINT_IN_HIT = 4 * HIT.slot("point")
"""Byte offset of the POINT within a HIT record."""

LIGHT_SAMPLE = Table(
    "light_sample",
    [
        ("direction", "f", 3),
        ("distance", "f", 1),
        ("radiance", "f", 3),  # for a light of no size: divided by nothing, pdf 1
        ("map_u", "f", 1),  # where in the environment map the radiance stands
        ("map_v", "f", 1),
        ("from_map", "i", 1),
        ("is_point", "i", 1),
        ("group", "i", 1),
        ("casts", "i", 1),
        ("glossy", "i", 1),  # gloss shows the light
        ("local_chance", "f", 1),  # of local lights against what is far away, at the place asked for last
        ("weights", "f", WIDE),  # room for the light tree
    ],
)
LIGHT_WEIGHTS_AT = 4 * LIGHT_SAMPLE.slot("weights")
"""Byte offset within a LIGHT_SAMPLE."""

MOST_MEDIA = 8
MEDIUM = Table(
    "medium",
    [
        ("count", "i", 1),
        ("materials", "i", MOST_MEDIA),
        ("bodies", "i", MOST_MEDIA),
        ("kind", "i", 1),
        ("ior", "f", 1),
        ("extinction", "f", 3),  # 1/m
        ("albedo", "f", 3),
        ("forward", "f", 1),
    ],
)

RESULT = Table(
    "result",
    [
        ("radiance", "f", 3),  # cd/m²
        ("alpha", "f", 1),
        ("albedo", "f", 3),
        ("normal", "f", 3),
        ("depth", "f", 1),  # m along the view axis; < 0 for no hit
        ("part", "i", 1),
        ("material", "i", 1),
        ("sums", "f", SUMMED),  # what this sample adds to the AOVs
        ("groups", "f", 3 * MOST_GROUPS),  # and to the light groups
    ],
)

PATH = Table(
    "path",
    [
        # The place that a ray leaves, for weighing the light it meets against having been aimed at from there.
        ("point", "f", 3),  # m
        ("normal", "f", 3),
        ("on_surface", "i", 1),
        ("ray_offset", "f", 1),  # m, of a matt place
        ("links", "i", 1),  # bits of the light linking sets it is lit by
        ("arrives", "f", 1),  # share of local lights' light, as probes found
        ("receives_shadow", "i", 1),
        ("pdf", "f", 1),  # of the ray's direction [1/sr]; 0 when nothing was aimed at, so that light counts whole
        # RGB diffuse share of the scattering there; kept where sight and shade differ, or gloss sees another map.
        ("matt", "f", 3),
        # What the first scattering made of the light, for the AOVs.
        ("share", "f", 3),  # rgb that is diffuse
        ("kind", "i", 1),
        # How the path goes on.
        ("wavelength", "f", 1),  # nm, 0 for all of them
        ("least_alpha", "f", 1),  # no lobe of a base is narrower
        ("whole", "f", 1),  # beta of a path that has lost nothing
        ("backdrop", "f", 3),  # what the light of a path over ground is multiplied by at its end
        ("catches", "i", 1),  # the camera sees ground: the path measures what arrives there
        ("mirrors", "i", 1),  # the camera sees a reflection in polished ground
        ("guides", "i", 1),  # what is met guides the denoiser: the path has been through clear glass and mirrors alone
        ("frame_x", "f", 1),  # place of the sample in the frame; only kept where a picture is looked up there
        ("frame_y", "f", 1),
    ],
)

NO_PICTURE, BY_DIRECTION, IN_THE_FRAME = range(3)
"""How the backdrop is looked up."""

WIRES, DRAFT, SPHERE, NORMALS, CHECKER, PARTS, DEPTH, OCCLUSION, ALBEDO, REFLECTANCE = range(10)
"""`way` of the settings: what the looking kernel is told to make."""

# Per-thread scratch memory, 32-bit slots: a ray record first, because the ray library wants it aligned.
COUNTERS = ("camera", "bounce", "shadow", "not_finite", "limited")
CAMERA_RAYS, BOUNCE_RAYS, SHADOW_RAYS, NOT_FINITE, LIMITED = range(len(COUNTERS))
_ROOM: dict[str, int] = {
    "ray": RAY_SLOTS,
    "counters": 2 * len(COUNTERS),  # int64 each
    "records": 6,  # where recorded rays go: address, used, room
    "hit": HIT.width,
    "light": LIGHT_SAMPLE.width,
    "other_hit": HIT.width,  # of a shadow ray; its POINT also of a light
    "medium": MEDIUM.width,
    "other_medium": MEDIUM.width,  # what a shadow ray travels through
    "around_camera": MEDIUM.width,
    "surface": SURFACE.width,
    "other_surface": SURFACE.width,
    "result": RESULT.width,
    "path": PATH.width,
}


def _offsets() -> dict[str, int]:
    places, end = {}, 0
    for name, width in _ROOM.items():
        places[name] = end
        end += -(-width // 16) * 16
    places["end"] = end
    return places


OFFSETS = _offsets()
"""First 32-bit slot of each block of the scratch memory; every block begins a cache line."""
SCRATCH_SLOTS = OFFSETS["end"] // 2
"""64-bit slots of scratch memory a thread."""
SCRATCH_COUNTERS, SCRATCH_RECORDS = OFFSETS["counters"] // 2, OFFSETS["records"] // 2
RAY_AT, HIT_AT, LIGHT_AT, MEDIUM_AT, AROUND_CAMERA_AT, SURFACE_AT, RESULT_AT, PATH_AT = (
    4 * OFFSETS[name] for name in ("ray", "hit", "light", "medium", "around_camera", "surface", "result", "path")
)
"""Byte offsets of the blocks in scratch memory."""
OTHER_HIT_AT, OTHER_MEDIUM_AT, OTHER_SURFACE_AT = (
    4 * OFFSETS[name] for name in ("other_hit", "other_medium", "other_surface")
)

# Bits of the visibility mask: who a ray is. GLOW_RAY finds parts that shine, whoever else sees them.
CAMERA_RAY, BOUNCE_RAY, SHADOW_RAY, GLOW_RAY = 1, 2, 4, 8
ANY_RAY = CAMERA_RAY | BOUNCE_RAY | SHADOW_RAY

BOTH, SCATTERING_ALONE, AIMING_ALONE = range(3)
"""`estimator`: how light is found. Each alone gives the same mean, which is what tests ask of them."""

TILE = 16
"""Side of a tile in pixels: neighbouring rays stay together, one atomic step for each tile."""

# Control block: int32 next tile, int32 cancel flag.
CONTROL_NEXT, CONTROL_CANCEL = 0, 1
