"""The short form of the soak: `benchmarks/run soak` is the long one, `docs/reliability.md` has its figures."""

import json
import subprocess
import sys

from tests.browser.conftest import ROOT

LONGEST_SECONDS = 900
"""A soak that has not ended by then hangs: that is a failure too, not a wait without end."""


def test_nothing_is_lost_while_everything_goes_wrong():
    command = [sys.executable, "-m", "benchmarks.soak", "--minutes", "1", "--windows", "6", "--projects", "4"]
    command += ["--fault-seconds", "7"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=LONGEST_SECONDS)
    assert done.stdout.strip(), done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert found["problems"] == [] and done.returncode == 0
    assert found["edits_acknowledged"] > 20 and found["pictures"] > 0 and sum(found["faults"].values()) >= 3, found
