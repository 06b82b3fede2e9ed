"""Meshes that are made here: of forms with measures, and finer ones of those that were brought in."""
