"""Velvet Lantern's core: scene document → compiled scene → film → picture.

No Django, no HTTP, no browser here; `lantern.engine` is the façade.
"""

__version__ = "0.1.0"
