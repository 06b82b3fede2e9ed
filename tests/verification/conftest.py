"""Every comparison with a truth from outside is a row of the table in docs/verification.md.

A test calls `finding` with what it has measured; the rows are printed at the end of the run.
"""

from collections.abc import Callable, Iterator

import pytest

_ROWS = pytest.StashKey[list[str]]()


def pytest_configure(config: pytest.Config) -> None:
    config.stash.setdefault(_ROWS, [])


@pytest.fixture
def finding(request: pytest.FixtureRequest) -> Iterator[Callable[..., None]]:
    """finding(what, against, measured, expected, error, confidence): a row; error and confidence are relative."""
    rows = request.config.stash[_ROWS]

    def add(what: str, against: str, measured: float, expected: float, confidence: float | None = None) -> None:
        error = abs(measured - expected) / abs(expected) if expected else abs(measured)
        spread = "" if confidence is None else f" ± {100 * confidence:.2f} %"
        rows.append(f"| {what} | {against} | {measured:.5g} | {expected:.5g} | {100 * error:.2f} %{spread} |")

    yield add


def pytest_terminal_summary(terminalreporter, exitstatus, config) -> None:
    rows = config.stash.get(_ROWS, [])
    if rows:
        terminalreporter.write_line("| what | against | measured | expected | error |")
        terminalreporter.write_line("|---|---|---|---|---|")
        for row in rows:
            terminalreporter.write_line(row)
