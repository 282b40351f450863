"""Benchmarks: each figure is a ratio within one run, or a time against the bound it must keep."""

import wamplex  # noqa: F401 - before NumPy is loaded, whose threads it sees to
