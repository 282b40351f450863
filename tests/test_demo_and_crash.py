"""What happens without a display, and when the process is killed."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.core.demo import demo_pictures
from wamplex.core.intake.read import read_picture

ROOT = Path(__file__).parents[1]
NO_DISPLAY = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}


def test_without_a_display_the_window_says_so() -> None:
    run = subprocess.run(
        [sys.executable, "-m", "wamplex"],
        env=NO_DISPLAY,
        capture_output=True,
        text=True,
        timeout=600,
        check=False,
    )
    assert run.returncode == 3
    assert "There is no display" in run.stderr


def test_the_demo_has_its_six_pictures() -> None:
    pictures = [read_picture(path) for path in demo_pictures()]
    assert len(pictures) == 6
    assert all(min(p.width, p.height) >= 150 and p.pixels.std() > 0.04 for p in pictures)


@pytest.mark.slow
def test_the_demo_without_a_display_writes_print_files(tmp_path: Path) -> None:
    """The script behind ``make demo`` does the main job headless."""
    (tmp_path / "src" / "wamplex" / "demo").mkdir(parents=True)
    for name in ("carved-head.png", "dress-rehearsal.dng", "stage-web.jpg"):  # one of each kind of file
        shutil.copy(ROOT / "src" / "wamplex" / "demo" / name, tmp_path / "src" / "wamplex" / "demo")
    wamplex = Path(sys.executable).with_name("wamplex")
    run = subprocess.run(
        ["sh", str(ROOT / "tools" / "demo.sh"), str(wamplex), "2"],
        cwd=tmp_path,
        env=NO_DISPLAY,
        capture_output=True,
        text=True,
        timeout=600,
        check=False,
    )
    assert run.returncode == 0, run.stderr
    assert "no display" in run.stdout
    files = sorted((tmp_path / "demo-output").iterdir())
    assert len(files) == 3
    for path in files:
        picture = read_picture(path)
        assert picture.depth == 16
        assert picture.density_ppi == 300


@pytest.mark.slow
@pytest.mark.parametrize("suffix", ["tif", "png", "jpg"])
def test_killing_the_process_leaves_no_file_under_the_final_name(tmp_path: Path, suffix: str) -> None:
    source = tmp_path / "source.png"
    random = np.random.default_rng(1)
    Image.fromarray(random.integers(0, 256, (750, 1000, 3), dtype=np.uint8)).save(source, compress_level=1)
    out = tmp_path / "out"
    target = out / f"print.{suffix}"
    words = ["enlarge", str(source), "--upscaler", "lanczos", "--factor", "8", "--out", str(target)]
    process = subprocess.Popen([sys.executable, "-m", "wamplex", *words], stdout=subprocess.DEVNULL)
    end = time.monotonic() + 60
    # A JPEG is written at its end: then it is in the middle of packing.
    begun = 0 if suffix == "jpg" else 1
    while time.monotonic() < end and not any(p.stat().st_size >= begun for p in out.glob(".*.part")):
        time.sleep(0.01)
    assert process.poll() is None, "it was over before it could be killed"
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert not target.exists()
    assert all(p.name.startswith(".") for p in out.iterdir())
