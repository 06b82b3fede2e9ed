"""Transport: the path kernel, from segments to scattering."""
