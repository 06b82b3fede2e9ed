"""The row of a material in the compiled scene."""

from lantern.kernel.memory import Table

MATERIAL = Table(
    "material",
    [
        ("base_color", "f", 3),  # base_weight applied
        ("metalness", "f", 1),
        ("diffuse_roughness", "f", 1),
        ("specular_weight", "f", 1),
        ("specular_color", "f", 3),
        ("roughness", "f", 1),
        ("anisotropy", "f", 1),
        ("ior", "f", 1),  # specular weight applied
        ("own_ior", "f", 1),  # not applied
        ("transmission", "f", 1),
        ("tint", "f", 3),  # of refracted light, when it does not depend on depth
        ("subsurface", "f", 1),
        ("subsurface_color", "f", 3),
        ("subsurface_forward", "f", 1),  # of a thin wall
        ("coat", "f", 1),
        ("coat_roughness", "f", 1),
        ("coat_anisotropy", "f", 1),
        ("coat_ior", "f", 1),
        ("coat_color", "f", 3),
        ("coat_darkening", "f", 1),
        ("fuzz", "f", 1),
        ("fuzz_color", "f", 3),
        ("fuzz_roughness", "f", 1),
        ("emission", "f", 3),  # cd/m²
        ("tangent_sine", "f", 1),
        ("tangent_cosine", "f", 1),
        ("tangent_turn", "f", 1),  # ° of the tangent besides, for the program to write
        ("cauchy_a", "f", 1),  # n = a + b / λ² [nm]; b 0 without dispersion
        ("cauchy_b", "f", 1),
        ("walk_extinction", "f", 3),  # 1/m
        ("walk_forward", "f", 1),
        ("interior", "i", 1),  # its inside is a volume that rays enter by refraction
        ("priority", "i", 1),
        ("extinction", "f", 3),  # 1/m, of that volume
        ("albedo", "f", 3),
        ("forward", "f", 1),
        ("film", "i", 1),  # row of the thin-film table, -1 for none
        ("opacity", "f", 1),
        ("mask", "f", 1),  # share of a layer that is laid over it, for the program to write
        ("alpha_mode", "i", 1),
        ("alpha_cutoff", "f", 1),
        ("lets_through", "i", 1),  # it is not opaque everywhere
        ("vertex_colors", "i", 1),  # the colours of the vertices tint the base colour
        ("vertex_alpha", "i", 1),  # and their alpha makes holes
        ("two_sided", "i", 1),  # the back has coat, fuzz and emission as the front
        ("covered", "i", 1),  # it has a coat or fuzz
        ("normal_scale", "f", 1),
        ("coat_normal_scale", "f", 1),
        ("thin_walled", "i", 1),
        ("needs_tangent", "i", 1),
        ("weighs", "i", 1),  # its inputs write own_ior or specular_weight
        ("turns_tangent", "i", 1),  # its inputs write tangent_turn
        ("tangent_set", "i", 1),  # UV set that tangents follow where the mesh brings none
        # Operations of its inputs: for all but the shape, its opacity, its light, its height.
        ("surface_first", "i", 1),
        ("surface_count", "i", 1),
        ("opacity_first", "i", 1),
        ("opacity_count", "i", 1),
        ("emission_first", "i", 1),
        ("emission_count", "i", 1),
        ("bump_first", "i", 1),
        ("bump_count", "i", 1),
        ("bump", "f", 1),  # m, of the surface above its mesh, for the program to write
        ("bump_step", "f", 1),  # between the places whose heights give the slope: m, or coordinates of a set
        ("bump_set", "i", 1),  # that set, -1 for metres
        ("needs", "i", 1),  # bits of what a POINT must hold: for everything, for its opacity, for its light
        ("opacity_needs", "i", 1),
        ("emission_needs", "i", 1),
        ("base_color_binding", "i", 1),
        ("opacity_binding", "i", 1),  # the same, where its alpha makes holes
        ("metallic_roughness_binding", "i", 1),
        ("normal_binding", "i", 1),
        ("emission_binding", "i", 1),
        ("transmission_binding", "i", 1),
        ("transmission_tint_binding", "i", 1),
        ("coat_normal_binding", "i", 1),
    ],
)
MATERIAL_WIDTH = MATERIAL.width
BLENDED = MATERIAL.slot("tangent_sine")
"""Slots before this one are numbers that may lie between those of two materials."""
TEXTURED = (
    "base_color", "metallic_roughness", "normal", "emission", "transmission", "transmission_tint", "coat_normal",
)  # fmt: skip
"""Names of the image bindings of a row, in their order in the binding table."""
ENCODED = ("base_color", "emission", "transmission_tint")
"""Those whose images hold colours as sRGB (glTF 2.0, section 3.9)."""
OPAQUE, BLEND, MASK = 0, 1, 2
"""`alpha_mode`"""
