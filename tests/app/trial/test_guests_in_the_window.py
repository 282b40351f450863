"""A file enlarged elsewhere joins the trials, is looked at, tested and delivered; it travels nowhere."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot
from skimage import data
from tests.app.watching import WAIT_MS

from wamplex.app.project.tray_state import Saving, restored_trials
from wamplex.app.tray.decision_transfer import DecisionTransfer
from wamplex.app.window.guests_dialog import GuestsDialog
from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.guests.guest_store import stored_guests
from wamplex.core.intake.read import read_picture
from wamplex.core.model.settings import guests_dir
from wamplex.core.provenance.xmp import parse_recipe


@pytest.fixture
def pair(tmp_path: Path) -> tuple[Path, Path]:
    """A picture of a third, and the large one as another program might have made it."""
    large = np.ascontiguousarray(data.astronaut()[0:360, 60:510])
    small, elsewhere = tmp_path / "small.png", tmp_path / "elsewhere.png"
    Image.fromarray(large).save(elsewhere)
    Image.fromarray(large).resize((150, 120), Image.Resampling.BICUBIC).save(small)
    return small, elsewhere


@pytest.fixture
def joined(
    window: MainWindow,
    qtbot: QtBot,
    take_in: Callable[[list[Path]], None],
    pair: tuple[Path, Path],
    monkeypatch: pytest.MonkeyPatch,
) -> MainWindow:
    """The window with the small picture at 3x, and the guest among its trials."""
    take_in([pair[0]])
    entry = window.tray.entries[0]
    window.tray.set_size(entry.number, entry.size.with_factor(3))
    window.open_step(TRIAL)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(pair[1]), ""))
    window.trial_step.bar.guest_asked.emit()
    qtbot.waitUntil(lambda: any(t.upscaler.kind == "guest" for t in entry.trials.rows), timeout=WAIT_MS)
    return window


def test_it_is_a_trial_like_others_and_delivered_with_a_sentence(
    joined: MainWindow, qtbot: QtBot, pair: tuple[Path, Path], tmp_path: Path
) -> None:
    window, entry = joined, joined.tray.entries[0]
    guest = entry.trials.find(entry.trials.active)
    assert guest.upscaler.name == "elsewhere"
    assert "elsewhere.png" in window.notices.text
    window.trial_step.panel.stamp_asked.emit(guest.letter)
    window.open_step(DELIVER)
    assert "Not made here: elsewhere: enlarged elsewhere, from" in window.deliver_step.panel.format_text
    window.deliver_step.panel.formats.button_for("png").click()
    window.deliver_step.panel.depths.button_for(8).click()
    window.deliver_step.deliver_one()
    qtbot.waitUntil(lambda: not window.jobs.open and len(window.jobs.rows) == 1, timeout=WAIT_MS)
    (row,) = window.jobs.rows
    assert row.result is not None
    made = read_picture(row.result)
    assert np.array_equal(made.pixels, read_picture(pair[1]).pixels)
    found = parse_recipe(made.metadata.xmp)
    assert found is not None
    assert "elsewhere.png" in found[1]["Guests"]


def test_a_known_answer_leaves_it_out_unless_the_truth_is_a_file(
    joined: MainWindow, qtbot: QtBot, pair: tuple[Path, Path]
) -> None:
    test = joined.open_test(0)
    test.run_test()
    qtbot.waitUntil(lambda: bool(test.answers), timeout=WAIT_MS)
    assert not any("elsewhere" in answer.label for answer in test.answers)
    assert "Left out: E" in test.text.text()
    qtbot.waitUntil(lambda: test.run_button.isEnabled(), timeout=WAIT_MS)
    test.use_truth(pair[1])
    test.run_test()
    qtbot.waitUntil(lambda: any("elsewhere" in a.label for a in test.answers), timeout=WAIT_MS)
    assert "elsewhere" in test.answers[0].label  # it is the truth itself
    test.close()


def test_it_stays_with_its_picture(
    joined: MainWindow, take_in: Callable[[list[Path]], None], photo_file: Path, tmp_path: Path
) -> None:
    window, entry = joined, joined.tray.entries[0]
    take_in([photo_file])
    window.tray.set_trials(0, entry.trials.stamp(entry.trials.active))
    carrying = DecisionTransfer(entry.delivered_recipe(), frozenset({"trial"}), False, "small", entry.trials)
    window.tray.carry([1], carrying)
    other = window.tray.entries[1]
    assert not any(t.upscaler.kind == "guest" for t in other.trials.rows)
    saved = Saving().work(window.tray, Delivery(), {}).project.pictures[0]
    assert restored_trials(saved) == entry.trials
    window.project.save(tmp_path / "kept.wamplex")
    window.tray.remove([0, 1])  # as on another computer, where nothing of it is shown meanwhile
    for file in guests_dir().iterdir():
        file.unlink()
    window.project_controller.open(tmp_path / "kept.wamplex")
    assert "A guest of small.png" in window.notices.text
    restored = restored_trials(saved)
    assert restored is not None
    assert "E" not in [t.letter for t in restored.rows]


def test_what_cannot_be_one_is_said(
    window: MainWindow, qtbot: QtBot, take_in: Callable[[list[Path]], None], photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    other = tmp_path / "other.png"
    Image.new("RGB", (400, 200)).save(other)
    qtbot.waitUntil(lambda: window.tray.entries[0].suggested is not None, timeout=WAIT_MS)
    before = window.tray.entries[0].trials
    window.guests.take_in(other)
    qtbot.waitUntil(lambda: "proportions" in window.notices.text, timeout=WAIT_MS)
    assert window.tray.entries[0].trials == before


def test_the_command_line_compares_it_with_the_original(pair: tuple[Path, Path]) -> None:
    def run(*more: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "wamplex", "trial", str(pair[0]), "--guests", str(pair[1])]
        return subprocess.run([*command, *more], capture_output=True, text=True, check=False)

    assert "give --truth" in run().stderr
    done = run("--truth", str(pair[1]), "--upscalers", "bicubic", "--csv")
    assert done.stdout.splitlines()[1].startswith("elsewhere,")


def test_guests_are_looked_through_and_let_go(joined: MainWindow, qtbot: QtBot) -> None:
    window = joined
    # Nothing may come later that shows its trials anew.
    qtbot.waitUntil(lambda: window.tray.entries[0].suggested is not None, timeout=WAIT_MS)
    preferences = window.dialogs.preferences()
    assert "1 file, 972 kB" in preferences.guests.text()  # 450 x 360 pixels of 3 channels and 2 bytes
    dialog = window.dialogs.guests(preferences)
    assert dialog.list.item(0).text().startswith("elsewhere.png — 450 × 360 px, 972")
    dialog.list.item(0).setSelected(True)
    dialog.remove()
    assert "small.png has a trial with it" in dialog.text
    assert len(stored_guests()) == 1
    later = GuestsDialog(lambda _key: None)  # as when that picture is not in the tray
    later.changed.connect(preferences.show_guests)
    later.list.item(0).setSelected(True)
    later.remove()
    assert stored_guests() == ()
    assert list(guests_dir().iterdir()) == []
    assert preferences.guests.text() == "None."
