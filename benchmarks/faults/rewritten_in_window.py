"""Another program rewrites pictures while the window opens them: ``python -m benchmarks rewritten``.

The window runs in a process of its own, without a screen. In each round a picture is added to the tray, measured
and decoded while another process overwrites it in place with pieces of two pictures. Counted are the rounds after
which the window still answers, and shows the picture or says why it does not.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from benchmarks.window import _environment

_ROUNDS = 100
_SIZE_PX = (1600, 1200)
_REWRITER = """
import os, random, sys, time
chance = random.Random(int(sys.argv[1]))
target, *contents = sys.argv[2:]
contents = [open(path, "rb").read() for path in contents]
end = time.monotonic() + 1.0
while time.monotonic() < end:
    content = chance.choice(contents)
    with open(target, "r+b") as file:
        file.truncate(chance.randrange(len(content)))
        time.sleep(chance.uniform(0, 0.02))
        file.seek(0)
        file.write(content[: chance.randrange(len(content))])
        time.sleep(chance.uniform(0, 0.02))
        file.seek(0)
        file.write(content)
        file.truncate()
    time.sleep(chance.uniform(0, 0.05))
"""
_WINDOW = """
import shutil, subprocess, sys, threading, time
from pathlib import Path
from wamplex.core.workflow.decoding.decoding_client import decode_in_worker
folder, rounds, rewriter = Path(sys.argv[1]), int(sys.argv[2]), sys.argv[3]
def decode(window, source):
    try:
        window.store.get(source)
    except Exception as error:
        print("refused", error, file=sys.stderr)
with decode_in_worker():
    from wamplex.app.startup.start import make_window
    app, window = make_window()
    window.show()
    pairs = sorted(folder.glob("before.*"))
    for number in range(rounds):
        before = pairs[number % len(pairs)]
        target = folder / f"round{number}{before.suffix}"
        shutil.copy(before, target)
        command = [sys.executable, "-c", rewriter, str(number), target, before, before.with_stem("after")]
        other = subprocess.Popen([str(part) for part in command])
        added = window.tray.add([target])
        for entry in added:
            window.workers.loader.look(entry.path)
        end, decoding = time.monotonic() + 10, None
        while time.monotonic() < end:
            app.processEvents()
            info = next(e for e in window.tray.entries if e.path == target).info
            if info.header is not None and decoding is None:
                decoding = threading.Thread(target=decode, args=(window, info.header.source))
                decoding.start()
            if other.poll() is not None and (info.error or info.thumbnail is not None):
                break
            time.sleep(0.002)
        if decoding is not None:
            decoding.join()
        if info.error or info.thumbnail is not None:
            print("alive", "error" if info.error else "shown", info.error or "", flush=True)
    window.end(asked=False)
    print("ended", flush=True)
"""


def rewritten_in_window() -> list[Figure]:
    """A hundred pictures of four kinds, each rewritten for a second while it is opened."""
    with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as home:
        for stem, width in (("before", _SIZE_PX[0]), ("after", _SIZE_PX[0] // 2)):
            picture = Image.fromarray(photo_like(width, _SIZE_PX[1]))
            for suffix in ("jpg", "webp", "png", "tif"):
                picture.save(Path(folder) / f"{stem}.{suffix}")
        state = {f"XDG_{name}_HOME": f"{home}/{name.lower()}" for name in ("DATA", "CONFIG", "STATE", "CACHE")}
        done = subprocess.run(
            [sys.executable, "-c", _WINDOW, folder, str(_ROUNDS), _REWRITER],
            env={**os.environ, **_environment(), **state},
            capture_output=True,
            text=True,
            check=False,
        )
    lines = done.stdout.splitlines()
    alive = sum(line.startswith("alive") for line in lines)
    shown = sum(line.startswith("alive shown") for line in lines)
    if done.returncode:
        print(done.stderr[-2000:], file=sys.stderr)
    detail = f"{shown} shown, the others refused in words; exit code {done.returncode}"
    traces = done.stderr.count("Traceback")
    return [
        Figure("rounds of rewriting that the window outlived", alive, _ROUNDS, "", False, detail),
        Figure("tracebacks of the window while its sources are rewritten", traces, 0, "", True, ""),
    ]
