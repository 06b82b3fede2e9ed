"""Every comparison with a truth from outside is a row of the table in docs/verification.md.

A test calls `finding` with what it has measured; the rows are printed at the end of the run. With LANTERN_WRITE=1 the
run writes them into the document, between its two marks, in the order of the tests.
"""

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

DOCUMENT = Path(__file__).resolve().parents[2] / "docs" / "verification.md"
BEGIN, END = "<!-- rows: written by the tests -->\n", "<!-- end of rows -->\n"
HEAD = "| what | against | measured | expected | error |\n|---|---|---|---|---|\n"
Row = tuple[str, int, str]
"""Test, number among its rows, text."""
_ROWS = pytest.StashKey[list[Row]]()


def pytest_configure(config: pytest.Config) -> None:
    config.stash.setdefault(_ROWS, [])


@pytest.fixture
def finding(request: pytest.FixtureRequest) -> Iterator[Callable[..., None]]:
    """finding(what, against, measured, expected, confidence): a row; error and confidence are relative."""
    rows = request.config.stash[_ROWS]

    def add(what: str, against: str, measured: float, expected: float, confidence: float | None = None) -> None:
        error = abs(measured - expected) / abs(expected) if expected else abs(measured)
        spread = "" if confidence is None else f" ± {100 * confidence:.2f} %"
        text = f"| {what} | {against} | {measured:.5g} | {expected:.5g} | {100 * error:.2f} %{spread} |"
        rows.append((request.node.nodeid, len(rows), text))

    yield add


def pytest_sessionfinish(session: pytest.Session) -> None:
    """A process of several hands its rows to the one that started it."""
    output = getattr(session.config, "workeroutput", None)
    if output is not None:
        output["rows"] = session.config.stash[_ROWS]


@pytest.hookimpl(optionalhook=True)
def pytest_testnodedown(node: Any, error: object) -> None:
    node.config.stash[_ROWS] += [tuple(row) for row in node.workeroutput.get("rows", [])]


def pytest_terminal_summary(terminalreporter: Any, exitstatus: int, config: pytest.Config) -> None:
    rows = sorted(config.stash.get(_ROWS, []), key=lambda row: (row[0].split("[")[0], row[1]))
    if not rows:
        return
    table = HEAD + "".join(text + "\n" for _, _, text in rows)
    terminalreporter.write_line(table)
    if os.environ.get("LANTERN_WRITE") == "1" and exitstatus == 0:
        before, _, rest = DOCUMENT.read_text().partition(BEGIN)
        DOCUMENT.write_text(before + BEGIN + table + END + rest.partition(END)[2])
