"""Whatever asks the program to stop, it stops at its next check and leaves nothing."""

from __future__ import annotations

import hashlib
import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.commands.stopping import Stopping
from wamplex.core.base.progress import Progress
from wamplex.core.workflow.projects.project import open_project
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.recovery import recover_jobs

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
    noise = np.random.default_rng(1).integers(0, 256, (600, 800, 3), dtype=np.uint8)
    sources = [tmp_path / f"{name}.png" for name in ("one", "two")]
    for source in sources:
        Image.fromarray(noise).save(source, compress_level=1)
    out = tmp_path / "out"
    kind = {"png": "png", "tif": "tiff", "jpg": "jpeg"}[suffix]
    words = ["--upscaler", "lanczos", "--factor", "8", "--out", str(out), "--format", kind]
    command = [sys.executable, "-m", "wamplex", "enlarge", *map(str, sources), *words]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    end = time.monotonic() + 100
    while time.monotonic() < end and not list(out.glob(".*.part")):
        time.sleep(0.01)
    process.send_signal(number)
    assert process.wait(timeout=60) == code
    assert sorted(path.name for path in tmp_path.iterdir()) == ["one.png", "two.png"]


def test_a_signal_is_heard_while_the_first_thread_is_inside_a_library() -> None:
    """As it is for as long as libvips writes a file."""
    progress, heard = Progress(), threading.Event()
    inside, outside = threading.Event(), threading.Event()

    def ask() -> None:
        inside.wait()
        os.kill(os.getpid(), signal.SIGTERM)
        while not outside.is_set() and not heard.is_set():
            if progress.cancelled:
                heard.set()
            time.sleep(0.005)

    with Stopping() as stopping, stopping.cancels(progress):
        asking = threading.Thread(target=ask)
        asking.start()
        inside.set()
        hashlib.pbkdf2_hmac("sha256", b"a", b"b", 3_000_000)  # a second without Python
        outside.set()
        asking.join()
    assert heard.is_set()
    assert stopping.exit_code == 143


_WINDOW = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from wamplex.app.startup import start
from wamplex.app.window import main_window
from wamplex.core.geometry.size import Size

class Busy(main_window.MainWindow):
    def take_in(self, paths):
        super().take_in(paths)
        QTimer.singleShot(100, self.decide)

    def decide(self):
        entry = self.tray.current
        if entry is None or entry.size is None:
            return QTimer.singleShot(100, self.decide)
        self.tray.set_size(entry.number, entry.size.with_factor(8.0))
        self.deliver_step.panel.set_folder(Path(sys.argv[2]))
        self.deliver_step.deliver_one()
        QTimer.singleShot(300, lambda: print("at work", flush=True))

main_window.MainWindow = Busy
sys.exit(start.start_window([Path(sys.argv[1])], demo=False))
"""


@pytest.mark.parametrize(("number", "code"), [(signal.SIGTERM, 143), (signal.SIGHUP, 129), (signal.SIGINT, 130)])
def test_signals_end_the_window_and_keep_the_work(tmp_path: Path, number: signal.Signals, code: int) -> None:
    """Decisions lie in wait for the next start, and so does the file that was being made."""
    source = tmp_path / "a.png"
    noise = np.random.default_rng(1).integers(0, 256, (900, 1200, 3), dtype=np.uint8)
    Image.fromarray(noise).save(source, compress_level=1)
    state, out = tmp_path / "state", tmp_path / "out"
    variables = {**os.environ, "XDG_STATE_HOME": str(state), "QT_QPA_PLATFORM": "offscreen"}
    words = [sys.executable, "-c", _WINDOW, str(source), str(out)]
    process = subprocess.Popen(words, stdout=subprocess.PIPE, env=variables, text=True)
    assert process.stdout is not None
    assert process.stdout.readline() == "at work\n"
    process.send_signal(number)
    assert process.wait(timeout=60) == code
    assert not out.exists() or list(out.iterdir()) == []
    (kept,) = (state / "wamplex").glob("recovery-*.wamplex")
    (picture,) = open_project(kept)[0].pictures
    assert picture.recipe.factor == 8.0
    (job,) = recover_jobs(Journal(state / "wamplex" / "jobs.sqlite", owner="1"))
    assert job.recipe.factor == 8.0
