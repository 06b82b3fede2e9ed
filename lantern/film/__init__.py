"""Films: sums, counts, variance, AOVs, tiles, the thread pool."""
