"""One smoke test in a real window on a (virtual) screen, in a process of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

_SCRIPT = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from wamplex.app.theme import apply_theme
from wamplex.app.window.main_window import TRIAL, MainWindow
app = QApplication([])
apply_theme(app)
window = MainWindow()
window.show()
window.take_in([Path(sys.argv[1])])
end = time.monotonic() + 200
while time.monotonic() < end:
    app.processEvents()
    if window.tray.usable and not window.trial_step.isVisible():
        window.open_step(TRIAL)
    if len(window.trial_step.cache) >= 4 and window.status.words.startswith("Hold"):
        break
    time.sleep(0.01)
app.processEvents()
assert app.platformName() == "xcb"
app.primaryScreen().grabWindow(0).save(sys.argv[2])
window.close()
"""


@pytest.mark.screen
@pytest.mark.slow
def test_the_window_opens_on_a_screen(tmp_path: Path, photo_file: Path) -> None:
    if shutil.which("xvfb-run") is None:
        pytest.skip("xvfb-run is not installed")
    shot = tmp_path / "shot.png"
    env = {**os.environ, "QT_QPA_PLATFORM": "xcb"}
    run = subprocess.run(
        [
            "xvfb-run",
            "-a",
            "-s",
            "-screen 0 1280x800x24",
            sys.executable,
            "-c",
            _SCRIPT,
            str(photo_file),
            str(shot),
        ],
        env=env,
        capture_output=True,
        text=True,
        timeout=300,
        check=False,
    )
    assert run.returncode == 0, run.stderr
    pixels = np.asarray(Image.open(shot).convert("RGB"))
    # Paper-white margin of the panel beside its scroll bar, and a picture with many colours.
    assert (np.abs(pixels[520:740, -13:-9].astype(int) - (0xF6, 0xF3, 0xEC)).max(axis=2) == 0).mean() > 0.95
    assert len(np.unique(pixels[200:700, 200:900].reshape(-1, 3), axis=0)) > 1000
