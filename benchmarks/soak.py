"""Many windows on several projects for a long while, with everything going wrong that can: nothing may be lost.

Windows edit and drag, some over slow lines; prints are made and cancelled, assets brought in and removed; render hosts
are killed and stopped, workers killed, the database crashes. At the end every acknowledged edit has to be there, memory
flat, and no process and no file without an owner.
"""

import argparse
import asyncio
import json
import os
import random
import statistics
import tempfile
import time
import urllib.error
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from benchmarks.live import Account
from benchmarks.soaking import Faults, Window, hosts_of, memory_of
from tests.browser.conftest import Application
from tests.browser.slow_line import SlowLine
from tests.core.gltf_files import glb

SLOW_LINE = 60_000
"""Bytes a second."""
PAUSE = (1.0, 6.0)
"""Seconds between a window's edits."""
AFTER_SECONDS = 150
"""How long what runs may still take at the end."""
GROWTH = 1.15
"""How much more memory the last third may take than the one before."""
TRIES = 20


@dataclass
class Soak:
    """One soak and what was found."""

    application: Application
    account: Account
    minutes: float
    fault_seconds: float
    chance: random.Random
    windows: list[Window] = field(default_factory=list)
    jobs: Counter[str] = field(default_factory=Counter)
    memory: list[dict[str, int]] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    async def run(self, projects: list[int], windows: int) -> None:
        """Soak, then look."""
        over = asyncio.Event()
        self.faults = Faults(self.application, self.chance)
        async with SlowLine(self.application.port, SLOW_LINE) as slow:
            self._open_windows(projects, windows, slow.url)
            lives = [asyncio.create_task(w.live(over, PAUSE)) for w in self.windows]
            others = [asyncio.create_task(self._again_and_again(*each)) for each in (
                (self.fault_seconds, self.faults.one), (20.0, lambda: self._print(self.chance.choice(projects))),
                (17.0, self._import), (5.0, self._look_at_memory),
            )]  # fmt: skip
            await asyncio.sleep(60 * self.minutes)
            for other in others:
                other.cancel()
            await asyncio.gather(*others, return_exceptions=True)
            over.set()
            done, late = await asyncio.wait(lives, timeout=AFTER_SECONDS)
            self.problems += [f"a window ended with {t.exception()!r}" for t in done if t.exception()]
            self.problems += [f"{len(late)} windows wait for acknowledgements"] if late else []
            for life in late:
                life.cancel()
        await asyncio.to_thread(self._look_at_the_end)

    def _open_windows(self, projects: list[int], windows: int, slow: str) -> None:
        """The last two projects have one window each, which may undo; every fourth window has a slow line."""
        shared, alone = projects[:-2], projects[-2:]
        places = [shared[i % len(shared)] for i in range(windows - len(alone))] + alone
        for number, project in enumerate(places):
            url = slow if number % 4 == 3 else self.application.url
            chance = random.Random(self.chance.random())
            self.windows.append(Window(self.account, project, f"soak-{number}", url, chance, undoes=project in alone))

    async def _again_and_again(self, seconds: float, work: Any) -> None:
        while True:
            await asyncio.sleep(seconds * self.chance.uniform(0.5, 1.5))
            await asyncio.to_thread(work)

    def _patiently(self, ask: Any) -> Any:
        """As a person would: the database may be away for some seconds."""
        for _ in range(TRIES):
            try:
                return ask()
            except urllib.error.HTTPError as error:
                if error.code < 500:
                    raise
                self.jobs[f"answers {error.code}"] += 1
            except OSError:
                self.jobs["no answers"] += 1
            time.sleep(1.0)
        raise RuntimeError("the server did not answer for twenty seconds")

    def _print(self, project: int) -> None:
        number = self._patiently(lambda: self.account.post(f"/api/v1/projects/{project}/prints"))["id"]
        self.jobs["prints queued"] += 1
        if self.chance.random() < 0.3:
            try:
                self._patiently(lambda: self.account.post(f"/api/v1/prints/{number}/cancel"))
                self.jobs["prints cancelled"] += 1
            except urllib.error.HTTPError:
                self.jobs["prints ended before they were cancelled"] += 1

    def _import(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "square.glb"
            path.write_bytes(glb())
            number = self._patiently(lambda: self.account.upload(path))
        end = time.monotonic() + AFTER_SECONDS
        while (state := self._patiently(lambda: self.account.get(f"/api/v1/uploads/{number}")))["state"] == "running":
            if time.monotonic() > end:
                break
            time.sleep(0.5)
        if state["state"] != "done":
            self.problems.append(f"upload {number} is {state['state']}, {state['stage']}: {state['error']}")
            return
        self.jobs["assets brought in"] += 1
        self._patiently(lambda: self.account.delete(f"/api/v1/projects/{state['result']}"))

    def _look_at_memory(self) -> None:
        hosts = hosts_of(self.application)
        web = self.application.processes("uvicorn")
        self.memory.append({"web": memory_of(web), "hosts": memory_of(hosts), "host count": len(hosts)})

    # The end

    def _look_at_the_end(self) -> None:
        self._wait("prints and uploads have ended", self._nothing_runs)
        self._wait("render hosts have ended", lambda: not hosts_of(self.application))
        self._compare_edits()
        self._look_at_files()
        self._compare_memory()

    def _wait(self, what: str, is_so: Any) -> None:
        end = time.monotonic() + AFTER_SECONDS
        while not is_so():
            if time.monotonic() > end:
                self.problems.append(f"not so after {AFTER_SECONDS} s: {what}")
                return
            time.sleep(0.5)

    def _nothing_runs(self) -> bool:
        from server.intake.models import Upload
        from server.prints.models import Print

        active = Print.objects.exclude(state__in=Print.ENDED).exists()
        return not active and not Upload.objects.filter(state=Upload.State.RUNNING).exists()

    def _compare_edits(self) -> None:
        """What was acknowledged is stored under its name, and the document has the last value of every window."""
        from server.projects.models import HandledRequest, Project

        stored = set(HandledRequest.objects.values_list("project_id", "key"))
        for window in self.windows:
            lost = [r for r in window.acknowledged if (window.project, r) not in stored]
            self.problems += [f"{window.name}: {len(lost)} acknowledged edits are not stored"] if lost else []
            self.problems += [f"{window.name}: refused: {window.refused[0]}"] if window.refused else []
            light = Project.objects.get(pk=window.project).scene["lights"].get(window.name)
            if light is None or light["amount"] != window.amount:
                self.problems.append(
                    f"{window.name}: the document has {light and light['amount']}, not {window.amount}"
                )

    def _look_at_files(self) -> None:
        from server.prints.models import Print
        from server.projects.models import StoredFile

        data = self.application.data
        files = {str(p.relative_to(data / "files")) for p in (data / "files").rglob("*") if p.is_file()}
        rows = set(StoredFile.objects.values_list("file", flat=True))
        self.problems += [f"files without a row: {sorted(files - rows)}"] if files - rows else []
        self.problems += [f"rows without a file: {sorted(rows - files)}"] if rows - files else []
        left = [str(p) for folder in ("uploads", "reading") for p in (data / folder).rglob("*")]
        self.problems += [f"left over: {left[:5]}"] if left else []
        for item in Print.objects.all():
            names = {p.name for p in item.folder.glob("*")}
            wanted = {Path(item.file_name(k)).name for k in item.kinds} if item.state == Print.State.DONE else set()
            if item.state == Print.State.FAILED or names != wanted:
                self.problems.append(f"print {item.pk} {item.state} {item.error}: {sorted(names)}")

    def _compare_memory(self) -> None:
        third = len(self.memory) // 3
        if third < 10:
            return  # too short to say anything
        for part in ("web", "hosts"):
            before, last = (max(m[part] for m in some) for some in (self.memory[third:-third], self.memory[-third:]))
            if last > before * GROWTH:
                self.problems.append(f"memory of {part} grew from {before >> 20} to {last >> 20} MiB")

    def found(self) -> dict[str, Any]:
        """Figures."""
        waits = sorted(w for window in self.windows for w in window.waits)
        counts: Counter[str] = sum((w.counts for w in self.windows), Counter())
        third = max(len(self.memory) // 3, 1)
        thirds = [some for i in range(0, 3 * third, third) if (some := self.memory[i : i + third])]
        wait = {"median": statistics.median(waits), "p95": waits[int(0.95 * len(waits))], "most": waits[-1]}
        return {
            "windows": len(self.windows),
            "edits_acknowledged": len(waits),
            "wait_ms": {name: round(1000 * seconds) for name, seconds in wait.items()},
            **counts, **self.jobs, "faults": dict(self.faults.counts),
            "memory_mib": [{part: max(m[part] for m in some) >> 20 for part in ("web", "hosts")} for some in thirds],
            "most_hosts": max((m["host count"] for m in self.memory), default=0),
            "problems": self.problems,
        }  # fmt: skip


def soak(
    data: Path, *, minutes: float, windows: int, projects: int, fault_seconds: float, seed: int = 1
) -> dict[str, Any]:
    """Run the application and soak it; returns the figures, with `problems` empty when all is well."""
    os.environ["LANTERN_DATA"] = str(data)
    application = Application(data)
    try:
        # Asked of the database directly at the end: what the application says of itself is not what is tested.
        os.environ["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
        import django

        django.setup()
        account = Account(application.url)
        numbers = [_small_copy(account) for _ in range(projects)]
        found = Soak(application, account, minutes, fault_seconds, random.Random(seed))
        asyncio.run(found.run(numbers, windows))
    finally:
        application.stop()
    left = application.processes(".")
    found.problems += [f"processes that did not end: {left}"] if left else []
    return found.found()


def _small_copy(account: Account) -> int:
    """A copy of the demo project whose prints take seconds."""
    from server.projects.models import Project

    number = int(account.post("/api/v1/projects/1/copy")["id"])
    project = Project.objects.get(pk=number)
    project.scene["print"] |= {"width": 160, "height": 100, "samples": 16}
    project.save()
    return number


def main() -> int:
    """Print the figures; exit code 1 when something is wrong."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=30)
    parser.add_argument("--windows", type=int, default=20)
    parser.add_argument("--projects", type=int, default=8)
    parser.add_argument("--fault-seconds", type=float, default=25, help="from one fault to the next, on average")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        found = soak(
            Path(folder) / "data", minutes=options.minutes, windows=options.windows, projects=options.projects,
            fault_seconds=options.fault_seconds,
        )  # fmt: skip
    print(json.dumps({"benchmark": "soak", "minutes": options.minutes, **found}))
    return 1 if found["problems"] else 0


if __name__ == "__main__":
    raise SystemExit(main())
