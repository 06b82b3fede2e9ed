"""A project as one file: out of one server and into another."""
