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
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect, sync_playwright

from demo.project import ACCOUNT, PASSWORD
from tests.browser.picture import revision, wait_for_revision

ROOT = Path(__file__).resolve().parents[2]
START_SECONDS = 240
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
    """The running application."""

    def __init__(self, data: Path) -> None:
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


@pytest.fixture
def page(browser, application):
    """A signed-in page with the demo project open; any error on the console fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    opened = context.new_page()
    errors: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    outside: list[str] = []
    opened.on(
        "request",
        lambda r: outside.append(r.url) if not r.url.startswith((application.url, "blob:", "data:")) else None,
    )
    sign_in(opened, application)
    yield opened
    context.close()
    assert errors == []
    assert outside == [], "nothing may be fetched from outside"


@pytest.fixture
def undone(page):
    """Takes back what the test changed, so that tests do not depend on their order."""
    yield page
    hold = page.get_by_role("button", name="Run the proof")
    if hold.is_visible():
        hold.click()
    for _ in range(40):
        button = page.get_by_role("button", name="Undo")
        if button.is_disabled():
            break
        before = revision(page)
        button.click()
        wait_for_revision(page, before + 1)


def sign_in(page: Page, application: Application) -> None:
    """Sign in as the demo account; its newest project opens."""
    page.goto(application.url)
    page.get_by_label("Name").fill(ACCOUNT)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
