"""A picture's work shared among machines: its pieces, and who takes which; without a database or a wire."""
