"""Surfaces: OpenPBR Surface 1.1 lobes (one a file), their mixture, and textures.

Directions are local, unit, z along the shading normal, pointing away from the surface. `wo` points to
where the path came from (wo.z > 0 always), `wi` to where the light comes from. Every lobe returns
`f · |cos θi|`. Radiance is carried as basic radiance L / n² (Nicodemus 1963), so refraction does not scale it.
"""
