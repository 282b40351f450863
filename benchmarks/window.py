"""How soon the window is up and a picture visible; each in a fresh process."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure

_SCRIPT = """
import sys, time
begun = time.perf_counter()
from pathlib import Path
from PySide6.QtWidgets import QApplication
from wamplex.app.theme import apply_theme
from wamplex.app.views.main_window import MainWindow
app = QApplication([])
apply_theme(app)
window = MainWindow()
window.show()
app.processEvents()
window.grab()
up = time.perf_counter() - begun
begun = time.perf_counter()
window.take_in([Path(sys.argv[1])])
while not window.size_step.picture.showing:
    app.processEvents()
    time.sleep(0.001)
window.grab()
visible = time.perf_counter() - begun
window.open_step(1)
for _ in range(50):
    app.processEvents()
    time.sleep(0.005)
longest, step = 0.0, window.trial_step
for i in range(60):
    begun = time.perf_counter()
    step.viewport.move_to(0.3 + i / 300, 0.4)
    app.processEvents()
    longest = max(longest, time.perf_counter() - begun)
print(up, visible, longest * 1000)
window.close()
"""


def start() -> list[Figure]:
    """Process start to painted window; opening a 12 MP JPEG to seeing it; a frame while panning."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "photo.jpg"
        Image.fromarray(photo_like(4000, 3000)).save(path, quality=92)
        env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        runs = [[float(v) for v in _run(path, env).split()] for _ in range(3)]
    up, visible, frame = (min(values) for values in zip(*runs, strict=True))
    return [
        Figure("window up", up, 1.5, "s", True, "imports included, offscreen, best of 3"),
        Figure("12 MP JPEG visible after opening", visible, 0.5, "s", True, "best of 3"),
        Figure(
            "longest frame panning 192 MP", frame, 16.0, "ms", True, "tiles arriving meanwhile, best of 3"
        ),
    ]


def _run(path: Path, env: dict[str, str]) -> str:
    return subprocess.run(
        [sys.executable, "-c", _SCRIPT, str(path)], env=env, capture_output=True, text=True, check=True
    ).stdout
