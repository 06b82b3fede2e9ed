"""Light sources: here the environment map; the sun, shaped lights and profiles join it later."""
