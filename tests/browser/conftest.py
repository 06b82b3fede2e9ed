"""The real application, started as a person starts it, and a real browser.

The application gets a data folder of its own: its own database cluster, files and demo project.
"""

import os
import re
import signal
import socket
import subprocess
import sys
import time
import uuid
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from demo.project import ACCOUNT, PASSWORD

ROOT = Path(__file__).resolve().parents[2]
START_SECONDS = 240
DOTS = 0.5
"""Pixels of a CSS pixel: what happens is tested, not how fine it looks, and a picture takes a quarter of the time."""
DEMO = 1
"""Number of the demo project, which the application makes at its first start."""
# Playwright's own five seconds are too few on a machine that others use as well.
expect.set_options(timeout=20_000)
BROWSER_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class Application:
    """The running application; its demo stands in the light of a studio, unless it is to be as it comes."""

    def __init__(self, data: Path, *, as_it_comes: bool = False) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.log = data.parent / "application.log"
        self.data = data
        command = [sys.executable, "-m", "server.runtime.launch", "--port", str(self.port), "--data", str(data)]
        with self.log.open("wb") as log:
            self.process = subprocess.Popen(command, cwd=ROOT, stdout=log, stderr=log, start_new_session=True)
        deadline = time.monotonic() + START_SECONDS
        while f"{self.url}/" not in self.log.read_text():
            if self.process.poll() is not None or time.monotonic() > deadline:
                self.stop()
                raise RuntimeError(f"the application did not start:\n{self.log.read_text()}")
            time.sleep(0.2)
        if not as_it_comes:
            told = {**os.environ, "LANTERN_DATA": str(data)}
            subprocess.run([sys.executable, "-m", "tests.browser.plain_demo"], cwd=ROOT, env=told, check=True)

    def processes(self, words: str) -> list[int]:
        """Numbers of the application's processes whose command line matches."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                command = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                environment = (folder / "environ").read_bytes()
            except OSError:
                continue
            if re.search(words, command) and f"LANTERN_DATA={self.data}".encode() in environment:
                found.append(int(folder.name))
        return found

    def stop(self) -> None:
        """Ctrl-C."""
        if self.process.poll() is None:
            os.kill(self.process.pid, signal.SIGINT)
            self.process.wait(60)


@pytest.fixture(scope="session")
def application(tmp_path_factory):
    running = Application(tmp_path_factory.mktemp("application") / "data")
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser():
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER_FLAGS)
        yield launched
        launched.close()


class Window:
    """A window signed in as the demo account; errors on its console and requests to the outside are noted."""

    def __init__(self, browser: Browser, application: Application) -> None:
        self.application = application
        self.context = browser.new_context(
            viewport={"width": 1280, "height": 800}, device_scale_factor=DOTS, accept_downloads=True
        )
        self.errors: list[str] = []
        self.outside: list[str] = []
        self.page = self.context.new_page()
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))
        self.page.on("console", self._hear)
        own = (application.url, "blob:", "data:")
        self.page.on("request", lambda r: None if r.url.startswith(own) else self.outside.append(r.url))
        self.csrf = self._call("get", "session")["csrf_token"]
        self.csrf = self._call("post", "session", {"username": ACCOUNT, "password": PASSWORD})["csrf_token"]

    def _hear(self, said: ConsoleMessage) -> None:
        # The database was away for a moment, and the window asks again: that is not lost.
        if said.type == "error" and "status of 503" not in said.text:
            self.errors.append(f"{said.text} {said.location['url']}")

    def _call(self, method: str, path: str, data: object = None) -> Any:
        headers = {"X-CSRFToken": getattr(self, "csrf", ""), "Idempotency-Key": uuid.uuid4().hex}
        answer = getattr(self.context.request, method)(
            f"{self.application.url}/api/v1/{path}", headers=headers, data=data
        )
        assert answer.ok, answer.text()
        return answer.json() if answer.text() else None

    def copy_of_demo(self, name: str) -> int:
        """Number of a new project that is as the demo is."""
        number = self._call("post", f"projects/{DEMO}/copy")["id"]
        self._call("patch", f"projects/{number}", {"name": name})
        return int(number)

    def open(self, project: int) -> None:
        self.page.goto(f"{self.application.url}/#/projects/{project}")
        self.page.wait_for_selector("canvas[data-state]", timeout=60_000)

    def remove_projects(self) -> None:
        """All but the demo: those that the test has brought in as well."""
        for each in self._call("get", "projects?limit=500")["items"]:
            if each["id"] != DEMO:
                self._call("delete", f"projects/{each['id']}")


@pytest.fixture
def page(browser, application, request):
    """A signed-in page with a copy of the demo project open, which is removed afterwards.

    An error on the console fails the test, but for those that contain the words of its mark `console`.
    """
    window = Window(browser, application)
    window.open(window.copy_of_demo(request.node.name[:80]))
    yield window.page
    window.page.close()  # it would go on asking for what is removed now
    window.remove_projects()
    window.context.close()
    mark = request.node.get_closest_marker("console")
    expected = mark.args if mark else ()
    assert [error for error in window.errors if not any(words in error for words in expected)] == []
    assert window.outside == [], "nothing may be fetched from outside"


@pytest.fixture
def visitor(browser):
    """A browser of somebody else, on a phone; what goes wrong on its console fails the test."""
    context = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=1)
    said = []

    def opened():
        page = context.new_page()
        page.on("pageerror", lambda error: said.append(str(error)))
        page.on("console", lambda one: said.append(one.text) if one.type == "error" else None)
        return page

    yield opened
    context.close()
    assert said == []


def sign_in(page: Page, application: Application) -> None:
    """Sign in as the demo account; its newest project opens."""
    page.goto(application.url)
    page.get_by_label("Name").fill(ACCOUNT)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
