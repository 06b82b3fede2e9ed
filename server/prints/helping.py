"""Helping with a print that another worker leads.

In: the number of a print. Out: pieces of it, handed in. Called by the worker's task.
"""

import logging
from contextlib import suppress
from pathlib import Path

from django.conf import settings

from lantern.engine.engine import Engine
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.prints import sequence, together
from server.prints.filling import Canceled, Watch
from server.prints.glimpses import Glimpses
from server.prints.models import Print
from server.projects import storage
from server.runtime.patience import patiently
from server.workers.here import busy, here

log = logging.getLogger(__name__)


def help_with(number: int) -> None:
    """Make pieces of print `number` for as long as there are some; without a word when it is over."""
    worker = here()
    log.info("called to help with print %s", number)
    item = patiently(Print.objects.filter(pk=number, state=Print.State.RUNNING).first)
    if worker is None or item is None or not item.pieces.filter(file="").exists():
        return
    scene = read_scene(item.scene)
    paths = patiently(lambda: storage.paths_for(scene))

    def resolve(reference: FileRef) -> Path:
        return Path(paths[reference.sha256])

    engine = Engine(settings.THREADS, final=True)
    try:
        with busy(number, helps=True), Watch(number, engine) as watch:
            engine.open(scene, resolve)
            watch.check()
            make: together.Make
            if item.is_film:
                make = sequence.Frames(engine, scene, resolve, item, watch, Glimpses(number, engine)).make_piece
            else:
                film = engine.film_for(scene.print.width, scene.print.height, aovs=scene.print.layers)
                together.open_base(film, item)
                make = together.piece_maker(engine, film, item, scene.print, watch)
            share = together.Together(item, worker, watch, make)
            for _ in share.until_done():
                if together.others_wait():
                    return
    except Canceled:
        log.info("print %s needs no help any more", number)
    finally:
        engine.close()
        with suppress(OSError):  # whoever leads it on this machine has more in it
            item.folder.rmdir()
