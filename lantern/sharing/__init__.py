"""Sharing a picture's work among machines: cutting it into pieces, and who takes which; without a database or a wire."""
