"""The program works without a network: none of its processes opens an internet socket."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from tests.core.upscale.test_user_networks import network

_WINDOW = """
import sys, time
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
window.show()
window.take_in([Path(sys.argv[1])])
end = time.monotonic() + 200
while time.monotonic() < end and not (window.tray.current and window.tray.current.condition):
    app.processEvents()
    time.sleep(0.01)
assert window.tray.current.condition
window.close()
"""
_ENLARGE_AND_WATCH = """
import signal, subprocess, sys, time
from pathlib import Path
photo, incoming, out = (Path(word) for word in sys.argv[1:])
wamplex = [sys.executable, "-m", "wamplex"]
first = out.parent / "first.tif"
subprocess.run([*wamplex, "enlarge", photo, "--factor", "2", "--out", first], check=True)
watch = subprocess.Popen([*wamplex, "watch", incoming, "--recipe", first, "--out", out])
end = time.monotonic() + 200
while time.monotonic() < end and not list(out.glob("*.tif")):
    time.sleep(0.2)
watch.send_signal(signal.SIGINT)
watch.wait()
assert list(out.glob("*.tif"))
"""
# Who may write below the user's home: the program itself, and what any program with a window uses.
_KNOWN = {"wamplex", "fontconfig", "mesa_shader_cache", "dconf"}


def can_trace() -> bool:
    """Whether this machine allows a process to be traced."""
    strace = shutil.which("strace")
    return bool(strace) and subprocess.run([str(strace), "true"], capture_output=True).returncode == 0


def internet_sockets(command: list[str], home: Path) -> list[str]:
    """The lines of the trace in which a process of this command opens an internet socket."""
    trace = home.with_suffix(".trace")
    kept = {k: v for k, v in os.environ.items() if not k.startswith("XDG_")}
    environment = kept | {"HOME": str(home), "QT_QPA_PLATFORM": "offscreen"}
    strace = ["strace", "-f", "--seccomp-bpf", "-e", "trace=socket", "-o", str(trace), sys.executable]
    done = subprocess.run([*strace, *command], env=environment, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stderr[-2000:]
    return re.findall(r".*\bAF_INET.*", trace.read_text())


@pytest.mark.slow
@pytest.mark.skipif(not can_trace(), reason="needs strace, and the right to trace")
@pytest.mark.parametrize("work", ["window", "assess", "enlarge and watch", "network"])
def test_no_process_opens_an_internet_socket(work: str, photo_file: Path, tmp_path: Path) -> None:
    home, out = tmp_path / "home", tmp_path / "out"
    home.mkdir()
    out.mkdir()
    incoming = tmp_path / "incoming"
    incoming.mkdir()
    shutil.copy(photo_file, incoming)
    commands = {
        "window": ["-c", _WINDOW, str(photo_file)],
        "assess": ["-m", "wamplex", "assess", str(photo_file)],
        "enlarge and watch": ["-c", _ENLARGE_AND_WATCH, str(photo_file), str(incoming), str(out)],
        "network": [
            "-m",
            "wamplex",
            "upscalers",
            "add",
            str(network(tmp_path / "mine.onnx")),
            "--name",
            "Mine",
        ],
    }
    assert internet_sockets(commands[work], home) == []
    folders = {
        p.name for cache in (".cache", ".config", ".local/share", ".local/state") for p in (home / cache).glob("*")
    }
    assert folders <= _KNOWN, folders
