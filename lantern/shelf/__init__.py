"""Materials of our own, by family, to dress an asset in: plain documents, of real scale.

In: nothing. Out: `Swatch`es, a material each and those that lie over it. Called by the server's library.
"""
