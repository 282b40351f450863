"""Many pictures through the window's queue, killed twice on the way."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.window import Window
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render
from wamplex.core.workflow.queue.journal import Journal, journal_path

COUNT = 40
_SCRIPT = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from wamplex.app.window.main_window import MainWindow
from wamplex.core.deliver.request.delivery import Delivery
folder, out, first = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3] == "first"
app = QApplication([])
window = MainWindow()
window.show()
window.workers.loader.pause(True)  # what would be measured is not asked for here
def turn():
    app.processEvents()
    time.sleep(0.002)
if first:
    window.take_in([folder])
    while len(window.tray.usable) < {count}:
        turn()
    for entry in window.tray.entries:
        window.tray.set_trials(entry.number, entry.trials.stamp("A"))
    window.deliver_step.panel.use(Delivery(format="png", depth=8, folder=out))
    window.deliver_step.deliver_all()
    while len(window.jobs.rows) < {count}:
        turn()
else:
    window.delivery.take_up()
while window.jobs.open:
    turn()
window.close()
"""


def begun(folder: Path, out: Path, which: str) -> subprocess.Popen[bytes]:
    script = _SCRIPT.replace("{count}", str(COUNT))
    return subprocess.Popen([sys.executable, "-c", script, str(folder), str(out), which])


def kill_at(process: subprocess.Popen[bytes], out: Path, count: int) -> None:
    end = time.monotonic() + 300
    while len(list(out.glob("*.png"))) < count and time.monotonic() < end:
        time.sleep(0.005)
    process.send_signal(signal.SIGKILL)
    process.wait()


@pytest.mark.slow
def test_killed_twice_on_the_way_there_are_all_files_once_and_right(tmp_path: Path) -> None:
    folder, out = tmp_path / "in", tmp_path / "out"
    folder.mkdir()
    out.mkdir()
    random = np.random.default_rng(5)
    for number in range(COUNT):
        pixels = random.integers(0, 255, (24, 32, 3), np.uint8)
        Image.fromarray(pixels).save(folder / f"p{number:03}.png")
    kill_at(begun(folder, out, "first"), out, 10)
    kill_at(begun(folder, out, "next"), out, 24)
    assert begun(folder, out, "next").wait(timeout=300) == 0
    assert sorted(path.name for path in out.iterdir()) == [f"p{number:03}-4x.png" for number in range(COUNT)]
    assert Journal(journal_path()).jobs() == []
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"))
    for number in range(0, COUNT, 7):
        meant = render(read_picture(folder / f"p{number:03}.png"), recipe, Window(0, 0, 128, 96))
        written = np.asarray(Image.open(out / f"p{number:03}-4x.png"))
        np.testing.assert_allclose(written, np.rint(meant * 255), atol=1)
