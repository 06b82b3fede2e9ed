"""How good the first picture after an edit is: PSNR against the finished one, beside the time it takes to come.

Through the real socket, the demo project at the size that it has at 1280x800. The finished picture is made by the core.
"""

import argparse
import asyncio
import io
import json
import statistics
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from benchmarks.latency import EDITS, LIGHT, time_edits
from benchmarks.live import Account, LiveView, shows
from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.scene.editing import apply_patch
from lantern.scene.reading import read_scene
from server.protocol import frames
from tests.browser.conftest import Application

MOVES, RELIT = ("camera", "part"), ("material", "light", "environment")
FINISHED_SAMPLES = 48
WHOLE_SECONDS = 5.0
"""Until the whole picture of before is there, with a few samples."""


def _psnr(picture: np.ndarray, reference: np.ndarray) -> float:
    error = np.mean((picture.astype(np.float64) - reference) ** 2)
    return float(10 * np.log10(255**2 / max(error, 1e-12)))


class Finished:
    """Finished pictures of edited scenes."""

    def __init__(self) -> None:
        scene, self._resolve = demo_scene()
        self._engine = Engine()
        self._engine.open(scene, self._resolve)

    def picture(self, plain: dict[str, Any], size: tuple[int, int]) -> np.ndarray:
        """(h, w, 3) uint8 of a document."""
        scene = read_scene(plain)
        self._engine.apply(scene, self._resolve)
        film = Film(*size)
        self._engine.trace(film, FINISHED_SAMPLES)
        return display_rgb(self._engine.develop(film, denoise="high"), scene.look)

    def close(self) -> None:
        self._engine.close()


async def _first(view: LiveView, path: str, value: Any) -> tuple[np.ndarray, frames.FrameInfo]:
    """The first picture that shows an edit, as a browser scales it to the whole frame."""
    serial = await view.preview(path, value)
    info, data = await view.frame(shows(serial))
    picture = Image.open(io.BytesIO(data)).convert("RGB").resize(info.full, Image.Resampling.BILINEAR)
    return np.asarray(picture), info


async def _watch(account: Account, edits: int, looks: int) -> dict[str, dict[str, Any]]:
    """By kind of edit: first pictures with the documents that they show, and times."""
    found: dict[str, dict[str, Any]] = {}
    view = await LiveView.open(account, 1)
    await view.frame(lambda i: True)
    lit = [{"op": "add", "path": "/lights/light-1", "value": LIGHT}]
    await view.send({"type": "edit", "request": "light", "label": "Light", "patch": lit})
    for kind in (*MOVES, *RELIT):
        shown = []
        for number in range(looks):
            await view.send({"type": "preview", "serial": 0, "patch": []})
            await view.settle(WHOLE_SECONDS)
            path, value = EDITS[kind](view.scene, 5 * number)
            picture, info = await _first(view, path, value)
            plain, _ = apply_patch(view.scene, [{"op": "replace", "path": path, "value": value}])
            shown.append((picture, plain, info))
        await view.send({"type": "preview", "serial": 0, "patch": []})
        await view.settle(WHOLE_SECONDS)
        found[kind] = {"shown": shown, **await time_edits(view, EDITS[kind], edits)}
    await view.send({"type": "undo", "request": "no light"})
    await view.settle(0.5)
    await view.close()
    return found


def _judge(found: dict[str, dict[str, Any]]) -> dict[str, Any]:
    """Decibels in place of the pictures."""
    finished = Finished()
    for kind in found.values():
        shown = kind.pop("shown")
        pairs = [(picture, finished.picture(plain, info.full)) for picture, plain, info in shown]
        kind["psnr_db"] = [round(_psnr(*pair), 1) for pair in pairs]
        kind["first_size"] = [shown[0][2].width, shown[0][2].height]
    finished.close()
    medians = {
        f"{name}_median_db": round(statistics.median(d for k in kinds for d in found[k]["psnr_db"]), 1)
        for name, kinds in (("moves", MOVES), ("relit", RELIT))
    }
    return {**found, **medians}


def main() -> None:
    """Print decibels and milliseconds by kind of edit."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--edits", type=int, default=40, help="timed, of each kind")
    parser.add_argument("--looks", type=int, default=3, help="compared with the finished picture, of each kind")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        application = Application(Path(folder) / "data")
        try:
            account = Account(application.url)
            found = asyncio.run(_watch(account, options.edits, options.looks))
        finally:
            application.stop()
    print(json.dumps({"benchmark": "first picture", **_judge(found)}))


if __name__ == "__main__":
    main()
