"""Benchmarks: each figure is a ratio within one run, or a time against the bound it must keep."""
