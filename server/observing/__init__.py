"""For whoever runs the server: whether it is well, what it counts, what it was asked."""
