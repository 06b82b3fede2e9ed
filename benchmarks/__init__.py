"""Measured claims, each a ratio or a curve from one run. `benchmarks/run NAME`."""
