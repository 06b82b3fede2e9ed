"""Tracing: the ray library, the compiled scene, the path kernel and the film it fills."""
