"""Inputs of materials: images, patterns and what a mesh says of a place, brought to it, shaped by a ramp, and combined
with the constants of a material.

A pattern is one file: a kernel that gives [0, 1] for a place in its own units, a repeat being 1 long. The operations of
a material are rows (`program`), so that an edit rewrites rows and compiles nothing.
"""
