"""Memory that the film of a print takes, and whether this machine gives it.

In: a document. Out: bytes, or why it is too large. Called by whoever queues prints, and by workers.
"""

from django.conf import settings

from lantern.compile.light_rows import light_groups
from lantern.film.film import film_bytes
from lantern.scene.balancing import is_balanced
from lantern.scene.document import Scene


def film_bytes_of(scene: Scene) -> int:
    """Memory of the film of a document's print, with the light groups that it tells apart."""
    wanted = scene.print
    groups = len(light_groups(scene)) if wanted.layers or is_balanced(scene) else 0
    return film_bytes(wanted.width, wanted.height, aovs=wanted.layers, groups=groups)


def film_problem(scene: Scene) -> str:
    """Why the frame of a document is too large for this machine; empty when it is not."""
    wanted, needed, limit = scene.print, film_bytes_of(scene), settings.FILM_LIMIT
    if needed <= limit:
        return ""
    layers, help_ = (" with all layers", " or without layers") if wanted.layers else ("", "")
    return (
        f"A frame of {wanted.width}x{wanted.height}{layers} needs {needed / 2**30:.1f} GiB of memory while it "
        f"is made, and this machine gives {limit / 2**30:.1f} GiB: print it smaller{help_}."
    )
