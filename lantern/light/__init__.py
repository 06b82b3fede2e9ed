"""Light sources: environment maps, sun and sky, shaped lights, profiles, and the tree that picks among many."""
