"""How long the condition sheet of a 12 MP picture takes, and how soon its first row is there."""

from __future__ import annotations

import time
from pathlib import Path
from tempfile import TemporaryDirectory

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.core.analysis.report.condition import measure_condition, measure_whole_condition
from wamplex.core.intake.read import read_picture


def condition_sheet() -> list[Figure]:
    """Every measurement, once warmed up, as the window does it before a picture is there."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "photo.jpg"
        Image.fromarray(photo_like(4000, 3000)).save(path, quality=92)
        picture = read_picture(path)
        begun = time.perf_counter()
        measure_whole_condition(picture)
        cold = time.perf_counter() - begun
        runs, slowest = [], ("", 0.0)
        for _ in range(3):
            begun = last = time.perf_counter()
            for condition in measure_condition(picture):
                now = time.perf_counter()
                slowest = max(slowest, (condition.measured[-1], now - last), key=lambda row: row[1])
                last = now
            runs.append(last - begun)
    detail = f"best of 3; the first of all {cold:.2f} s; slowest row {slowest[0]}, {slowest[1]:.2f} s"
    return [Figure("condition sheet of 12 MP", min(runs), 1.5, "s", True, detail)]
