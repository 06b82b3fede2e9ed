"""Rays: the ray library by symbol, trees, placement, from a hit to a point, lens and camera rays."""
