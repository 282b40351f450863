"""Pictures on a disk that is slow, fails in the middle, or stops: ``python -m benchmarks slow-disk``.

A file system in user space (FUSE; needs fusepy, libfuse 2 and the right to mount) shows a folder of pictures. Reads
of a file take their time, fail after so many bytes, or fail now and then. Commands and the window read from there.
"""

from __future__ import annotations

import errno
import os
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure

_SIZE_PX = (800, 600)
_SUFFIXES = ("jpg", "png", "tif", "webp", "dng")
_FATES = ("slow", "fails", "flickers")
_LONGEST_S = 60.0
_WINDOW = """
import sys, time
from pathlib import Path
from wamplex.core.workflow.decoding.decoding_client import decode_in_worker
with decode_in_worker():
    from wamplex.app.startup.start import make_window
    app, window = make_window()
    window.show()
    for _ in range(20):
        app.processEvents()
    window.take_in([Path(path) for path in sys.argv[1:]])
    end, longest = time.monotonic() + 60, 0.0
    while time.monotonic() < end and any(not e.info.error and e.info.header is None for e in window.tray.entries):
        begun = time.perf_counter()
        app.processEvents()
        longest = max(longest, time.perf_counter() - begun)
        time.sleep(0.002)
    infos = [entry.info for entry in window.tray.entries]
    print(sum(info.header is not None for info in infos), sum(bool(info.error) for info in infos), longest, flush=True)
    window.end(asked=False)
"""


def slow_disk() -> list[Figure]:
    """Read pictures of each kind from each disk."""
    with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as home:
        root, at = Path(folder) / "files", Path(folder) / "disk"
        root.mkdir()
        at.mkdir()
        _make(root)
        variables = {**os.environ, "HOME": home, "QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": home}
        traces, hangs, signals, wrong, longest_turn = 0, 0, 0, [], 0.0
        for fate in _FATES:
            with _disk(root, at, fate):
                for path in sorted(at.iterdir()):
                    for words in (["info"], ["assess"]):
                        code, text = _run([*words, str(path)], variables)
                        traces += "Traceback" in text
                        if "Traceback" in text:
                            print(fate, path.name, text, file=sys.stderr)
                        hangs += code == errno.ETIMEDOUT
                        signals += code < 0
                        if (code != 0) and fate == "slow":
                            wrong.append(f"{fate} {path.name}: {text[-200:]}")
                begun = [sys.executable, "-c", _WINDOW, *map(str, sorted(at.iterdir()))]
                done = subprocess.run(begun, env=variables, capture_output=True, text=True, check=False, timeout=120)
                traces += done.stderr.count("Traceback")
                if "Traceback" in done.stderr:
                    print(fate, done.stderr, file=sys.stderr)
                signals += done.returncode < 0
                shown, refused, turn = done.stdout.split() or ("0", "0", "0")
                longest_turn = max(longest_turn, float(turn))
                if int(shown) + int(refused) != len(_SUFFIXES) or (fate == "slow" and refused != "0"):
                    wrong.append(f"window, {fate}: {shown} shown, {refused} refused")
    return [
        Figure("tracebacks on a slow or failing disk", traces, 0, "", True, ", ".join(_FATES)),
        Figure("commands that hang or crash there", hangs + signals, 0, "", True, ""),
        Figure("pictures neither read nor refused in words", len(wrong), 0, "", True, "; ".join(wrong)),
        Figure("longest turn of the window meanwhile", longest_turn * 1000, None, "ms", True, ""),
    ]


def _make(root: Path) -> None:
    for suffix in _SUFFIXES:
        path = root / f"a.{suffix}"
        if suffix == "dng":
            from tests.cameras import chart, raw_file

            raw_file(path, chart(640, 480))
        else:
            Image.fromarray(photo_like(*_SIZE_PX)).save(path)


def _run(words: list[str], variables: dict[str, str]) -> tuple[int, str]:
    command = [sys.executable, "-m", "wamplex", *words]
    try:
        done = subprocess.run(command, env=variables, capture_output=True, text=True, check=False, timeout=_LONGEST_S)
    except subprocess.TimeoutExpired:
        return errno.ETIMEDOUT, ""
    return done.returncode, done.stdout + done.stderr


@contextmanager
def _disk(root: Path, at: Path, fate: str) -> Iterator[None]:
    """Show ``root`` at another place in a process of its own, until the end."""
    words = [sys.executable, "-m", "benchmarks.faults.slow_disk", str(root), str(at), fate]
    process = subprocess.Popen(words)
    while not at.is_mount():
        time.sleep(0.05)
    try:
        yield
    finally:
        subprocess.run(["fusermount", "-u", "-z", str(at)], check=False)
        process.wait(30)


def _serve(root: str, at: str, fate: str) -> None:
    from fuse import FUSE, FuseOSError, Operations

    class Disk(Operations):  # type: ignore[misc]
        """Passes reads on, late or not at all."""

        reads = 0

        def getattr(self, path: str, fh: object = None) -> dict[str, float]:
            """As the file has them."""
            status = os.lstat(root + path)
            return {name: getattr(status, name) for name in ("st_mode", "st_size", "st_mtime", "st_ctime", "st_nlink")}

        def readdir(self, path: str, fh: object) -> list[str]:
            """As the folder has them."""
            return [".", "..", *os.listdir(root + path)]

        def open(self, path: str, flags: int) -> int:
            """Open it."""
            return os.open(root + path, flags)

        def read(self, path: str, size: int, offset: int, fh: int) -> bytes:
            """Read late, or fail."""
            Disk.reads += 1
            if fate == "slow":
                time.sleep(0.2)
            if (fate == "fails" and offset + size > 20_000) or (fate == "flickers" and random.random() < 0.3):
                raise FuseOSError(errno.EIO)
            return os.pread(fh, size, offset)

        def release(self, path: str, fh: int) -> int:
            """Close it."""
            os.close(fh)
            return 0

    # One read at a time, and none from the kernel's memory.
    FUSE(Disk(), at, foreground=True, nothreads=True, direct_io=True, ro=True)


if __name__ == "__main__":
    _serve(*sys.argv[1:])
