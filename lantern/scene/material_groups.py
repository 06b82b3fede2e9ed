"""The groups of a material: those of OpenPBR Surface 1.1, section 3. Called by `groups`."""

from lantern.scene.group import Group, Row, always


def _layer(key: str, label: str, sums: tuple[tuple[str, str], ...], *names: str | Row) -> Group:
    """A layer of a material: all but its weight have an effect while that is above 0."""
    weight = f"{key}_weight"
    rows = (name if isinstance(name, Row) else Row(f"{key}_{name}", (weight,)) for name in names)
    return Group(key, label, (Row(weight), *rows), ((weight, ""), *sums), weight)


MATERIAL_GROUPS = (
    Group(
        "base",
        "Base",
        (
            *always("base_color", "base_weight", "base_metalness", "base_diffuse_roughness"),
            Row("normal_scale", ("normal_texture",)),
            Row("bump"),
        ),
        (("base_color", ""), ("base_metalness", "metal")),
    ),
    Group(
        "specular",
        "Gloss",
        (
            *always("specular_roughness", "specular_weight", "specular_ior", "specular_color"),
            Row("specular_roughness_anisotropy"),
            Row("tangent_rotation", ("specular_roughness_anisotropy", "coat_roughness_anisotropy")),
        ),
        (("specular_roughness", "rough"), ("specular_ior", "index")),
    ),
    _layer(
        "transmission",
        "Transmission",
        (("transmission_tint", ""),),
        *("tint", "color", "depth", "scatter", "scatter_anisotropy", "dispersion_scale"),
        Row("transmission_dispersion_abbe_number", ("transmission_dispersion_scale",)),
        Row("interior_priority", ("transmission_weight",)),
    ),
    _layer(
        "subsurface",
        "Subsurface",
        (("subsurface_color", ""),),
        *("color", "radius", "radius_scale", "scatter_anisotropy"),
    ),
    _layer(
        "coat",
        "Coat",
        (("coat_roughness", "rough"),),
        *("roughness", "color", "ior", "darkening", "roughness_anisotropy"),
        Row("coat_normal_scale", ("coat_normal_texture",)),
    ),
    _layer("fuzz", "Fuzz", (("fuzz_color", ""),), "color", "roughness"),
    _layer("thin_film", "Thin film", (("thin_film_thickness", ""),), "thickness", "ior"),
    Group(
        "geometry",
        "Geometry",
        (
            *always("geometry_opacity", "geometry_thin_walled", "double_sided", "vertex_colors"),
            Row("alpha_mode", ("base_color_texture",)),
            Row("alpha_cutoff", ("alpha_mode=mask",)),
        ),
        (("geometry_opacity", "opacity"),),
    ),
    Group(
        "emission",
        "Emission",
        (
            *always("emission_luminance", "emission_lumens"),
            Row("emission_color", ("emission_luminance", "emission_lumens")),
            Row("emission_temperature", ("emission_luminance", "emission_lumens")),
        ),
        (("emission_luminance", ""), ("emission_color", "")),
        "emission_luminance",
    ),
)
