"""Machines that work on prints: who is there, with what, at what, and of which version."""
