"""Every benchmark can be begun: nothing that it needs of the others, or of the project, is gone."""

import importlib
from pathlib import Path

import pytest

SHARED = {"__init__", "mend_cases", "page", "pieces"}
"""What benchmarks share: not begun by themselves."""

BENCHES = sorted(path.stem for path in (Path(__file__).parents[2] / "bench").glob("*.py") if path.stem not in SHARED)


@pytest.mark.parametrize("name", BENCHES)
def test_it_can_be_begun(name):
    assert callable(importlib.import_module(f"bench.{name}").main)
