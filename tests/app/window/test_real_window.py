"""Smoke tests in a real window on (virtual) screens, each in a process of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

_SCRIPT = """
import sys, time
from pathlib import Path
from wamplex.app.startup.start import make_window
app, window = make_window()
from wamplex.app.window.main_window import TRIAL
window.show()
window.take_in([Path(sys.argv[1])])
end = time.monotonic() + 200
while time.monotonic() < end:
    app.processEvents()
    if window.tray.usable and not window.trial_step.isVisible():
        window.open_step(TRIAL)
    if len(window.trial_step.cache) >= 4 and window.status.text.startswith("Hold"):
        break
    time.sleep(0.01)
app.processEvents()
assert app.platformName() == "xcb"
app.primaryScreen().grabWindow(0).save(sys.argv[2])
window.close()
"""

_TWO_SCREENS = """
import sys, time
from Xlib import X, Xatom, display
from Xlib.ext import randr
from Xlib.protocol import rq
from PySide6.QtWidgets import QApplication
from wamplex.app.window.main_window import MainWindow
from wamplex.app.workers.machine import screen_profile
from wamplex.core.colour.icc import BT2020, SRGB, make_profile

class SetMonitor(rq.Request):  # as python-xlib has it, but that packs lists wrongly
    _request = rq.Struct(
        rq.Card8("opcode"), rq.Opcode(43), rq.RequestLength(), rq.Window("window"), *randr.MonitorInfo.fields
    )

server = display.Display()
root = server.screen().root
profiles = [make_profile(BT2020), make_profile(SRGB)]
for number, (x, width) in enumerate(((0, 1280), (1280, 1600))):
    SetMonitor(
        display=server.display, opcode=server.display.get_extension_major(randr.extname), window=root,
        name=server.intern_atom(f"SCREEN-{number}"), primary=number == 0, automatic=0, x=x, y=0,
        width_in_pixels=width, height_in_pixels=800, width_in_millimeters=340, height_in_millimeters=210,
        crtcs=[],
    )
    atom = server.intern_atom("_ICC_PROFILE" + (f"_{number}" if number else ""))
    root.change_property(atom, Xatom.CARDINAL, 8, profiles[number])
server.sync()
app = QApplication([])
window = MainWindow()
window.show()

def settles_on(profile):
    end = time.monotonic() + 60
    while window.colours.view.screen != profile:
        assert time.monotonic() < end, (window.screen().name(), len(window.colours.view.screen or b""))
        app.processEvents()
        time.sleep(0.01)

settles_on(profiles[0])
window.move(1400, 0)
settles_on(profiles[1])
ask = screen_profile.desktop_profile
screen_profile.desktop_profile = lambda *screen: (time.sleep(1), ask(*screen))[1]
window.move(0, 0)
end = time.monotonic() + 0.5
while time.monotonic() < end:
    app.processEvents()
window.move(1400, 0)  # back while the desktop is being asked
end = time.monotonic() + 3
while time.monotonic() < end:
    app.processEvents()
    time.sleep(0.01)
settles_on(profiles[1])
assert "X server" in window.status.colours.text(), window.status.colours.text()
window.close()
"""


def _run(screen: str, script: str, *arguments: str) -> None:
    if shutil.which("xvfb-run") is None:
        pytest.skip("xvfb-run is not installed")
    run = subprocess.run(
        ["xvfb-run", "-a", "-s", f"-screen 0 {screen}", sys.executable, "-c", script, *arguments],
        env={**os.environ, "QT_QPA_PLATFORM": "xcb"},
        capture_output=True,
        text=True,
        timeout=300,
        check=False,
    )
    assert run.returncode == 0, run.stderr


@pytest.mark.screen
@pytest.mark.slow
def test_the_window_opens_on_a_screen(tmp_path: Path, photo_file: Path) -> None:
    shot = tmp_path / "shot.png"
    _run("1280x800x24", _SCRIPT, str(photo_file), str(shot))
    pixels = np.asarray(Image.open(shot).convert("RGB"))
    # Paper-white margin of the panel beside its scroll bar, and a picture with many colours.
    assert (np.abs(pixels[520:740, -13:-9].astype(int) - (0xF6, 0xF3, 0xEC)).max(axis=2) == 0).mean() > 0.95
    assert len(np.unique(pixels[200:700, 200:900].reshape(-1, 3), axis=0)) > 1000


@pytest.mark.screen
@pytest.mark.slow
def test_each_screen_has_its_own_profile() -> None:
    """Two monitors of an X server (RandR 1.5), each with a profile, and the window is moved between them."""
    _run("2880x800x24", _TWO_SCREENS)
