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

# A machine that is shared has slow spells of many seconds.
_RUNS = 6
_BEST = f"best of {_RUNS}"
_SCRIPT = """
import sys, time
begun = time.perf_counter()
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
from wamplex.app.window.main_window import TRIAL
window.show()
app.processEvents()
window.grab()
up = time.perf_counter() - begun
begun = time.perf_counter()
window.take_in([Path(sys.argv[1])])
while not window.assess_step.view.showing:
    app.processEvents()
    time.sleep(0.001)
window.grab()
visible = time.perf_counter() - begun
window.trial_step.show_view("linked")
window.open_step(TRIAL)
def wait(seconds):
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        app.processEvents()
        time.sleep(0.005)
def pan(top):
    longest, most = 0.0, 0.0
    for i in range(60):
        begun, worked = time.perf_counter(), time.thread_time()
        window.trial_step.viewport.move_to(0.3 + i / 300, top)
        app.processEvents()
        longest = max(longest, time.perf_counter() - begun)
        most = max(most, time.thread_time() - worked)
    return longest * 1000, most * 1000
wait(0.25)
at_once, _ = pan(0.4)
while not window.tray.entries[0].spots:
    wait(0.1)
wait(0.25)
print(up, visible, at_once, *pan(0.6))
window.close()
"""


def start() -> list[Figure]:
    """Process start to painted window; opening a 12 MP JPEG to seeing it; a frame while panning."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "photo.jpg"
        Image.fromarray(photo_like(4000, 3000)).save(path, quality=92)
        env = _environment()
        runs = [[float(v) for v in _run(path, env).split()] for _ in range(_RUNS)]
    up, visible, at_once, frame, work = (min(values) for values in zip(*runs, strict=True))
    return [
        Figure("window up", up, 1.0, "s", True, f"imports included, offscreen, {_BEST}"),
        Figure("12 MP JPEG visible after opening", visible, 0.5, "s", True, _BEST),
        Figure("longest frame panning 192 MP", frame, 16.0, "ms", True, f"tiles arriving meanwhile, {_BEST}"),
        Figure("the same while the picture is measured", at_once, 16.0, "ms", True, _BEST),
        Figure("the window's own work in a frame, at most", work, None, "ms", True, _BEST),
    ]


def _environment() -> dict[str, str]:
    """As on a user's machine, where what Python compiled once is kept."""
    kept = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    return {**kept, "QT_QPA_PLATFORM": "offscreen"}


def _run(path: Path, env: dict[str, str], script: str = _SCRIPT) -> str:
    return subprocess.run(
        [sys.executable, "-c", script, str(path)], env=env, capture_output=True, text=True, check=True
    ).stdout


_SHEET_SCRIPT = """
import sys, time
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
from wamplex.app.window.main_window import TRIAL
window.show()
window.take_in([Path(sys.argv[1])])
while not window.tray.entries or not window.tray.entries[0].spots:
    app.processEvents()
    time.sleep(0.001)
entry = window.tray.entries[0]
trials = entry.trials
for key in ("contour", "bilinear"):
    trials = trials.add(key)
window.tray.set_trials(0, trials)
window.tray.set_spots(0, entry.spots[:5])
step = window.trial_step
step.show_view("sheet")
window.resize(1280, 900)
begun = time.perf_counter()
window.open_step(TRIAL)
first = None
while True:
    app.processEvents()
    keys = [key for _, _, key in step.open_view.needed_tiles()]
    there = sum(step.cache.get(key) is not None for key in keys)
    if there and first is None:
        first = time.perf_counter() - begun
    if keys and there == len(keys):
        break
    time.sleep(0.001)
print(first, time.perf_counter() - begun, len(keys))
window.close()
"""


def sheet() -> list[Figure]:
    """A proof sheet of a 12 MP picture at 4x: the first cell, and all of them."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "photo.jpg"
        Image.fromarray(photo_like(4000, 3000)).save(path, quality=97)
        env = _environment()
        runs = [[float(v) for v in _run(path, env, _SHEET_SCRIPT).split()] for _ in range(_RUNS)]
    first, whole, cells = (min(values) for values in zip(*runs, strict=True))
    detail = f"{cells:.0f} cells, 12 MP at 4x, the picture being read as well; {_BEST}"
    return [
        Figure("first cell of a proof sheet", first, 0.3, "s", True, detail),
        Figure("whole proof sheet", whole, 3.0, "s", True, detail),
    ]


_PAUSE_SCRIPT = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QTimer
from wamplex.app.startup.start import make_window
from wamplex.app.window.main_window import ASSESS, DELIVER, SIZE, TRIAL
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
app, window = make_window()
window.show()
window.take_in([Path(sys.argv[1])])
entry = window.tray.entries[0]
while entry.suggested is None:
    app.processEvents()
    time.sleep(0.001)
longest, last = 0.0, time.perf_counter()
def beat():
    global longest, last
    now = time.perf_counter()
    longest, last = max(longest, now - last), now
timer = QTimer()
timer.timeout.connect(beat)
timer.start(2)
def settle(seconds):
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        app.processEvents()
        time.sleep(0.001)
tray = window.tray
for step in (ASSESS, SIZE, TRIAL, DELIVER):
    window.open_step(step)
    settle(0.3)
    for act in (
        lambda: tray.set_framing(0, Framing(turns=1, straighten_deg=2)),
        lambda: tray.set_sheet(0, Sheet(width_mm=210, height_mm=297, margin_mm=10)),
        lambda: tray.set_trials(0, entry.trials.add("contour")),
        tray.undo, tray.undo, tray.undo,
    ):
        act()
        settle(0.2)
print(1000 * longest)
window.close()
"""


def pauses() -> list[Figure]:
    """The longest the window did not answer while decisions were made in every step."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "photo.jpg"
        Image.fromarray(photo_like(4000, 3000)).save(path, quality=92)
        longest = min(float(_run(path, _environment(), _PAUSE_SCRIPT)) for _ in range(3))
    return [Figure("longest pause of the window, all steps", longest, None, "ms", True, "best of 3")]


def run_script(script: str, path: Path) -> str:
    """What a script with a window prints that is given a file, in a fresh process."""
    return _run(path, _environment(), script)
