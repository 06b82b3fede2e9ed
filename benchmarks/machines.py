"""One print by one machine of one thread, and by two, each in a network of its own.

Two network namespaces stand for the machines: they reach the database over a wire, and the files in a folder that both
have. Each worker has one core. Prints the seconds of both, their ratio, and whether both frames are equal to the bit.
Needs root, and the program `ip`.
"""

import argparse
import json
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import quote

ROOT = Path(__file__).resolve().parents[1]
NETWORK = "10.213.7"
READY_SECONDS = 180


def _run(*command: str) -> None:
    subprocess.run(command, check=True, capture_output=True)


@contextmanager
def _machine(number: int) -> Iterator[str]:
    """A network namespace with a wire to this one; its name."""
    name, here, there = f"lantern-{number}", f"vl-{number}-a", f"vl-{number}-b"
    subprocess.run(["ip", "netns", "delete", name], capture_output=True, check=False)
    _run("ip", "netns", "add", name)
    try:
        _run("ip", "link", "add", here, "type", "veth", "peer", "name", there)
        _run("ip", "link", "set", there, "netns", name)
        _run("ip", "address", "add", f"{NETWORK}.{4 * number + 1}/30", "dev", here)
        _run("ip", "link", "set", here, "up")
        _run("ip", "-n", name, "address", "add", f"{NETWORK}.{4 * number + 2}/30", "dev", there)
        _run("ip", "-n", name, "link", "set", there, "up")
        yield name
    finally:
        _run("ip", "netns", "delete", name)


def _pump(source: socket.socket, target: socket.socket) -> None:
    try:
        while data := source.recv(1 << 16):
            target.sendall(data)
    except OSError:
        pass
    finally:
        for end in (source, target):
            end.close()


def _forward(address: str, port: int) -> socket.socket:
    """Passes what comes to an address on to the same port of loopback, where the database listens."""
    listener = socket.create_server((address, port))

    def serve() -> None:
        while True:
            try:
                near, _ = listener.accept()
            except OSError:
                return
            far = socket.create_connection(("127.0.0.1", port))
            for ends in ((near, far), (far, near)):
                threading.Thread(target=_pump, args=ends, daemon=True).start()

    threading.Thread(target=serve, daemon=True).start()
    return listener


@contextmanager
def _worker(number: int, machine: str, data: Path) -> Iterator[None]:
    from server.runtime import postgres

    there = postgres.address()
    with _forward(f"{NETWORK}.{4 * number + 1}", there.port):
        where = f"{quote(there.user)}:{quote(there.password)}@{NETWORK}.{4 * number + 1}:{there.port}/{there.name}"
        command = [
            "ip", "netns", "exec", machine, "taskset", "-c", str(number % (os.cpu_count() or 1)),
            sys.executable, "-m", "server.administration.worker_cli", "--database", f"postgresql://{where}",
            "--storage", str(data), "--data", str(data / f"machine-{number}"), "--threads", "1", "--name", machine,
        ]  # fmt: skip
        with (data / f"worker-{number}.log").open("w") as log:
            process = subprocess.Popen(command, stdout=log, stderr=log, env=os.environ | {"OMP_NUM_THREADS": "1"})
        try:
            yield
        finally:
            process.terminate()
            process.wait(60)


def _wait_for(count: int) -> None:
    from server.workers.here import alive

    deadline = time.monotonic() + READY_SECONDS
    while alive().count() != count:
        if time.monotonic() > deadline:
            raise RuntimeError(f"{alive().count()} of {count} workers came: see the logs beside their data")
        time.sleep(0.2)


def _printed(size: tuple[int, int], samples: int, denoise: bool) -> tuple[float, bytes]:
    """(seconds from the worker's first look at it to its file, the file) of a print of the demo."""
    from django.core.files.storage import storages

    from demo.editions import PROJECT_NAME
    from lantern.scene.reading import read_scene
    from server.prints.models import Print
    from server.prints.tasks import queue_print
    from server.projects.models import Project

    project = Project.objects.get(name=PROJECT_NAME)
    scene = read_scene(project.scene)
    width, height = size
    told = {"width": width, "height": height, "samples": samples, "denoise": denoise, "finish_noise": None}
    wanted = scene.model_copy(update={"print": scene.print.model_copy(update=told | {"noise": None, "told": False})})
    item = Print.objects.create(project=project, scene=wanted.model_dump(mode="json"))
    queue_print(item.pk, item.worked_by)
    begun = None
    while item.state not in Print.ENDED:
        time.sleep(0.2)
        item.refresh_from_db(fields=["state", "error"])
        if begun is None and item.state == Print.State.RUNNING:
            begun = time.monotonic()
    if item.state != Print.State.DONE or begun is None:
        raise RuntimeError(f"the print ended as {item.state}: {item.error}")
    seconds = time.monotonic() - begun
    with storages["prints"].open(item.file_name("png")) as file:
        return seconds, file.read()


def measure(data: Path, size: tuple[int, int], samples: int, denoise: bool) -> dict[str, Any]:
    """Both, one after the other, in the same light."""
    found: dict[str, Any] = {"size": list(size), "samples": samples, "denoised": denoise}
    with ExitStack() as stack:
        machines = [stack.enter_context(_machine(number)) for number in range(2)]
        with _worker(0, machines[0], data):
            _wait_for(1)
            _printed((64, 36), 4, denoise)  # kernels come from the disk once
            alone, picture = _printed(size, samples, denoise)
            with _worker(1, machines[1], data):
                _wait_for(2)
                _printed((64, 36), 4, denoise)
                both, other = _printed(size, samples, denoise)
    found |= {"one_s": round(alone, 1), "two_s": round(both, 1), "ratio": round(alone / both, 2)}
    return found | {"equal": picture == other}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--width", type=int, default=1280)
    parser.add_argument("--height", type=int, default=720)
    parser.add_argument("--samples", type=int, default=256)
    parser.add_argument("--denoise", action="store_true")
    parser.add_argument("--data", help="data folder (default: a new one)")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as made:
        data = Path(options.data or made)
        os.environ["LANTERN_DATA"] = str(data)
        subprocess.run([str(ROOT / "start"), "--prepare"], check=True, stdout=subprocess.DEVNULL)
        from server.runtime import postgres

        postgres.start()
        try:
            os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
            import django

            django.setup()
            print(json.dumps(measure(data, (options.width, options.height), options.samples, options.denoise)))
        finally:
            postgres.stop()


if __name__ == "__main__":
    main()
