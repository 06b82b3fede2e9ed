"""Typed messages between browser, web side and render host; nothing unvalidated passes."""
