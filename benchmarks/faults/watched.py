"""A watched folder of a thousand pictures on a failing disk: ``python -m benchmarks watched``.

A library that is loaded before all others (failing_disk.c; needs a C compiler) lets one in so many calls to the
file system fail, at every step: listing, opening, writing, naming, moving. The watch runs a few times, the last
time on a disk that works. Counted is what becomes of each picture.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.table import Figure
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

_SHIM = Path(__file__).with_name("failing_disk.c")
_COUNT, _DAMAGED_EVERY = 1000, 20
_SIZE_PX = (24, 18)
_RUNS, _ONE_IN = 4, 60
_LONGEST_S = 900


def watched_faults() -> list[Figure]:
    """Run the watch over a thousand pictures, and count what became of them after each run."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        _make(root)
        shim = root / "shim.so"
        subprocess.run(["cc", "-shared", "-fPIC", "-O1", "-o", shim, _SHIM, "-ldl"], check=True)
        counts: Counter[str] = Counter()
        for seed in range(_RUNS):
            log = _watch(root, {"LD_PRELOAD": str(shim), "SHIM_SEED": str(seed)})
            counts += _faults_of(root, log)
        failures = (root / "faults.log").stat().st_size
        log = _watch(root, {})
        counts += _faults_of(root, log)
        waiting = len(_pictures(root / "work" / "in"))
        done, failed = (len(_pictures(root / "work" / "in" / where)) for where in ("done", "failed"))
        damaged = len(range(0, _COUNT, _DAMAGED_EVERY))
        wrong = [path for path in _pictures(root / "work" / "in" / "failed") if int(path.stem[1:5]) % _DAMAGED_EVERY]
        for path in wrong:
            print(path.with_name(f"{path.name}.txt").read_text(), file=sys.stderr)
    detail = f"{failures} calls failed in {_RUNS} runs; in the end {done} done, {failed} failed"
    names = ("tracebacks", "watches that ended early", "pictures lost or in two places", "results missing or twice")
    return [
        *(Figure(f"watched folder on a failing disk: {name}", counts[name], 0, "", True, "") for name in names),
        Figure("failed without a reason beside it", counts["no reason"], 0, "", True, ""),
        Figure("good pictures called failed", len(wrong), 0, "", True, f"{damaged} were damaged"),
        Figure("pictures left when the disk works again", waiting, 0, "", True, detail),
    ]


def _make(root: Path) -> None:
    (root / "work" / "in").mkdir(parents=True)
    chance = np.random.default_rng(1)
    for number in range(_COUNT):
        path = root / "work" / "in" / f"p{number:04}.png"
        Image.fromarray(chance.integers(0, 255, (*_SIZE_PX[::-1], 3), np.uint8)).save(path)
        if number % _DAMAGED_EVERY == 0:
            path.write_bytes(path.read_bytes()[:200])
        os.utime(path, (1, 1))
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)
    (root / "recipe.json").write_text(recipe.model_dump_json())


def _watch(root: Path, shim: dict[str, str]) -> str:
    words = ["watch", f"{root}/work/in", "--recipe", f"{root}/recipe.json", "--out", f"{root}/work/out", "--once"]
    variables = {
        **os.environ,
        **{f"XDG_{name}_HOME": f"{root}/state/{name.lower()}" for name in ("DATA", "CONFIG", "STATE", "CACHE")},
        **{"SHIM_ROOT": f"{root}/work", "SHIM_EVERY": str(_ONE_IN), "SHIM_LOG": f"{root}/faults.log"},
        **shim,
    }
    command = [sys.executable, "-m", "wamplex", *words, "--format", "png"]
    done = subprocess.run(command, env=variables, capture_output=True, text=True, check=False, timeout=_LONGEST_S)
    return f"{done.stdout}{done.stderr}\nexit {done.returncode}"


def _faults_of(root: Path, log: str) -> Counter[str]:
    """What went wrong in a run."""
    places = Counter(path.name for where in ("in", "in/done", "in/failed") for path in _pictures(root / "work" / where))
    results = Counter(re.sub(r"\D*(\d{4}).*", r"\1", path.name) for path in _pictures(root / "work" / "out"))
    done = {path.stem[1:5] for path in _pictures(root / "work" / "in" / "done")}
    code = int(log.rsplit("exit ", 1)[1])
    unexplained = [p for p in _pictures(root / "work" / "in" / "failed") if not p.with_name(f"{p.name}.txt").exists()]
    found = Counter[str]()
    found["tracebacks"] = log.count("Traceback")
    found["watches that ended early"] = code not in (0, 1)
    found["pictures lost or in two places"] = abs(_COUNT - len(places)) + sum(n > 1 for n in places.values())
    found["results missing or twice"] = len(done - results.keys()) + sum(n > 1 for n in results.values())
    found["no reason"] = len(unexplained)
    for name, count in found.items():
        if count:
            print(f"{name}: {count}", log[-3000:], sep="\n", file=sys.stderr)
    return found


def _pictures(folder: Path) -> list[Path]:
    return sorted(folder.glob("*.png")) if folder.exists() else []
