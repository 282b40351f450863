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
from wamplex.core.workflow.projects.project import Project, open_project, save_project

_KILLS = 100
_MOST_TRIES = 200
_SOURCE_PX, _FACTOR = (1000, 800), 4  # large enough that writing takes longer than starting
_LONGEST_WAIT_S = 0.8
_SAVER = """
import sys
from pathlib import Path
from wamplex.core.workflow.projects.project import Project, SavedPicture, save_project
from wamplex.core.model.recipe import Recipe
path = Path(sys.argv[1])
recipe = Recipe().model_dump_json()
for turn in range(10_000):
    one = SavedPicture(path=Path("/p/a.png"), recipe=Recipe(), viewing_distance_mm=1.0 + turn)
    pictures = (one,) * 200
    save_project(Project(pictures=pictures), path)
    print(turn, flush=True)
"""


def faults() -> list[Figure]:
    """Kill -9 in the middle of exports and of saving projects."""
    return [*_exports(), *_saves()]


def _exports() -> list[Figure]:
    """Orders exports and kills each once its file has begun, until so many were killed before they ended."""
    chance = random.Random(1)
    result_px = (_SOURCE_PX[0] * _FACTOR, _SOURCE_PX[1] * _FACTOR)
    killed, ordered, half = 0, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        source = root / "source.png"
        Image.fromarray(photo_like(*_SOURCE_PX)).save(source)
        variables = {**os.environ, "XDG_STATE_HOME": str(root / "state")}
        while killed < _KILLS and ordered < _MOST_TRIES:
            target = root / "out" / f"{ordered}.{('tif', 'png', 'jpg')[ordered % 3]}"
            _kill_export(source, target, variables, chance.uniform(0.0, _LONGEST_WAIT_S))
            ordered += 1
            killed += not target.exists()
            half += target.exists() and not _is_whole(target, result_px)
        resume = [sys.executable, "-m", "wamplex", "resume"]
        subprocess.run(resume, env=variables, check=False, capture_output=True)
        files = [path for path in (root / "out").iterdir() if not path.is_dir()]
        begun = [path for path in files if path.name.endswith(".part") or path.name.startswith(".")]
        made = [path for path in files if path not in begun]
        half += sum(not _is_whole(path, result_px) for path in made)
    detail = f"{killed} of {ordered} orders were killed while their file was being written"
    return [
        Figure("files of killed exports not made after all", max(0, ordered - len(made)), 0, "", True, ""),
        Figure("files of killed exports made twice", max(0, len(made) - ordered), 0, "", True, ""),
        Figure("half files after kill -9 in an export", half, 0, "", True, detail),
        Figure("leftovers after the next start", len(begun), 0, "", True, ""),
    ]


def _kill_export(source: Path, target: Path, variables: dict[str, str], wait_s: float) -> None:
    """Order an export and kill it, some time after its file was begun."""
    words = ["enlarge", str(source), "--upscaler", "lanczos", "--factor", str(_FACTOR), "--out", str(target)]
    before = _begun(target.parent)  # those of earlier kills lie there until the next start
    process = _started([sys.executable, "-m", "wamplex", *words], variables)
    while process.poll() is None and _begun(target.parent) == before:
        time.sleep(0.002)
    time.sleep(wait_s)
    process.kill()
    process.wait()


def _begun(folder: Path) -> int:
    """How many files have been begun under their temporary names."""
    return sum(path.suffix == ".part" for path in folder.iterdir()) if folder.exists() else 0


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
                kept = open_project(path)[0].pictures[0].viewing_distance_mm - 1.0
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
