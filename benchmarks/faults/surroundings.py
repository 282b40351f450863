"""Odd surroundings: other languages, no permission, a home that is read-only, many commands at once.

``python -m benchmarks surroundings``; as root, with ``localedef`` and ``setpriv``.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.core.intake.read import read_picture

_LANGUAGES = ("tr_TR", "de_DE")
_COMMANDS_AT_ONCE = 20
_ENLARGE = ("--factor", "2", "--upscaler", "bicubic", "--format", "tiff")
# Root passes every permission; without these capabilities it is a user like others.
_AS_OTHERS = ("setpriv", "--bounding-set=-dac_override,-dac_read_search", "--inh-caps=-dac_override,-dac_read_search")
_WINDOW = """
import sys
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
window.show()
window.take_in([Path(sys.argv[1])])
for _ in range(200):
    app.processEvents()
print(window.tray.entries[0].path.name)
window.end(asked=False)
"""


def surroundings() -> list[Figure]:
    """Run commands and the window in each of these surroundings."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        source = root / "ISTANBUL straße.png"
        Image.fromarray(photo_like(160, 120)).save(source)
        return [*_languages(root, source), *_permissions(root, source), *_at_once(root, source)]


def _run(words: Sequence[str], home: Path, *, prefix: Sequence[str] = (), **variables: str) -> tuple[int, str]:
    kept = {name: value for name, value in os.environ.items() if not name.startswith(("XDG_", "LC_", "LANG"))}
    environment = {**kept, "HOME": str(home), "QT_QPA_PLATFORM": "offscreen", **variables}
    command = [*prefix, sys.executable, *words]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False, timeout=300)
    return done.returncode, done.stdout + done.stderr


def _languages(root: Path, source: Path) -> list[Figure]:
    failures, details = 0, []
    results = []
    for language in ("C", *_LANGUAGES):
        home = root / language
        home.mkdir()
        variables = {"LC_ALL": f"{language}.UTF-8"}
        if language != "C":
            made = ["localedef", "-i", language, "-f", "UTF-8", str(root / f"{language}.UTF-8")]
            subprocess.run(made, check=False, capture_output=True)
            variables["LOCPATH"] = str(root)
        out = home / "out.tif"
        runs = [
            _run(["-c", "import locale; print(locale.setlocale(locale.LC_ALL, ''))"], home, **variables),
            _run(["-m", "wamplex", "assess", str(source), "--json"], home, **variables),
            _run(["-m", "wamplex", "enlarge", str(source), *_ENLARGE, "--out", str(out)], home, **variables),
            _run(["-m", "wamplex", "recipe", str(out), "--json"], home, **variables),
            _run(["-c", _WINDOW, str(source)], home, **variables),
        ]
        failures += sum(code != 0 or "Traceback" in text for code, text in runs)
        details += [text[-300:] for code, text in runs if code]
        recipe = json.loads(runs[3][1])
        results.append((runs[1][1].replace(str(home), ""), recipe, read_picture(out).pixels.tobytes()))
    differing = sum(result != results[0] for result in results[1:])
    detail = "; ".join(details) or "tr_TR, de_DE: assess, enlarge, recipe, window"
    return [
        Figure("commands that fail in another language", failures, 0, "", True, detail),
        Figure("languages with other results", differing, 0, "", True, "readings, recipe and pixels"),
    ]


def _permissions(root: Path, source: Path) -> list[Figure]:
    closed = root / "closed.png"
    closed.write_bytes(source.read_bytes())
    closed.chmod(0)
    home = root / "home"
    home.mkdir()
    home.chmod(0o500)
    commands = {
        "a picture without permission": ["assess", str(closed)],
        "a folder without permission": ["enlarge", str(source), *_ENLARGE, "--out", f"{home}/out.tif"],
        "info": ["info", str(source)],
        "assess": ["assess", str(source)],
        "enlarge": ["enlarge", str(source), *_ENLARGE, "--out", f"{root}/fine.tif"],
    }
    traces, wrong = 0, []
    for name, words in commands.items():
        code, text = _run(["-m", "wamplex", *words], home, prefix=_AS_OTHERS)
        traces += "Traceback" in text
        if (code != 0) != ("without" in name):
            wrong.append(f"{name}: {text[-200:]}")
    code, text = _run(["-c", _WINDOW, str(source)], home, prefix=_AS_OTHERS)
    traces += "Traceback" in text
    if code:
        wrong.append(f"window: {text[-200:]}")
    home.chmod(0o700)
    return [
        Figure("tracebacks without permission or with a read-only home", traces, 0, "", True, ""),
        Figure("commands that then do other than they should", len(wrong), 0, "", True, "; ".join(wrong)),
    ]


def _at_once(root: Path, source: Path) -> list[Figure]:
    home = root / "busy"
    home.mkdir()
    words = [sys.executable, "-m", "wamplex", "enlarge", str(source), *_ENLARGE, "--out", f"{root}/together/"]
    variables = {**os.environ, "HOME": str(home), "XDG_STATE_HOME": str(home)}
    processes = [
        subprocess.Popen(words, env=variables, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        for _ in range(_COMMANDS_AT_ONCE)
    ]
    texts = [process.communicate(timeout=600)[0] for process in processes]
    failed = [text[-200:] for process, text in zip(processes, texts, strict=True) if process.returncode]
    files = sorted((root / "together").glob("*.tif"))
    contents = {read_picture(path).pixels.tobytes() for path in files}
    return [
        Figure("of twenty commands at once that fail", len(failed), 0, "", True, "; ".join(failed[:2])),
        Figure("files of twenty at once", len(files), _COMMANDS_AT_ONCE, "", False, f"{len(contents)} contents"),
    ]
