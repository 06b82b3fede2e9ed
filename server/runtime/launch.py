"""From a prepared checkout to the running application: database, migrations, demo, kernels, web server, print worker.

Called by `./start`. Whatever it started, it stops: on Ctrl-C, on a termination signal, and when a part fails for good.
"""

import argparse
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from types import FrameType

from server.runtime import postgres
from server.runtime.logs import PROCESS
from server.runtime.paths import CHECKOUT, data_folder
from server.runtime.waiting import WaitingPage

READY_SECONDS = 60
STOP_SECONDS = 4
RESTART_SECONDS = 1.0
QUICK_DEATH_SECONDS = 5.0
MOST_QUICK_DEATHS = 3


class LaunchError(RuntimeError):
    """The application cannot be started; the message says why in one line."""


@dataclass
class Child:
    """One supervised process."""

    name: str
    command: list[str]
    process: subprocess.Popen[bytes] | None = None
    born: float = 0.0
    quick_deaths: int = 0

    def start(self) -> None:
        self.born = time.monotonic()
        # A session of its own: Ctrl-C reaches the launcher alone, which then stops the children in order.
        environment = os.environ | {PROCESS: self.name.replace(" ", "-")}
        self.process = subprocess.Popen(self.command, cwd=CHECKOUT, start_new_session=True, env=environment)

    def stop(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self._signal(signal.SIGTERM)
        try:
            self.process.wait(STOP_SECONDS)
        except subprocess.TimeoutExpired:
            self._signal(signal.SIGKILL)
            self.process.wait()

    def _signal(self, number: signal.Signals) -> None:
        assert self.process is not None
        try:
            os.killpg(self.process.pid, number)
        except ProcessLookupError:
            return


def _say(text: str) -> None:
    print(text, flush=True)


def _manage(*arguments: str) -> None:
    done = subprocess.run(
        [sys.executable, "manage.py", *arguments], cwd=CHECKOUT, capture_output=True, text=True, check=False
    )
    if done.returncode:
        reason = (done.stderr or done.stdout).strip().splitlines() or ["no reason given"]
        raise LaunchError(f"manage.py {arguments[0]} failed: {reason[-1]}")


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise LaunchError(f"port {port} cannot be used ({error.strerror}): choose another with --port") from error


def _compile_kernels() -> None:
    """Compile the ray kernels in a process of its own, with a line that shows that time passes."""
    from lantern.kernel.cache import is_compiled

    if is_compiled():
        return
    start = time.monotonic()
    process = subprocess.Popen([sys.executable, "-m", "lantern.warm_up"], cwd=CHECKOUT)
    while True:
        try:
            code = process.wait(1.0 if sys.stdout.isatty() else 15.0)
            break
        except subprocess.TimeoutExpired:
            passed = time.monotonic() - start
            _say(f"Compiling the ray kernels: {passed:.0f} s (this happens once, about two minutes)")
    if code:
        raise LaunchError(f"the ray kernels cannot be compiled (exit code {code}); the reason stands above")
    _say(f"Ray kernels compiled in {time.monotonic() - start:.0f} s")


def prepare(demo: bool, say: Callable[[str, float, str], None]) -> None:
    """Everything that has to be there before the server: database, tables, demo data, kernels.

    `say` is told each stage, about how many seconds it takes, and a hint.
    """
    say("Starting the database", 5.0, "")
    postgres.start()
    say("Bringing the tables up to date", 5.0, "")
    _manage("migrate", "--no-input")
    say("Making the library", 15.0, "")
    _manage("load_demo", *([] if demo else ["--library-only"]))
    say("Compiling the ray kernels", 120.0, "This happens once, and takes about two minutes.")
    _compile_kernels()


def _wait_until_ready(port: int, server: Child) -> None:
    for _ in range(READY_SECONDS * 10):
        if server.process is not None and server.process.poll() is not None:
            raise LaunchError("the web server ended at once; the reason stands above")
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.1)
    raise LaunchError(f"the web server did not answer within {READY_SECONDS} s")


def _watch(children: list[Child], stopping: threading.Event) -> None:
    """Restart what dies until told to stop; give up on a part that dies again and again."""
    while not stopping.wait(0.3):
        if postgres.is_ours() and not postgres.is_running():
            # First of all: without it the others die one after the other.
            _say("The database ended; starting it again")
            postgres.start()
        for child in children:
            if child.process is None or child.process.poll() is None:
                continue
            quick = time.monotonic() - child.born < QUICK_DEATH_SECONDS
            child.quick_deaths = child.quick_deaths + 1 if quick else 0
            if child.quick_deaths >= MOST_QUICK_DEATHS:
                raise LaunchError(f"the {child.name} keeps dying; the reason stands above")
            _say(f"The {child.name} ended (code {child.process.returncode}); starting it again")
            stopping.wait(RESTART_SECONDS)
            child.start()


def run(port: int, demo: bool) -> None:
    """Run the application until it is stopped."""
    stopping = threading.Event()

    def stop(number: int, frame: FrameType | None) -> None:
        stopping.set()

    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, stop)
    python = sys.executable
    server = Child(
        "web server",
        [
            python, "-m", "uvicorn", "server.config.asgi:application", "--host", "127.0.0.1", "--port", str(port),
            "--log-level", "warning", "--ws-max-size", str(1 << 20), "--timeout-graceful-shutdown", "2",
        ],
    )  # fmt: skip
    children = [server]
    for queue, name in (("prints", "print worker"), ("intake", "intake worker")):
        children.append(Child(name, [python, "manage.py", "worker", queue]))
    try:
        for child in children:
            child.start()
        _wait_until_ready(port, server)
        _say(f"\nVelvet Lantern is at http://127.0.0.1:{port}/")
        if demo:
            from demo.project import ACCOUNT, PASSWORD

            _say(f"Sign in as {ACCOUNT} with the password {PASSWORD}. Ctrl-C stops everything.")
        _watch(children, stopping)
    finally:
        for child in reversed(children):
            child.stop()


def main() -> int:
    """Entry point."""
    parser = argparse.ArgumentParser(prog="./start", description="Run Velvet Lantern on this machine.")
    parser.add_argument("--port", type=int, default=8700, help="port of the web server (default 8700)")
    parser.add_argument("--data", help="data folder (default var/)")
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo account and project")
    parser.add_argument("--prepare", action="store_true", help="set everything up and stop")
    options = parser.parse_args()
    if options.data:
        os.environ["LANTERN_DATA"] = os.path.abspath(options.data)
    os.environ.setdefault("LANTERN_CACHE", str(data_folder() / "cache"))
    was_running = postgres.is_running()
    try:
        if options.prepare:
            prepare(not options.no_demo, lambda *_: None)
            _say("Everything is prepared: ./start runs it.")
        else:
            _check_port(options.port)
            with WaitingPage(options.port) as page:
                prepare(not options.no_demo, page.say)
            run(options.port, demo=not options.no_demo)
    except (LaunchError, postgres.DatabaseError) as error:
        print(f"start: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    finally:
        if not was_running:
            postgres.stop()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
