"""Breaks the work at random moments: no half file, no leftover, no lost decision."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.core.project import Project, open_project, save_project

_KILLS = 100
_SAVER = """
import sys
from pathlib import Path
from wamplex.core.project import Project, SavedPicture, save_project
from wamplex.core.recipe import Recipe
path = Path(sys.argv[1])
recipe = Recipe().model_dump_json()
for turn in range(10_000):
    one = SavedPicture(path=Path("/p/a.png"), recipe=Recipe(), seen_from_mm=1.0 + turn)
    pictures = (one,) * 200
    save_project(Project(pictures=pictures), path)
    print(turn, flush=True)
"""


def faults() -> list[Figure]:
    """Kill -9 in the middle of exports and of saving projects."""
    return [*_exports(), *_saves()]


def _exports() -> list[Figure]:
    chance = random.Random(1)
    half, leftover, done = 0, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        source = root / "source.png"
        Image.fromarray(photo_like(500, 400)).save(source)
        variables = {**os.environ, "XDG_STATE_HOME": str(root / "state")}
        for turn in range(_KILLS):
            kind = ("tif", "png", "jpg")[turn % 3]
            target = root / "out" / f"{turn}.{kind}"
            words = ["enlarge", str(source), "--upscaler", "lanczos", "--factor", "6", "--out", str(target)]
            process = _started([sys.executable, "-m", "wamplex", *words], variables)
            # From the first band to well after the end of a whole run.
            end = time.monotonic() + 30
            while time.monotonic() < end and process.poll() is None and not _begun(root / "out", turn):
                time.sleep(0.005)
            time.sleep(chance.uniform(0.0, 0.3))
            process.kill()
            process.wait()
            if target.exists():
                done += 1
                half += not _is_whole(target, (3000, 2400))
        resume = [sys.executable, "-m", "wamplex", "resume"]
        subprocess.run(resume, env=variables, check=False, capture_output=True)
        files = [path for path in (root / "out").iterdir() if not path.is_dir()]
        leftover = sum(path.name.endswith(".part") or path.name.startswith(".") for path in files)
        missing = _KILLS - sum(not path.name.startswith(".") for path in files)
        half += sum(not _is_whole(path, (3000, 2400)) for path in files if not path.name.startswith("."))
    detail = f"{_KILLS} kills; {done} files were there already, {missing} were never ordered"
    return [
        Figure("half files after kill -9 in an export", half, 0, "", True, detail),
        Figure("leftovers after the next start", leftover, 0, "", True, ""),
    ]


def _begun(folder: Path, turn: int) -> bool:
    return folder.exists() and any(f"{turn}." in path.name for path in folder.iterdir())


def _is_whole(path: Path, size: tuple[int, int]) -> bool:
    try:
        with Image.open(path) as image:
            image.load()
            return image.size == size
    except OSError:
        return False


def _saves() -> list[Figure]:
    chance = random.Random(2)
    lost = 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "work.wamplex"
        for _ in range(_KILLS):
            process = _started([sys.executable, "-c", _SAVER, str(path)], None, stdout=subprocess.PIPE)
            assert process.stdout is not None
            saved = int(process.stdout.readline())
            time.sleep(chance.uniform(0.0, 0.3))
            process.kill()
            rest = process.stdout.read().split()
            process.wait()
            saved = int(rest[-1]) if rest and rest[-1].isdigit() else saved
            try:
                kept = open_project(path)[0].pictures[0].seen_from_mm - 1.0
                lost += kept < saved
            except Exception as error:
                print(error, file=sys.stderr)
                lost += 1
        save_project(Project(), path)
        leftovers = sum(1 for other in Path(folder).iterdir() if other != path)
    return [
        Figure("projects lost or older than what was said to be saved", lost, 0, "", True, f"{_KILLS} kills"),
        Figure("leftovers of killed saves after another save", leftovers, 0, "", True, ""),
    ]


def _started(
    words: list[str], variables: dict[str, str] | None, stdout: int = subprocess.DEVNULL
) -> subprocess.Popen[str]:
    return subprocess.Popen(words, env=variables, stdout=stdout, stderr=subprocess.DEVNULL, text=True)
