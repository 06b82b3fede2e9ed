"""The library: environments, built-in and the person's own."""
