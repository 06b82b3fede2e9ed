"""Benchmarks are started by hand and stand outside the tests: what they import must still be there."""

import importlib
from pathlib import Path

import pytest

import benchmarks

FOLDER = Path(benchmarks.__file__).parent
NAMES = sorted(path.stem for path in FOLDER.glob("*.py") if path.stem != "__init__")


@pytest.mark.parametrize("name", NAMES)
def test_a_benchmark_finds_what_it_imports(name):
    importlib.import_module(f"benchmarks.{name}")
