"""A file that another program hands over, and gets back."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import MainWindow
from wamplex.core.base.errors import DeliveryError, SourceChangedError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.hand_over import HandOver, agreed_delivery, hand_back
from wamplex.core.workflow.orders.order import create_order
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.queue.recovery import HAND_OVER_PREFIX, recover_jobs, unfinished_jobs

RECIPE = Recipe(base=TrialSpec(upscaler="lanczos"), factor=2)


@pytest.fixture
def handed(tmp_path: Path) -> Path:
    path = tmp_path / "edit.tif"
    tifffile.imwrite(path, np.random.default_rng(2).integers(0, 65536, (60, 80, 3), np.uint16), photometric="rgb")
    return path


def back(path: Path, **agreed: object) -> Path | None:
    request = HandOver(path, **agreed)  # type: ignore[arg-type]
    return hand_back(probe(path), read_picture(path), RECIPE, request, Journal(journal_path()), Progress())


def test_it_is_replaced_whole_with_the_same_kind_and_the_old_one_kept(handed: Path) -> None:
    before = handed.read_bytes()
    kept = back(handed)
    header = probe(handed)
    assert (header.kind, header.width, header.height, header.depth) == ("TIFF", 160, 120, 16)
    assert kept == handed.with_name("edit-before.tif")
    assert kept.read_bytes() == before
    assert sorted(path.name for path in handed.parent.iterdir()) == ["edit-before.tif", "edit.tif"]


def test_it_goes_elsewhere_and_in_eight_bits_where_that_was_agreed(handed: Path) -> None:
    before = handed.read_bytes()
    assert back(handed, to=handed.with_name("out.tif"), depth=8) is None
    assert probe(handed.with_name("out.tif")).depth == 8
    assert handed.read_bytes() == before


def test_a_file_that_the_other_program_wrote_to_meanwhile_is_left_alone(handed: Path) -> None:
    header, picture = probe(handed), read_picture(handed)
    handed.write_bytes(handed.read_bytes() + b"\0")
    after = handed.read_bytes()
    with pytest.raises(SourceChangedError):
        hand_back(header, picture, RECIPE, HandOver(handed), Journal(journal_path()), Progress())
    assert handed.read_bytes() == after
    assert [path.name for path in handed.parent.iterdir()] == ["edit.tif"]


def test_after_a_crash_nothing_of_it_is_left(handed: Path) -> None:
    """The other program does not wait for the file any more."""
    folder = handed.parent / f"{HAND_OVER_PREFIX}1"
    folder.mkdir()
    (folder / "half.part").write_bytes(b"1")
    ended = Journal(journal_path(), owner=str(2**22 - 7))  # a process number that no process has
    ended.add([create_order(probe(handed), RECIPE, agreed_delivery(HandOver(handed), probe(handed)))])
    ended.add(
        [create_order(probe(handed), RECIPE, agreed_delivery(HandOver(handed), probe(handed)).replace(folder=folder))]
    )
    journal = Journal(journal_path())
    assert unfinished_jobs(journal) == 1
    assert [job.planned.parent for job in recover_jobs(journal)] == [handed.parent]
    assert [path.name for path in handed.parent.iterdir()] == ["edit.tif"]


def test_a_kind_that_cannot_be_written_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.ppm"
    path.write_bytes(b"P6 20 20 255\n" + bytes(1200))
    with pytest.raises(DeliveryError, match="cannot be handed back"):
        agreed_delivery(HandOver(path), probe(path))


def test_the_window_hands_back_what_is_stamped(qtbot: QtBot, window: MainWindow, handed: Path) -> None:
    handing = window.start_hand_over(HandOver(handed))
    window.take_in([handed])
    entries = window.tray.entries
    qtbot.waitUntil(lambda: bool(entries) and entries[0].suggested is not None, timeout=WAIT_MS)
    window.tray.set_trials(0, entries[0].trials.stamp("A"))
    with qtbot.waitSignal(handing.ended, timeout=WAIT_MS):
        qtbot.mouseClick(handing.bar.back, Qt.MouseButton.LeftButton)
    assert handing.handed_back
    assert probe(handed).width == 320


def test_declined_it_is_untouched(qtbot: QtBot, window: MainWindow, handed: Path) -> None:
    before = handed.read_bytes()
    handing = window.start_hand_over(HandOver(handed))
    window.take_in([handed])
    with qtbot.waitSignal(handing.ended, timeout=5_000):
        qtbot.mouseClick(handing.bar.decline, Qt.MouseButton.LeftButton)
    assert not handing.handed_back
    assert handed.read_bytes() == before


def _catches(process: subprocess.Popen[bytes], number: signal.Signals) -> bool:
    """Whether the window is so far that it hears of a signal."""
    lines = Path(f"/proc/{process.pid}/status").read_text().splitlines()
    caught = next(int(line.split()[1], 16) for line in lines if line.startswith("SigCgt"))
    return bool(caught >> (number - 1) & 1)


@pytest.mark.slow
def test_a_program_that_waits_is_told_when_the_window_is_ended_from_outside(handed: Path) -> None:
    words = [sys.executable, "-m", "wamplex", "hand-over", str(handed)]
    process = subprocess.Popen(words, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"})
    end = time.monotonic() + 60
    while not _catches(process, signal.SIGTERM) and time.monotonic() < end:
        time.sleep(0.05)
    assert process.poll() is None
    process.send_signal(signal.SIGTERM)
    assert process.wait(timeout=60) == 128 + signal.SIGTERM
    assert probe(handed).width == 80


def test_a_result_becomes_a_source_with_one_press(
    qtbot: QtBot, window: MainWindow, photo_file: Path, tmp_path: Path
) -> None:
    window.take_in([photo_file])
    entries = window.tray.entries
    qtbot.waitUntil(lambda: bool(entries) and entries[0].suggested is not None, timeout=WAIT_MS)
    window.deliver_step.panel.set_folder(tmp_path / "made")
    window.deliver_step.deliver_one()
    qtbot.waitUntil(lambda: window.jobs.rows[0].result is not None, timeout=WAIT_MS)
    qtbot.mouseClick(window.deliver_step.rows[0].further, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(entries) == 2 and entries[1].suggested is not None, timeout=WAIT_MS)
    assert window.tray.current is entries[1]
    assert "made by" in window.assess_step.cards
