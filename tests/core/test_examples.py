"""Examples in docstrings give what they say."""

from __future__ import annotations

import doctest
import importlib
from pathlib import Path

import pytest

CORE = Path(__file__).parents[2] / "src" / "wamplex" / "core"
WITH_EXAMPLES = sorted(path for path in CORE.rglob("*.py") if ">>>" in path.read_text())


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=lambda path: path.name)
def test_examples_are_true(path: Path) -> None:
    name = ".".join(("wamplex", "core", *path.relative_to(CORE).with_suffix("").parts))
    found = doctest.testmod(importlib.import_module(name))
    assert found.attempted > 0
    assert found.failed == 0
