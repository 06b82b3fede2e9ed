"""Film → picture: denoise, exposure, display transform, image files. Runs again alone when only the look changes."""
