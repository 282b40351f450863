"""The models by themselves: trials, viewport, tray, jobs."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QSizeF
from pytestqt.qtbot import QtBot

from wamplex.app.bench.viewport import LARGEST_ZOOM, LEAST_ZOOM, Viewport
from wamplex.app.deliver.jobs import Jobs
from wamplex.app.shared.render_requests import TILE_PX, TileKey
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.trials import MOST_IN_VIEW, Trials
from wamplex.core.colour.screen_view import ScreenView
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.probe import probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.journal import Journal, journal_path


class TestTrials:
    def test_striking_the_active_trial_activates_another(self) -> None:
        trials = Trials(active="D").strike("D")
        assert trials.active == "C"
        assert [t.letter for t in trials.struck] == ["D"]

    def test_striking_takes_the_stamp_off(self) -> None:
        assert Trials().stamp("B").strike("B").stamped is None
        assert Trials().stamp("B").strike("C").stamped == "B"

    def test_the_last_trial_cannot_be_struck(self) -> None:
        trials = Trials()
        for letter in "ABCD":
            trials = trials.strike(letter)
        assert [t.letter for t in trials.remaining] == ["D"]

    def test_stamping_twice_takes_the_stamp_off(self) -> None:
        assert Trials().stamp("A").stamp("A").stamped is None

    def test_no_more_than_fit_are_added(self) -> None:
        trials = Trials()
        for _ in range(10):
            trials = trials.add("nearest")
        assert len(trials.remaining) == MOST_IN_VIEW
        assert [t.letter for t in trials.rows] == list("ABCDEF")

    def test_struck_letters_are_not_given_again(self) -> None:
        trials = Trials().strike("A").add("nearest")
        assert trials.rows[-1].letter == "E"
        assert trials.put_back("A").active == "A"


class TestViewport:
    RESULT, PANE = QSizeF(4000, 3000), QSizeF(400, 600)

    def test_fit_shows_the_whole_picture(self) -> None:
        view = Viewport()
        seen = view.visible(self.RESULT, self.PANE)
        assert seen.width() == pytest.approx(4000)
        assert seen.center().y() == pytest.approx(1500, abs=10)

    def test_small_results_are_not_blown_up_to_fit(self) -> None:
        assert Viewport().scale(QSizeF(100, 50), self.PANE) == 1

    @pytest.mark.parametrize("zoom", [0.25, 0.33, 0.67, 1.0, 1.5, 3.0, 8.0])
    def test_pixels_fall_on_whole_screen_pixels(self, zoom: float) -> None:
        view = Viewport()
        view.set_zoom(zoom)
        view.move_to(0.3217, 0.7411)
        corner = view.visible(self.RESULT, self.PANE).topLeft() * zoom
        assert corner.x() == pytest.approx(round(corner.x()), abs=1e-6)
        assert corner.y() == pytest.approx(round(corner.y()), abs=1e-6)

    def test_the_anchor_stays_under_the_pointer(self) -> None:
        view = Viewport()
        view.set_zoom(1.0)
        before = view.visible(self.RESULT, self.PANE)
        at = ((before.x() + 100) / 4000, (before.y() + 450) / 3000)
        view.step_zoom(1, 1.0, at)
        after = view.visible(self.RESULT, self.PANE)
        assert (at[0] * 4000 - after.x()) * view.scale(self.RESULT, self.PANE) == pytest.approx(100, abs=1)
        assert (at[1] * 3000 - after.y()) * view.scale(self.RESULT, self.PANE) == pytest.approx(450, abs=1)

    def test_zoom_stays_within_its_range(self) -> None:
        view = Viewport()
        for wanted, got in ((100.0, LARGEST_ZOOM), (0.001, LEAST_ZOOM)):
            view.set_zoom(wanted)
            assert view.zoom == got
        view.step_zoom(-1, LEAST_ZOOM)
        assert view.zoom == LEAST_ZOOM

    def test_nothing_is_told_when_nothing_changes(self, qtbot: QtBot) -> None:
        view = Viewport()
        view.move_to(2.0, -1.0)
        assert (view.centre_x, view.centre_y) == (1.0, 0.0)
        with qtbot.assertNotEmitted(view.changed):
            view.move_to(5.0, -3.0)
            view.set_zoom(None)


class TestTray:
    def test_folders_give_their_pictures_in_order(self, tmp_path: Path) -> None:
        for name in ("b.JPG", "a.tif", "notes.txt", "c.webp"):
            (tmp_path / name).touch()
        tray = Tray()
        tray.add([tmp_path])
        assert [e.path.name for e in tray.entries] == ["a.tif", "b.JPG", "c.webp"]

    def test_unread_pictures_cannot_be_delivered(self, tmp_path: Path) -> None:
        tray = Tray()
        tray.add([tmp_path / "a.jpg", tmp_path / "b.jpg"])
        tray.file_facts.unusable(tmp_path / "a.jpg", "a.jpg is empty: it holds 0 bytes.")
        assert tray.usable == []

    def test_findings_about_a_file_that_moved_come_too_late(self, tmp_path: Path, photo_file: Path) -> None:
        tray = Tray()
        tray.add([tmp_path / "moved.png"])
        tray.point_to(0, photo_file)
        tray.file_facts.picture(probe(photo_file), np.zeros((12, 15, 3), np.uint8))
        tray.file_facts.unusable(tmp_path / "moved.png", "moved.png is not there.")
        tray.file_facts.measured(Source(tmp_path / "moved.png", 1, 1))
        assert tray.entries[0].usable

    def test_unstamped_pictures_are_delivered_with_vellum(self, tmp_path: Path) -> None:
        tray = Tray()
        (entry,) = tray.add([tmp_path / "a.jpg"])
        assert entry.delivered_upscaler == "vellum"
        tray.set_trials(0, entry.trials.stamp("B"))
        assert entry.delivered_upscaler == "mitchell"


class TestJobs:
    def test_open_jobs_are_those_that_have_not_ended(self) -> None:
        jobs = Jobs(Journal(journal_path()))
        one = Order(Source(Path("/a.jpg"), 1, 1), Recipe(), Delivery(), Path("/a-4x.tif"), 1000)
        jobs.add([one] * 5, [1.0] * 5)
        for number, state in enumerate((State.DONE, State.FAILED, State.CANCELLED, State.RUNNING)):
            jobs.update(number, state=state)
        assert [j.number for j in jobs.open] == [3, 4]


def test_tile_windows_cover_the_result_exactly() -> None:
    width, height, total = 1301, 777, 0
    for reduce in (1, 2):
        side = TILE_PX * reduce
        windows = [
            TileKey(Source(Path("/a.jpg"), 1, 1), Recipe(), reduce, c, r).window(width, height)
            for r in range(-(-height // side))
            for c in range(-(-width // side))
        ]
        total = sum(w.width * w.height for w in windows)
        assert total == width * height


def test_tiles_of_another_view_are_other_tiles() -> None:
    one = TileKey(Source(Path("/a.png"), 1, 1), Recipe(), 1, 0, 0)
    assert TileKey(one.source, Recipe(), 1, 0, 0, view=ScreenView(screen=b"profile")) != one
