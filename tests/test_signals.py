"""Whatever asks the program to stop, it stops at its next check and leaves nothing."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

pytestmark = pytest.mark.slow


@pytest.mark.parametrize(
    ("number", "code", "suffix"),
    [
        (signal.SIGINT, 130, "png"),
        (signal.SIGINT, 130, "tif"),
        (signal.SIGINT, 130, "jpg"),
        (signal.SIGTERM, 143, "png"),
        (signal.SIGHUP, 129, "tif"),
    ],
)
def test_signals_stop_an_export(tmp_path: Path, number: signal.Signals, code: int, suffix: str) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (1200, 1600, 3), dtype=np.uint8)
    sources = [tmp_path / f"{name}.png" for name in ("one", "two")]
    for source in sources:
        Image.fromarray(noise).save(source, compress_level=1)
    out = tmp_path / "out"
    kind = {"png": "png", "tif": "tiff", "jpg": "jpeg"}[suffix]
    words = ["--upscaler", "lanczos", "--factor", "6", "--out", str(out), "--format", kind]
    command = [sys.executable, "-m", "wamplex", "enlarge", *map(str, sources), *words]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    end = time.monotonic() + 100
    while time.monotonic() < end and not list(out.glob(".*.part")):
        time.sleep(0.01)
    process.send_signal(number)
    assert process.wait(timeout=60) == code
    assert sorted(path.name for path in tmp_path.iterdir()) == ["one.png", "two.png"]
