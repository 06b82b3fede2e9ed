"""3D files in: containers, meshes, materials and textures of glTF 2.0."""
