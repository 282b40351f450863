"""A thousand pictures in the tray: how soon they are there, what they take, how quick the window stays."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from benchmarks.window import _environment

_COUNT = 1000
# A whole step changes when another picture is selected.
_FRAME_MS, _SELECTING_MS = 16.0, 50.0
_TURNS = (
    "of the window while they come",
    "while they are measured (20 s of it)",
    "while the tray is scrolled",
    "while others are selected",
    "while one is panned (linked, others are measured)",
    "while one is painted on",
    "while they are delivered (20 s of it)",
)
_SCRIPT = """
import os, sys, threading, time
from pathlib import Path
import psutil
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from wamplex.app.startup.start import make_window
from wamplex.app.window.main_window import DELIVER, FINISH, TRIAL
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.trial_spec import TrialSpec
from benchmarks.machine_pauses import MachinePauses, Turn, longest as longest_of
app, window = make_window()
window.show()
window.workers.loader.pause(True)
app.processEvents()
me, peak, beside, turns = psutil.Process(), [0], [0], []
machine = MachinePauses()
empty = me.memory_info().rss
seen = [0.0]
def helpers():
    if time.perf_counter() > seen[0] + 1:
        taken = [p.memory_info().rss for p in me.children() if ".serve" in " ".join(p.cmdline())]
        beside[0] = max(beside[0], sum(taken))
        seen[0] = time.perf_counter()
def turn(seconds=0.0, until=lambda: False):
    end = time.perf_counter() + seconds
    while time.perf_counter() < end and not until():
        one = Turn()
        app.processEvents()
        turns.append(one.over())
        peak[0] = max(peak[0], me.memory_info().rss)
        helpers()
        time.sleep(0.001)
def longest():
    found = longest_of(turns, machine.seen())
    turns.clear()
    return found
begun = time.perf_counter()
window.take_in([Path(sys.argv[1])])
listed = time.perf_counter() - begun
turn(400, lambda: len(window.tray.usable) == 1000)
looked, arriving = time.perf_counter() - begun, longest()
held = peak[0]
window.workers.loader.pause(False)
turn(20)
measuring = longest()
bar = window.tray_view.list.verticalScrollBar()
for place in range(0, bar.maximum(), max(1, bar.maximum() // 60)):
    bar.setValue(place)
    turn(0.02)
scrolling = longest()
for number in range(0, 1000, 90):
    window.tray.select(number)
    turn(0.3)
selecting = longest()
measured, measurer = peak[0], beside[0]
window.trial_step.show_view("linked")
window.open_step(TRIAL)
turn(6)
turns.clear()
for place in range(90):
    window.trial_step.viewport.move_to(0.3 + place / 300, 0.5)
    turn(0.016)
panning = longest()
window.open_step(FINISH)
step, pane = window.finish_step, window.finish_step.pane
step.viewport.set_zoom(1.0)
step.add_layer(TrialSpec(upscaler="burin"))
turn(6)
turns.clear()
start = QPoint(150, 250)
QTest.mousePress(pane, Qt.MouseButton.LeftButton, pos=start)
for place in range(120):
    QTest.mouseMove(pane, start + QPoint(2 * place, place % 40))
    turn(0.016)
QTest.mouseRelease(pane, Qt.MouseButton.LeftButton, pos=start)
painting = longest()
window.open_step(DELIVER)
window.deliver_step.panel.use(Delivery(format="jpeg", folder=Path(sys.argv[2])))
turn(1)
turns.clear()
begun = time.perf_counter()
window.deliver_step.deliver_all()
ordering = (time.perf_counter() - begun) * 1000
turn(20)
delivering = longest()
machine.end()
memory = (empty, held, measured, measurer, peak[0], beside[0])
print(listed, looked, ordering, *(b / 1e6 for b in memory),
      *arriving, *measuring, *scrolling, *selecting, *panning, *painting, *delivering)
sys.stdout.flush()
os._exit(0)
"""


def thousand() -> list[Figure]:
    """Taking in a folder of 1000 JPEGs of 2 MP, and working on while they are measured."""
    with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as home:
        picture = Image.fromarray(photo_like(1600, 1200))
        for number in range(_COUNT):
            picture.save(Path(folder) / f"p{number:04}.jpg", quality=85)
        done = subprocess.run(
            [sys.executable, "-c", _SCRIPT, folder, home],
            env={**_environment(), **_as_new(Path(home))},
            capture_output=True,
            text=True,
            check=True,
        )
    values = [float(value) for value in done.stdout.split()]
    listed, looked, ordering, empty, held, measured, measurer, peak, beside, *longest = values
    turns = [
        _turn(words, alone, every, own)
        for words, alone, every, own in zip(_TURNS, longest[::3], longest[1::3], longest[2::3], strict=True)
    ]
    return [
        Figure("1000 pictures listed", listed, 1.0, "s", True, ""),
        Figure("1000 pictures with their thumbnails", looked, None, "s", True, ""),
        *turns,
        Figure("ordering files of all thousand", ordering, None, "ms", True, "asked for once"),
        Figure("memory with a thousand in the tray", held, 500.0, "MB", True, f"{empty:.0f} MB when empty"),
        Figure("memory while they are measured", measured, 500.0, "MB", True, f"{measurer:.0f} MB beside it"),
        Figure("memory while files are made", peak, None, "MB", True, f"two at a time, {beside:.0f} MB beside it"),
    ]


def _turn(words: str, alone: float, every: float, own: float) -> Figure:
    detail = f"{own:.0f} of work at most"
    if every != alone:
        detail += f"; {every:.0f} with what the computer itself took"
    bound = _SELECTING_MS if "selected" in words else _FRAME_MS
    return Figure(f"longest turn {words}", alone, bound, "ms", True, detail)


def _as_new(home: Path) -> dict[str, str]:
    """Without what earlier runs left: small pictures, settings, and folders where results may lie."""
    return {f"XDG_{name}_HOME": str(home / name.lower()) for name in ("DATA", "CONFIG", "STATE", "CACHE")}
