"""Another program changes, removes or replaces a source while it is read: ``python -m benchmarks changing-sources``.

A library that is loaded before all others (changing_source.c; needs a C compiler) changes the source at each moment
at which a command opens it or copies a piece of it. Counted are tracebacks, signals, and results that show neither
the picture before nor the picture after.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.cli import app
from wamplex.core.base.errors import Cancelled, WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.folder_watch.process_arrival import WatchOptions, enlarge_one
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.recipe_transfer.sourced_recipe import SourcedRecipe

_SHIM = Path(__file__).with_name("changing_source.c")
_SIZE_PX = (160, 120)
_SUFFIXES = ("jpg", "png", "webp", "tif", "bmp", "gif", "jp2", "avif", "ppm", "jxl", "heic", "dng")
_FATES = ("gone", "short", "other", "swapped")
_MOST_MOMENTS = 12


def changing_sources() -> list[Figure]:
    """Run all cases in a process that the library is loaded into."""
    with tempfile.TemporaryDirectory() as folder:
        shim = Path(folder) / "shim.so"
        subprocess.run(["cc", "-shared", "-fPIC", "-O1", "-o", shim, _SHIM, "-ldl"], check=True)
        command = [sys.executable, "-m", "benchmarks.faults.changing_sources", "--inside", folder]
        variables = {**os.environ, "LD_PRELOAD": str(shim), "XDG_STATE_HOME": f"{folder}/state"}
        lines = subprocess.run(command, env=variables, check=True, capture_output=True, text=True).stdout.splitlines()
    counts = [int(text) for text in lines[-1].split()]
    names = ("cases", "tracebacks", "signals", "wrong contents")
    return [
        Figure(f"changing sources: {name}", float(count), None if name == "cases" else 0.0, "", True, "")
        for name, count in zip(names, counts, strict=True)
    ]


def _inside(folder: Path) -> None:
    counts = dict.fromkeys(("cases", "traceback", "signal", "wrong"), 0)
    for suffix in _SUFFIXES:
        for command in _COMMANDS:
            for name, verdict in _cases(folder / suffix, suffix, command):
                counts["cases"] += 1
                if verdict != "well":
                    counts[verdict] += 1
                    print(f"{name}: {verdict}", file=sys.stderr, flush=True)
    print(*counts.values())


def _cases(folder: Path, suffix: str, command: str) -> Iterator[tuple[str, str]]:
    before, after = folder / f"before.{suffix}", folder / f"after.{suffix}"
    if not before.exists():
        folder.mkdir(exist_ok=True)
        _write(before, 1)
        _write(after, 2)
    expected = [_result(folder, pixels, command)[1] for pixels in (before, after)]
    moments = _result(folder, before, command)[2]
    for moment in range(1, min(moments, _MOST_MOMENTS) + 1):
        for fate in _FATES:
            code, result, _ = _result(folder, before, command, moment, fate, after)
            verdict = "signal" if code < 0 else "traceback" if code == 99 else "well"
            if verdict == "well" and result is not None and result not in expected:
                verdict = "wrong"
            yield f"{command} {suffix} {fate} at {moment}", verdict


def _result(
    folder: Path, content: Path, command: str, moment: int = 0, fate: str = "none", other: Path | None = None
) -> tuple[int, bytes | None, int]:
    """Exit code, bytes of the written pixels if any, and how many moments there were."""
    with tempfile.TemporaryDirectory(dir=folder) as place:
        source = Path(place) / f"source{content.suffix}"
        source.write_bytes(content.read_bytes())
        os.utime(source, (1, 1))  # no time to wait for
        out, log = Path(place) / "out", Path(place) / "log"
        shim = {"SHIM_PATH": source, "SHIM_AT": moment, "SHIM_FATE": fate, "SHIM_OTHER": other or "", "SHIM_LOG": log}
        child = os.fork()
        if child == 0:
            os.environ.update({name: str(value) for name, value in shim.items()})
            _run(source, command, out)
        _, status = os.waitpid(child, 0)
        files = sorted(out.glob("*.png"))
        pixels = np.asarray(Image.open(files[0])).tobytes() if files else None
        moments = log.read_text().count("open") if log.exists() else 0
        return os.waitstatus_to_exitcode(status), pixels, moments


def _run(source: Path, command: str, out: Path) -> None:
    """The child: a command, quietly; 99 for an error that is none of the program's own."""
    null = os.open(os.devnull, os.O_WRONLY)
    os.dup2(null, 1)
    os.dup2(null, 2)
    out.mkdir()
    try:
        _COMMANDS[command](source, out)
    except SystemExit as end:
        os._exit(end.code if isinstance(end.code, int) else 0)
    except (WamplexError, Cancelled):
        os._exit(1)
    except BaseException:
        (out.parent.parent / "traceback.txt").write_text(traceback.format_exc())
        os._exit(99)
    os._exit(0)


def _enlarge(source: Path, out: Path) -> None:
    app(["enlarge", str(source), "--factor", "2", "--upscaler", "bicubic", "--out", f"{out}/x.png"])


def _watch(source: Path, out: Path) -> None:
    recipe = SourcedRecipe(Recipe(base=TrialSpec(upscaler="bicubic"), factor=2))
    options = WatchOptions(recipe, Delivery(format="png", folder=out))
    enlarge_one(source, options, Journal(journal_path()), Progress())


_COMMANDS: dict[str, Callable[[Path, Path], object]] = {
    "info": lambda source, _out: app(["info", str(source)]),
    "assess": lambda source, _out: app(["assess", str(source)]),
    "enlarge": _enlarge,
    "watch": _watch,
}


def _write(path: Path, seed: int) -> None:
    pixels = np.roll(photo_like(*_SIZE_PX), 17 * seed, axis=1)
    if path.suffix == ".dng":
        from tests.cameras import chart, raw_file

        raw_file(path, np.roll(chart(), 17 * seed, axis=1))
        return
    if path.suffix == ".jxl":
        import imagecodecs

        path.write_bytes(imagecodecs.jpegxl_encode(pixels))
        return
    if path.suffix == ".heic":
        import pillow_heif

        pillow_heif.register_heif_opener()
    Image.fromarray(pixels).save(path)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--inside"]:
        _inside(Path(sys.argv[2]))
    else:
        for figure in changing_sources():
            print(figure)
