"""From an edit to the first picture that shows it, through the real socket and server, and what follows from there.

Starts the application with a data folder of its own, opens the demo project and an asset of one million triangles, and
sends one edit after the other at the pace of a hand: the next when the last has been shown.
"""

import argparse
import asyncio
import io
import json
import math
import statistics
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from benchmarks.chromium import through_chromium
from benchmarks.live import Account, LiveView, million_triangles, shows
from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.scene.inputs import MaterialInput, Placement
from server.protocol import frames
from tests.browser.conftest import Application

Edit = Callable[[dict[str, Any], int], tuple[str, Any]]
HALF_SIZE: dict[str, Any] = {"width": 640, "height": 360}
REFERENCE_SAMPLES = 256
AT_REST_SECONDS = 0.5
"""From the first picture to the first edit: a hand is no quicker."""


def _camera(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    x, y, z = scene["camera"]["position"]
    angle = 0.02 * (number + 1)
    turned = [x * math.cos(angle) + z * math.sin(angle), y, z * math.cos(angle) - x * math.sin(angle)]
    return "/camera/position", turned


def _material(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    key = next(iter(scene["materials"]))
    return f"/materials/{key}/base_color", [0.2 + 0.6 * (number % 7) / 7, 0.4, 0.3]


def _input(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    key = next(iter(scene["materials"]))
    one = MaterialInput(placement=Placement(size=0.01 + 0.001 * (number % 10)))
    return f"/materials/{key}/inputs", {"base_color": one.model_dump(mode="json")}


def _environment(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    return "/environment/rotation", 3.0 * (number + 1)


def _light(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    return "/lights/light-1/position", [0.5 + 0.01 * (number % 20), 0.8, 0.5]


def _part(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    key = next(iter(scene["parts"]))
    return f"/parts/{key}/matrix", [1, 0, 0, 0.002 * (number % 10 + 1), 0, 1, 0, 0, 0, 0, 1, 0]


def _exposure(scene: dict[str, Any], number: int) -> tuple[str, Any]:
    return "/look/exposure", 0.4 + 0.1 * (number % 12 + 1)


EDITS: dict[str, Edit] = {
    "camera": _camera,
    "material": _material,
    "input": _input,
    "light": _light,
    "environment": _environment,
    "part": _part,
    "exposure": _exposure,
}
LIGHT = {"name": "Key", "kind": "rectangle", "position": [0.5, 0.8, 0.5], "target": [0, 0.1, 0]}


def _stolen() -> tuple[int, int]:
    """(time that the machine beneath took for others, all time) of this machine's cores so far [ticks]."""
    ticks = [int(n) for n in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]
    return ticks[7], sum(ticks)


def _percentile(waits: list[float], share: float) -> float:
    return round(sorted(waits)[min(int(len(waits) * share), len(waits) - 1)], 1)


async def time_edits(view: LiveView, edit: Edit, count: int) -> dict[str, Any]:
    """Median and 95th percentile [ms] of edits of one kind, and the size of the pictures that showed them.

    `undisturbed` are the edits during which the machine beneath took no time for others (in steps of 10 ms).
    """
    waits, undisturbed, sizes = [], [], []
    for number in range(count):
        path, value = edit(view.scene, number)
        start, stolen = time.perf_counter(), _stolen()[0]
        serial = await view.preview(path, value)
        info, _ = await view.frame(shows(serial))
        waits.append((time.perf_counter() - start) * 1000)
        if _stolen()[0] == stolen:
            undisturbed.append(waits[-1])
        sizes.append((info.width, info.height))
        # A hand pauses now and then: let some edits interrupt a long pass instead of a short one.
        await view.settle(0.02 if number % 4 else 0.6)
    return {
        "median_ms": round(statistics.median(waits), 1),
        "p95_ms": _percentile(waits, 0.95),
        "undisturbed": len(undisturbed),
        "p95_undisturbed_ms": _percentile(undisturbed, 0.95) if undisturbed else None,
        "size": list(statistics.mode(sizes)),
    }


async def _drag(view: LiveView, seconds: float) -> dict[str, Any]:
    """Edits at 120 a second, as a hand makes them; how old the picture is after the last, and how many were shown."""
    shown: set[int] = set()
    serial = 0
    end = time.perf_counter() + seconds
    number = 0

    async def read() -> None:
        while True:
            message = await view.next()
            if isinstance(message, tuple):
                shown.add(message[0].serial)

    reading = asyncio.create_task(read())
    while time.perf_counter() < end:
        path, value = _camera(view.scene, number)
        serial = await view.preview(path, value)
        number += 1
        await asyncio.sleep(1 / 120)
    released = time.perf_counter()
    while serial not in shown:
        await asyncio.sleep(0.001)
    current = (time.perf_counter() - released) * 1000
    reading.cancel()
    return {"edits": number, "pictures": len(shown), "current_after_release_ms": round(current, 1)}


async def _measure_project(account: Account, project: int, edits: int) -> dict[str, Any]:
    opened = time.perf_counter()
    view = await LiveView.open(account, project)
    await view.frame(lambda i: True)
    found: dict[str, Any] = {"first_frame_s": round(time.perf_counter() - opened, 2)}
    await view.send(
        {
            "type": "edit",
            "request": "light",
            "label": "Light",
            "patch": [{"op": "add", "path": "/lights/light-1", "value": LIGHT}],
        }
    )
    await view.settle(AT_REST_SECONDS)
    for name, edit in EDITS.items():
        found[name] = await time_edits(view, edit, edits)
        await view.send({"type": "preview", "serial": 0, "patch": []})
        await view.settle(1)
    found["counts"] = {name: view.counts[name] for name in ("full", "mesh_trees")}
    found["drag"] = await _drag(view, 5.0)
    await view.send({"type": "undo", "request": "no light"})
    await view.settle(0.5)
    await view.close()
    return found


def _psnr(picture: np.ndarray, reference: np.ndarray) -> float:
    error = np.mean((picture.astype(np.float64) - reference) ** 2)
    return float(10 * np.log10(255**2 / max(error, 1e-12)))


async def _denoised_after(account: Account, reference: np.ndarray) -> dict[str, Any]:
    """PSNR of the newest picture 1.0 s after an edit; the demo's shape within half of 1280x720."""
    view = await LiveView.open(account, 1, **HALF_SIZE)
    await view.frame(lambda i: True)
    await view.settle(AT_REST_SECONDS)
    results = []
    for number in range(6):
        path, value = _camera(view.scene, number)
        await view.preview(path, value)
        await view.settle(1.0)
        serial = await view.preview(path, view.scene["camera"]["position"])
        start, newest = time.perf_counter(), None
        while time.perf_counter() - start < 1.0:
            try:
                message = await asyncio.wait_for(view.next(), 1.0 - (time.perf_counter() - start))
            except TimeoutError:
                break
            if isinstance(message, tuple) and message[0].serial >= serial and message[0].kind == frames.FRAME:
                newest = message
        assert newest is not None
        image = (
            Image.open(io.BytesIO(newest[1])).convert("RGB").resize(reference.shape[1::-1], Image.Resampling.BICUBIC)
        )
        results.append((_psnr(np.asarray(image), reference), newest[0].samples, newest[0].flags))
    await view.close()
    return {
        "psnr_db": round(statistics.median(r[0] for r in results), 1),
        "least_db": round(min(r[0] for r in results), 1),
        "samples": statistics.mode(r[1] for r in results),
        "denoised": all(r[2] & frames.DENOISED for r in results),
    }


def _reference() -> np.ndarray:
    """The converged picture of the demo at the size of `HALF_SIZE`."""
    scene, resolve = demo_scene()
    engine = Engine()
    engine.open(scene, resolve)
    scale = min(HALF_SIZE["width"] / scene.print.width, HALF_SIZE["height"] / scene.print.height)
    film = Film(round(scene.print.width * scale), round(scene.print.height * scale))
    engine.trace(film, REFERENCE_SAMPLES)
    picture = display_rgb(engine.develop(film, denoise=None), scene.look)
    engine.close()
    return picture


def _give_way(rounds: int) -> dict[str, float]:
    """Time [ms] from `cancel` to the end of a running pass, at random moments of passes like the view's."""
    scene, resolve = demo_scene()
    engine = Engine()
    engine.open(scene, resolve)
    film = Film(936, 585)
    engine.trace(film, 1)
    waits = []
    generator = np.random.default_rng(1)
    ended: list[float] = []

    def run() -> None:
        while engine.trace(film, 2 * film.samples):
            pass
        ended.append(time.perf_counter())

    for _ in range(rounds):
        engine.ready()
        running = threading.Thread(target=run)
        running.start()
        time.sleep(float(generator.uniform(0.05, 0.4)))
        asked = time.perf_counter()
        engine.cancel()
        running.join()
        waits.append((ended[-1] - asked) * 1000)
    engine.close()
    return {
        "median_ms": round(statistics.median(waits), 2),
        "p95_ms": _percentile(waits, 0.95),
        "largest_ms": round(max(waits), 2),
    }


def _peak_memory(application: Application) -> int:
    """Largest peak resident memory of a render host [MiB]."""
    peaks = []
    for host in application.processes(r"server\.host\.template"):
        for line in Path(f"/proc/{host}/status").read_text().splitlines():
            if line.startswith("VmHWM"):
                peaks.append(int(line.split()[1]) // 1024)
    return max(peaks, default=0)


async def _measure(application: Application, account: Account, million: int, edits: int) -> None:
    reference = await asyncio.to_thread(_reference)
    print(json.dumps({"benchmark": "denoised after 1 s", **await _denoised_after(account, reference)}), flush=True)
    for name, project in (("demo", 1), ("one million triangles", million)):
        await asyncio.sleep(25)  # the host of a project that nobody looks at ends
        before = _stolen()
        found = await _measure_project(account, project, edits)
        stolen, spent = (now - then for now, then in zip(_stolen(), before, strict=True))
        found["stolen_share"] = round(stolen / spent, 3)
        found["host_peak_memory_mib"] = _peak_memory(application)
        print(json.dumps({"benchmark": "latency", "project": name, **found}), flush=True)


def main() -> None:
    """Print the latency of edits by kind, and what is derived from it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--edits", type=int, default=60)
    options = parser.parse_args()
    print(json.dumps({"benchmark": "a running pass gives way", **_give_way(60)}), flush=True)
    print(f"Latency of {options.edits} edits of each kind through the real socket; starting the server.", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        application = Application(Path(folder) / "data")
        try:
            account = Account(application.url)
            million = account.import_asset(million_triangles(Path(folder) / "million.glb"))
            asyncio.run(_measure(application, account, million, options.edits))
            print(json.dumps({"benchmark": "through Chromium", **through_chromium(application, 40)}), flush=True)
        finally:
            application.stop()


if __name__ == "__main__":
    main()
