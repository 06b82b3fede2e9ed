"""Films: sums, counts, variance, layers, tiles, the thread pool."""
