"""The panels and small views: what they show, and what pressing them does."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QMenu
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.deliver.job_row import LEAST_HEIGHT, JobRow
from wamplex.app.size.size_table import FactorRow
from wamplex.app.window.main_window import DELIVER, SIZE, TRIAL, MainWindow
from wamplex.core.workflow.queue.job import State

TakeIn = Callable[[list[Path]], None]


class TestDeliverPanel:
    def test_fields_that_do_not_apply_are_hidden(self, window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
        take_in([photo_file])
        window.open_step(DELIVER)
        panel = window.deliver_step.panel
        for file_format, depth, compression, quality in (
            ("tiff", True, True, False),
            ("png", True, False, False),
            ("jpeg", False, False, True),
        ):
            panel.formats.button_for(file_format).click()
            shown = (panel.depths.isVisible(), panel.compressions.isVisible(), panel.quality.isVisible())
            assert shown == (depth, compression, quality)

    def test_the_name_is_shown_as_it_will_be(self, window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
        take_in([photo_file])
        panel = window.deliver_step.panel
        panel.formats.button_for("jpeg").click()
        panel.pattern.setText("{name} {width}")
        assert panel.name_text.startswith("photo 600.jpg")
        panel.pattern.setText("{name}{what}")
        assert "unknown field {what}" in panel.name_text

    def test_too_large_for_jpeg_is_said_before_delivering(
        self, window: MainWindow, take_in: TakeIn, tmp_path: Path
    ) -> None:
        wide = tmp_path / "wide.png"
        Image.new("L", (20_000, 30)).save(wide)
        take_in([wide])
        panel = window.deliver_step.panel
        panel.formats.button_for("jpeg").click()
        assert "JPEG holds at most 65,535 px" in panel.name_text
        window.deliver_step.all_button.click()
        assert window.jobs.rows[0].state is State.FAILED
        assert [p.name for p in tmp_path.iterdir()] == ["wide.png"]

    def test_a_folder_can_be_chosen(
        self,
        window: MainWindow,
        take_in: TakeIn,
        photo_file: Path,
        tmp_path: Path,
        monkeypatch: pytest.MonkeyPatch,
    ) -> None:
        take_in([photo_file])
        panel = window.deliver_step.panel
        monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_a: str(tmp_path / "prints"))
        panel.elsewhere.click()
        assert panel.delivery.folder == tmp_path / "prints"
        assert panel.elsewhere.isChecked()
        panel.next_to_source.click()
        assert panel.delivery.folder is None
        assert panel.next_to_source.isChecked()


class TestJobRow:
    def test_a_failed_job_can_be_tried_again(
        self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
    ) -> None:
        take_in([photo_file])
        moved = photo_file.rename(photo_file.with_name("away.png"))
        step = window.deliver_step
        step.deliver_one()
        qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
        assert window.jobs.rows[0].state is State.FAILED
        moved.rename(photo_file)
        step.rows[0].act.click()
        qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
        assert window.jobs.rows[1].state is State.DONE
        assert window.jobs.rows[1].result == photo_file.with_name("photo-4x.tif")

    def test_pausing_shows_how_to_go_on(
        self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
    ) -> None:
        take_in([photo_file])
        step = window.deliver_step
        assert not step.pause_button.isEnabled()
        step.deliver_all()
        step.pause_button.click()
        assert step.pause_button.text() == "Resume"
        step.pause_button.click()
        qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
        assert step.pause_button.text() == "Pause"


class TestSizeStep:
    def test_pressing_a_row_of_the_table_chooses_its_factor(
        self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
    ) -> None:
        take_in([photo_file])
        window.open_step(SIZE)
        table = window.size_step.table
        qtbot.waitUntil(lambda: sum(r.isVisible() for r in table.findChildren(FactorRow)) == 6, timeout=WAIT_MS)
        rows = [r for r in table.findChildren(FactorRow) if r.isVisible()]
        qtbot.mouseClick(rows[4], Qt.MouseButton.LeftButton)
        assert window.size_step.table.headline.startswith("6× gives 900 × 720 px")
        assert window.size_step.panel.factor.text() == "6.00"

    def test_factor_buttons_are_pressed_for_their_factor_only(
        self, window: MainWindow, take_in: TakeIn, photo_file: Path
    ) -> None:
        window.open_step(SIZE)
        take_in([photo_file])
        buttons = window.size_step.panel.factor_buttons
        assert buttons.button_for(4.0).isChecked()
        window.size_step.panel.factor.entered.emit(3.3)
        assert not any(buttons.button_for(f).isChecked() for f in (2.0, 3.0, 4.0, 6.0))
        buttons.button_for(2.0).click()
        assert window.size_step.panel.width_px.text() == "300"

    def test_the_size_is_kept_per_picture(self, window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
        second = photo_file.with_name("second.png")
        Image.open(photo_file).save(second)
        window.open_step(SIZE)
        take_in([photo_file, second])
        window.size_step.panel.factor.entered.emit(2.0)
        window.tray.select(1)
        assert window.size_step.panel.factor.text() == "4.00"
        window.tray.select(0)
        assert window.size_step.panel.factor.text() == "2.00"


class TestTrialStep:
    def test_pressing_the_map_moves_the_panes(
        self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
    ) -> None:
        take_in([photo_file])
        window.open_step(TRIAL)
        view = window.trial_step.panel.map
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(view.width() // 2, 8))
        viewport = window.trial_step.viewport
        assert viewport.centre_x == pytest.approx(0.5, abs=0.02)
        assert viewport.centre_y < 0.1

    def test_zoom_buttons_zoom(self, window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
        take_in([photo_file])
        window.open_step(TRIAL)
        pane = window.trial_step.panes["A"]
        for zoom in (0.25, 2.0, 8.0):
            window.trial_step.bar.zoom_buttons.button_for(zoom).click()
            assert pane.scale == zoom
        window.trial_step.bar.zoom_buttons.button_for(None).click()
        assert pane.visible().width() >= 600

    def test_arrow_keys_pan(self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
        take_in([photo_file])
        window.open_step(TRIAL)
        window.trial_step.viewport.set_zoom(4.0)
        pane = window.trial_step.panes["B"]
        before = pane.visible().x()
        qtbot.keyClick(pane, Qt.Key.Key_Right)
        assert pane.visible().x() > before

    def test_a_trial_is_added_from_the_chooser(self, window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
        take_in([photo_file])
        window.open_step(TRIAL)
        window.trial_step.bar.add_button.click()
        (menu,) = window.trial_step.findChildren(QMenu)
        menu.actions()[0].trigger()
        menu.close()
        assert list(window.trial_step.panes) == ["A", "B", "C", "D", "E"]
        assert window.trial_step.panel.shown_name == "Nearest"

    def test_cancelling_stops_until_something_moves(
        self, window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
    ) -> None:
        take_in([photo_file])
        window.open_step(TRIAL)
        window.status.cancel_asked.emit()
        assert "Stopped" in window.status.text
        window.trial_step.viewport.move_to(0.4, 0.4)
        qtbot.waitUntil(lambda: window.status.text.startswith("Hold Q"), timeout=WAIT_MS)


def test_the_status_line_says_what_it_comes_to(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    take_in([photo_file])
    window.open_step(SIZE)
    assert window.status.summary == "4×, 600 × 480 px, 0.288 MP, 5.1 × 4.1 cm at 300 ppi, sharp from 29 cm"


def test_cards_are_selected_with_the_keyboard(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    second = photo_file.with_name("second.png")
    Image.open(photo_file).save(second)
    take_in([photo_file, second])
    qtbot.keyClick(window.tray_view.list, Qt.Key.Key_Down)
    assert window.tray.current is window.tray.entries[1]


def test_of_many_jobs_those_rows_are_made_that_are_seen(window: MainWindow, qtbot: QtBot) -> None:
    window.open_step(DELIVER)
    rows, jobs = window.deliver_step.rows, window.jobs
    for number in range(300):
        jobs.add_failed(Path(f"{number}.png"), f"There is no file {number}.png.")
    qtbot.waitUntil(lambda: len(rows.findChildren(JobRow)) > 3, timeout=WAIT_MS)
    assert len(rows.findChildren(JobRow)) < 60
    bar = rows.verticalScrollBar()
    qtbot.waitUntil(lambda: bar.maximum() > 200 * LEAST_HEIGHT, timeout=WAIT_MS)
    bar.setValue(bar.maximum())
    assert "There is no file 299.png" in rows[299].text
    assert rows[299].geometry().top() == rows[298].geometry().bottom() + 1
    assert rows[299].visibleRegion().boundingRect().height() > 0
