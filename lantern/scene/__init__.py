"""The scene document: the only state. Typed, versioned, every field with unit, range and label."""
