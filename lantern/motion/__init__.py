"""Time: where things stand at a moment, and how they move while the shutter is open."""
