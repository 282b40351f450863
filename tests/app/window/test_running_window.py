"""A second start hands its files to the window that runs."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from PySide6.QtCore import QObject
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.startup.single_window import hand_to_running, listen, socket_path
from wamplex.app.window.main_window import MainWindow


def from_elsewhere(paths: list[Path]) -> tuple[threading.Thread, list[bool]]:
    """Hand files over as another program would, beside this one's events."""
    said: list[bool] = []
    thread = threading.Thread(target=lambda: said.append(hand_to_running(paths)))
    thread.start()
    return thread, said


def test_files_of_a_later_start_come_into_the_tray(
    window: MainWindow, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    listen(window, window.take_in)
    thread, said = from_elsewhere([photo_file, tmp_path / "ä b.png"])
    qtbot.waitUntil(lambda: len(window.tray.entries) == 2, timeout=WAIT_MS)
    thread.join()
    assert said == [True]
    assert window.tray.entry(0).path == photo_file


def test_without_a_window_the_start_opens_its_own(tmp_path: Path) -> None:
    assert not hand_to_running([tmp_path])
    with socket.socket(socket.AF_UNIX) as left:  # of a window that was killed
        left.bind(str(socket_path()))
    assert not hand_to_running([tmp_path])


def _is_closed(line: socket.socket) -> bool:
    """Whether the other end has refused what it was sent."""
    try:
        return line.recv(1) == b""
    except BlockingIOError:
        return False
    except ConnectionError:
        return True


def test_a_socket_left_behind_is_taken_over_and_nonsense_is_refused(
    window: MainWindow, qtbot: QtBot, photo_file: Path
) -> None:
    with socket.socket(socket.AF_UNIX) as left:
        left.bind(str(socket_path()))
    listen(window, window.take_in)
    with socket.socket(socket.AF_UNIX) as line:
        line.connect(str(socket_path()))
        line.sendall(b'{"a": [\n')
        line.setblocking(False)
        qtbot.waitUntil(lambda: _is_closed(line), timeout=WAIT_MS)
    thread, said = from_elsewhere([photo_file])
    qtbot.waitUntil(lambda: len(window.tray.entries) == 1, timeout=WAIT_MS)
    thread.join()
    assert said == [True]


@pytest.mark.slow
def test_the_command_ends_at_once_when_a_window_runs(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    listen(window, window.take_in)
    words = [sys.executable, "-m", "wamplex", str(photo_file)]
    process = subprocess.Popen(words, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"})
    qtbot.waitUntil(lambda: process.poll() is not None, timeout=WAIT_MS)
    assert process.returncode == 0
    assert [entry.path for entry in window.tray.entries] == [photo_file]


def test_a_window_that_is_stopped_keeps_its_socket(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    listen(window, window.take_in)
    path = socket_path()
    before = path.stat().st_ino
    other = QObject()
    listen(other, lambda _paths: None)  # as a second program does that got no answer
    assert path.stat().st_ino == before
    thread, said = from_elsewhere([photo_file])
    qtbot.waitUntil(lambda: len(window.tray.entries) == 1, timeout=WAIT_MS)
    thread.join()
    assert said == [True]
