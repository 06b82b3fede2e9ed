"""What a look costs: an edit of it until its first picture and its whole one, every effect, all at once, a print of 8k.

The edits go through a pane of the render host, on the demo within 1280x720; no ray is traced by any. The print's memory
is that of a process of its own.
"""

import argparse
import json
import resource
import statistics
import subprocess
import sys
import time
from typing import Any

import numpy as np

from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.surround import Surround
from lantern.scene.look import EFFECTS, Look
from lantern.shelf.looks import LOOKS
from server.host.pane import Pane
from server.protocol.panes import PaneState

ALL = Look.model_validate({name: {"enabled": True} for name in EFFECTS if name != "table"})
EDITS = 40


def _light(height: int, width: int) -> np.ndarray:
    """A smooth picture with a lamp in it."""
    y, x = (np.mgrid[0:height, 0:width] + 0.5) / height
    lamp = np.exp(-((x - 1.2) ** 2 + (y - 0.4) ** 2) / 0.002)
    light = np.empty((height, width, 3), np.float32)
    for channel, level in enumerate((0.3, 0.25, 0.2)):
        light[..., channel] = level + 0.1 * np.sin(5 * x + channel) * np.cos(4 * y) + 40 * lamp
    return light


def _told(values: list[float]) -> dict[str, float]:
    return {"median": statistics.median(values), "p95": float(np.percentile(values, 95))}


def finishing(look: Look, height: int, width: int, rounds: int = 3) -> float:
    """Milliseconds of a picture that is new to the look, at best."""
    finisher, light = Finisher(), _light(height, width)
    finisher.bytes_of(light, look, Surround())
    found = []
    for _ in range(rounds):
        fresh = light.copy()
        start = time.perf_counter()
        finisher.bytes_of(fresh, look, Surround())
        found.append(time.perf_counter() - start)
    return min(found) * 1000


def edits() -> dict[str, Any]:
    """Milliseconds from an edit of the look until its first picture is sent, and from rest until the whole one is."""
    engine, sent = Engine(), []
    scene, files = demo_scene()
    engine.open(scene, files)
    pane = Pane("1.0", 1, engine, lambda head, body: sent.append(head), files)
    pane.take_state(PaneState(pane=0, serial=0, width=1280, height=720))
    assert pane.film is not None
    while pane.done < 1 or pane.shown.is_coarse:
        pane.step(True, lambda *_: None)
        if pane._awaits_first:
            pane.developed(engine.develop(pane.film, denoise="fast"), pane.generation, pane.done, 0, None)
    rays, first, whole = engine.ray_counts().rays, [], []
    for number in range(EDITS):
        before = engine.scene
        share = number / EDITS
        look = LOOKS["evening"].look.model_copy(update={"exposure": share})
        if number % 2:
            look = look.model_copy(update={"bloom": look.bloom.model_copy(update={"size": 3 + 4 * share})})
        start = time.perf_counter()
        change = engine.apply(before.model_copy(update={"look": look}), files)
        pane.take_document(before, change.restarts, number + 2, number)
        first.append((time.perf_counter() - start) * 1000)
        start = time.perf_counter()
        pane.shown.send(pane._frame)
        whole.append((time.perf_counter() - start) * 1000)
    assert engine.ray_counts().rays == rays, "an edit of the look traces no ray"
    engine.close()
    return {"first": _told(first), "whole": _told(whole)}


def big_print() -> dict[str, float]:
    """Seconds and peak memory [GiB] of 7680x4320 with everything on; run in a process of its own."""
    light = _light(4320, 7680)
    start = time.perf_counter()
    Finisher().bytes_of(light, ALL, Surround())
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
    return {"seconds": time.perf_counter() - start, "peak_gib": peak, "picture_gib": light.nbytes / 2**30}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--print-alone", action="store_true")
    if parser.parse_args().print_alone:
        print(json.dumps(big_print()))
        return
    plain = finishing(Look(), 720, 1280)
    alone = {
        name: finishing(Look.model_validate({name: {"enabled": True}}), 720, 1280)
        for name in EFFECTS
        if name != "table"
    }
    command = [sys.executable, "-m", "benchmarks.look", "--print-alone"]
    found = {
        "edits_ms": edits(),
        "plain_ms": plain,
        "effects_ms": alone,
        "looks_ms": statistics.median(finishing(named.look, 720, 1280) for named in LOOKS.values()),
        "all_1080_ms": finishing(ALL, 1080, 1920),
        "print_8k": json.loads(subprocess.check_output(command)),
    }
    print(json.dumps(found, default=lambda value: round(float(value), 2)))


if __name__ == "__main__":
    main()
