"""Many pictures: opened and closed, added at once, arriving slowly: ``python -m benchmarks many``."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

_LARGE, _LARGE_PX = 60, (6000, 4000)
_FLOOD = 5000
_ARRIVALS, _GROWING = 3000, 20
_SMALL_PX = (24, 18)
_OPEN_AND_CLOSE = """
import gc, os, sys, time
from pathlib import Path
import psutil
from PySide6.QtCore import QEvent
from wamplex.core.workflow.decoding.decoding_client import decode_in_worker
with decode_in_worker():
    from wamplex.app.startup.start import make_window
    from wamplex.app.window.main_window import ASSESS, TRIAL
    app, window = make_window()
    window.show()
    me, sizes, most = psutil.Process(), [], 0
    def until(true, seconds=120.0):
        end = time.monotonic() + seconds
        while not true() and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.005)
        return true()
    for path in sorted(Path(sys.argv[1]).iterdir()):
        window.take_in([path])
        entry = window.tray.entries[-1]
        assert until(lambda: entry.usable and entry.suggested is not None), path
        window.trial_step.show_view("linked")
        window.open_step(TRIAL)
        until(lambda: window.trial_step.cache.__len__() >= 4)
        most = max(most, me.memory_info().rss)
        window.open_step(ASSESS)
        window.tray.remove([entry.number])
        until(lambda: not window.tray.entries)
        for _ in range(20):
            app.processEvents()
            app.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as an event loop does by itself
            time.sleep(0.01)
        gc.collect()
        sizes.append(me.memory_info().rss / 1e6)
    window.end(asked=False)
print(sizes[1], sizes[-1], most / 1e6, *sizes, flush=True)
os._exit(0)
"""
_FLOOD_SCRIPT = """
import os, sys, time
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
window.show()
for _ in range(50):
    app.processEvents()
    time.sleep(0.01)
paths, turns = sorted(Path(sys.argv[1]).iterdir()), []
def turn(work=app.processEvents):
    begun = time.perf_counter()
    work()
    turns.append(time.perf_counter() - begun)
    time.sleep(0.001)
begun = time.perf_counter()
turn(lambda: window.take_in(paths))
while len(window.tray.entries) < len(paths):
    turn()
print(max(turns), time.perf_counter() - begun, flush=True)
os._exit(0)
"""


def many() -> list[Figure]:
    """Measure all three."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        return [*_open_and_close(root), *_flood(root), *_arrivals(root)]


def _variables(root: Path) -> dict[str, str]:
    homes = {f"XDG_{name}_HOME": f"{root}/home/{name.lower()}" for name in ("DATA", "CONFIG", "STATE", "CACHE")}
    return {**os.environ, **homes, "QT_QPA_PLATFORM": "offscreen"}


def _script(script: str, folder: Path, root: Path) -> list[float]:
    words = [sys.executable, "-c", script, str(folder)]
    done = subprocess.run(words, env=_variables(root), capture_output=True, text=True, check=False)
    if done.returncode:
        raise RuntimeError(done.stderr[-2000:])
    return [float(number) for number in done.stdout.split()]


def _open_and_close(root: Path) -> list[Figure]:
    folder = root / "large"
    folder.mkdir()
    Image.fromarray(photo_like(*_LARGE_PX)).save(folder / "p00.jpg", quality=85)
    for number in range(1, _LARGE):  # other files with the same content
        os.link(folder / "p00.jpg", folder / f"p{number:02}.jpg")
    first, last, most, *_ = _script(_OPEN_AND_CLOSE, folder, root)
    detail = f"{first:.0f} MB after two, {last:.0f} MB after {_LARGE}, {most:.0f} MB at most"
    return [Figure("growth after 60 pictures of 24 MP, opened and closed", last - first, 50.0, "MB", True, detail)]


def _flood(root: Path) -> list[Figure]:
    folder = root / "flood"
    folder.mkdir()
    Image.fromarray(photo_like(80, 64)).save(folder / "p0000.jpg")
    for number in range(1, _FLOOD):
        os.link(folder / "p0000.jpg", folder / f"p{number:04}.jpg")
    longest, listed = _script(_FLOOD_SCRIPT, folder, root)
    return [
        Figure("longest turn while 5,000 files are added", longest * 1000, 200.0, "ms", True, "4,900 before"),
        Figure("until they are all in the tray", listed, None, "s", True, ""),
    ]


def _arrivals(root: Path) -> list[Figure]:
    """Three thousand files at once, and twenty that grow while the folder is watched."""
    folder, out = root / "in", root / "out"
    folder.mkdir()
    Image.fromarray(photo_like(*_SMALL_PX)).save(root / "small.png")
    for number in range(_ARRIVALS):
        os.link(root / "small.png", folder / f"p{number:04}.png")
        os.utime(folder / f"p{number:04}.png", (1, 1))
    Image.fromarray(photo_like(400, 300)).save(root / "grows.png")
    (root / "recipe.json").write_text(Recipe(base=TrialSpec(upscaler="bicubic"), factor=2).model_dump_json())
    growing = threading.Thread(target=_grow, args=(folder, (root / "grows.png").read_bytes()))
    growing.start()
    words = ["watch", str(folder), "--recipe", f"{root}/recipe.json", "--out", str(out), "--once", "--format", "png"]
    begun = time.monotonic()
    command = [sys.executable, "-m", "wamplex", *words]
    done = subprocess.run(command, env=_variables(root), capture_output=True, text=True, check=False)
    growing.join()
    done = subprocess.run(command, env=_variables(root), capture_output=True, text=True, check=False)
    taken = time.monotonic() - begun
    made, failed = len(list(out.glob("*.png"))), len(list((folder / "failed").glob("*.png")))
    detail = f"{failed} failed, {done.stderr.count('Traceback')} tracebacks, {taken:.0f} s"
    missing = _ARRIVALS + _GROWING - made
    return [Figure("of 3,020 files in a watched folder not made", missing + failed, 0, "", True, detail)]


def _grow(folder: Path, content: bytes) -> None:
    """A tenth of each file every 0.7 s; each rests for less than a watched folder waits."""
    for part in range(10):
        for number in range(_GROWING):
            with (folder / f"g{number:02}.png").open("ab") as file:
                file.write(content[part * len(content) // 10 : (part + 1) * len(content) // 10])
        time.sleep(0.7)


if __name__ == "__main__":
    for figure in many():
        print(figure)
