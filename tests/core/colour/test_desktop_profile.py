"""The screen's profile as the desktop has it: from a colord on a private bus, and from an X server."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from jeepney import DBusAddress, HeaderFields, MessageType, new_method_return
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import DBusConnection, open_dbus_connection

from wamplex.core.colour.desktop_profile import desktop_profile
from wamplex.core.colour.icc import DISPLAY_P3, make_profile

NAME = "org.freedesktop.ColorManager"


def answered(profile: Path, message: Any) -> tuple[str, tuple[object, ...]]:
    """What colord says: one screen on HDMI-1 with one profile."""
    fields = message.header.fields
    if fields[HeaderFields.member] == "GetDevicesByKind":
        return "ao", (["/other", "/device"],)
    found = {
        ("/other", "Metadata"): ("a{ss}", {"XRANDR_name": "eDP-1"}),
        ("/other", "Profiles"): ("ao", []),
        ("/device", "Metadata"): ("a{ss}", {"XRANDR_name": "HDMI-1"}),
        ("/device", "Profiles"): ("ao", ["/profile"]),
        ("/profile", "Filename"): ("s", str(profile)),
    }[fields[HeaderFields.path], message.body[1]]
    return "v", (found,)


def serve(bus: DBusConnection, profile: Path) -> None:
    """Answer until the bus is gone."""
    try:
        while True:
            message = bus.receive()
            if message.header.message_type is MessageType.method_call:
                bus.send(new_method_return(message, *answered(profile, message)))
    except (ConnectionError, OSError, ValueError):
        return


@pytest.fixture
def colord(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """A colord on a bus of its own; gives the file of the one screen's profile."""
    if shutil.which("dbus-daemon") is None:
        pytest.skip("dbus-daemon is not installed")
    command = ["dbus-daemon", "--session", "--nofork", "--print-address"]
    daemon = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert daemon.stdout is not None
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", daemon.stdout.readline().strip())
    bus = open_dbus_connection(bus="SYSTEM")
    bus.send_and_get_reply(message_bus.RequestName(NAME))
    profile = tmp_path / "screen.icc"
    profile.write_bytes(make_profile(DISPLAY_P3))
    threading.Thread(target=serve, args=(bus, profile), daemon=True).start()
    yield profile
    daemon.terminate()
    daemon.wait()


def test_colord_tells_the_profile_of_each_screen(colord: Path) -> None:
    assert DBusAddress("/", NAME).bus_name == NAME
    found = desktop_profile("HDMI-1", 0)
    assert found is not None
    assert found.profile == colord.read_bytes()
    assert found.whence == "screen.icc, from the desktop"
    assert desktop_profile("eDP-1", 9) is None  # it has no profile
    assert desktop_profile("DP-3", 9) is None  # there is no such screen
    colord.write_text("no profile")
    assert desktop_profile("HDMI-1", 9) is None


def test_without_a_bus_there_is_none(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", f"unix:path={tmp_path / 'nobody'}")
    monkeypatch.delenv("DISPLAY", raising=False)
    assert desktop_profile("HDMI-1", 0) is None


_IN_A_WINDOW = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from Xlib import Xatom, display
from wamplex.app.window.main_window import MainWindow
server = display.Display()
profile = Path(sys.argv[1]).read_bytes()
atom = server.intern_atom("_ICC_PROFILE")
server.screen().root.change_property(atom, Xatom.CARDINAL, 8, profile)
server.sync()
app = QApplication([])
window = MainWindow()
window.show()
end = time.monotonic() + 60
while time.monotonic() < end and window.colours.view.screen is None:
    app.processEvents()
    time.sleep(0.01)
print(window.status.colours.text(), window.colours.view.screen == profile)
window.close()
"""


@pytest.mark.screen
def test_an_x_server_tells_the_window(tmp_path: Path) -> None:
    if shutil.which("xvfb-run") is None:
        pytest.skip("xvfb-run is not installed")
    profile = tmp_path / "screen.icc"
    profile.write_bytes(make_profile(DISPLAY_P3))
    env = {**os.environ, "QT_QPA_PLATFORM": "xcb", "DBUS_SYSTEM_BUS_ADDRESS": f"unix:path={tmp_path}/nobody"}
    command = ["xvfb-run", "-a", sys.executable, "-c", _IN_A_WINDOW, str(profile)]
    done = subprocess.run(command, env=env, capture_output=True, text=True, timeout=200, check=False)
    assert done.stdout.strip() == "colours: from the X server True", done.stderr
