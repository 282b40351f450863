"""Takes the pictures of docs/screenshots from the demo data: ``make screenshots``."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import pyvips
from PySide6.QtCore import QRect
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QApplication, QScrollArea

from wamplex.app.shared import theme
from wamplex.app.shared.theme import apply_theme, deferred_stylesheet
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.window.main_window import ASSESS, DELIVER, FINISH, SIZE, TRIAL, MainWindow
from wamplex.core.demo import demo_pictures
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.read import read_picture
from wamplex.core.model.development import Development
from wamplex.core.sheet_export.cells import Column, render_cells
from wamplex.core.sheet_export.page_writers import write_sheet_png
from wamplex.core.sheet_export.sheet_layout import strip_cell_px, strip_page

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


class Session:
    """A window that is driven and photographed."""

    def __init__(self, app: QApplication, paths: list[Path]) -> None:
        with deferred_stylesheet(app):
            self.window = MainWindow()
        self.window.show()
        self.window.take_in(paths)
        tray = self.window.tray
        self.wait(lambda: all(e.usable or e.error for e in tray.entries))

    def wait(self, until: Callable[[], bool] = lambda: False, seconds: float = 60.0) -> None:
        """Let the window work until something is true."""
        end = time.monotonic() + seconds
        while time.monotonic() < end and not until():
            QApplication.processEvents()
            time.sleep(0.01)

    def select(self, name: str) -> None:
        """Select a picture by the start of its name."""
        tray = self.window.tray
        tray.select(next(e.number for e in tray.entries if e.path.name.startswith(name)))

    def shoot(self, name: str) -> None:
        """Save the window as it is."""
        self.wait(seconds=0.6)  # the bar of work that has ended is gone by then
        for _ in range(5):  # what was made in the last turn is laid out and shown in the next ones
            QApplication.processEvents()
        OUT.mkdir(parents=True, exist_ok=True)
        self.window.grab().save(str(OUT / f"{name}.png"))
        print(name)

    def tiles_made(self) -> bool:
        """Whether every tile in view is there."""
        step = self.window.trial_step
        keys = [key for _, _, key in step.open_view.needed_tiles()]
        return bool(keys) and all(step.cache.get(key) is not None for key in keys)

    def finish_made(self) -> bool:
        """Whether every tile of the Finish step is there."""
        step = self.window.finish_step
        keys = [key for _, key in step.pane.needed_tiles()]
        return bool(keys) and all(step.tiles.cache.get(key) is not None for key in keys)

    def readings_made(self) -> bool:
        """Whether every reading of the selected picture is there."""
        step, entry = self.window.trial_step, self.window.tray.current
        return entry is not None and not step.readings.missing(entry)

    def shoot_bench(self, name: str) -> None:
        """Save the window once everything in view has been made."""
        self.wait(seconds=0.2)
        self.wait(lambda: self.tiles_made() and self.readings_made())
        self.shoot(name)


def _shoot_trials(session: Session) -> None:
    window = session.window
    step = window.trial_step
    session.select("stage")
    window.open_step(TRIAL)
    window.tray.set_trials(window.tray.current.number, window.tray.current.trials.strike("B").activate("E"))
    session.shoot_bench("trial-sheet")
    step.viewport.move_to(0.36, 0.36)
    step.show_view("curtain")
    step.pair.first.setCurrentIndex(step.pair.first.findData("D"))
    step.pair.second.setCurrentIndex(step.pair.second.findData("E"))
    step.pair.first.activated.emit(0)
    session.shoot_bench("trial-curtain")
    step.show_view("linked")
    step.bar.trace_chosen.emit("block-marks")
    session.shoot_bench("trial-trace")
    step.bar.trace_chosen.emit(None)
    session.select("linocut")
    step.viewport.move_to(0.32, 0.12)
    number = window.tray.current.number
    trials = window.tray.current.trials
    window.tray.set_trials(number, trials.strike("A").strike("B").stamp(trials.rows[-1].letter))
    session.shoot_bench("trial-stamped")
    step.hide_names(True)
    session.shoot_bench("trial-blind")
    step.hide_names(False)
    window.tray.set_trials(number, window.tray.current.trials.stamp(trials.rows[-1].letter))
    test = window.open_test(number)
    test.run_test()
    session.wait(lambda: bool(test.answers) and not test.looks[0].pixmap().isNull())
    session.wait(seconds=0.5)
    test.grab().save(str(OUT / "known-answer.png"))
    test.close()
    print("known-answer")
    entry = window.tray.current
    assert entry is not None
    _shoot_strip(entry)


def _shoot_raw(session: Session) -> None:
    """A raw file brightened, and its trials: what was made of the mosaic beside what came after it."""
    window, step = session.window, session.window.trial_step
    session.select("dress-rehearsal")
    entry = window.tray.current
    window.open_step(ASSESS)
    bright = Development(exposure_ev=2.75, highlights="rebuild", curve="shoulder")
    window.tray.set_development(entry.number, bright, "exposure")
    before = entry.condition
    session.wait(lambda: not window.tray.thumbnails.to_be_developed)
    # It is measured anew as it is developed now.
    session.wait(lambda: entry.condition is not before and entry.condition.measured == before.measured)
    session.shoot("assess-raw")
    window.open_step(TRIAL)
    step.show_view("sheet")
    trials = entry.trials
    for letter in [t.letter for t in trials.remaining if t.upscaler_key in ("mitchell", "lanczos")]:
        trials = trials.strike(letter)
    tessera = next(t.letter for t in trials.remaining if t.upscaler_key == "tessera")
    window.tray.set_trials(entry.number, trials.activate(tessera))
    session.shoot_bench("trial-raw")


def _shoot_finish(session: Session) -> None:
    """A layer through a mask, faces apart, and the surface at full size."""
    window, step = session.window, session.window.finish_step
    window.open_step(FINISH)
    session.select("carved")
    entry = window.tray.current
    step.add_layer(None)
    step.begin_mask("subject")
    session.wait(lambda: entry.finish.layers[0].mask.initial_mask.kind == "subject")
    step.decisions.change_mask("inverted", True)
    step.decisions.change_mask("feather_px", 3.0)
    step.decisions.change_layer("strength", 35.0)
    session.wait(session.finish_made)
    session.shoot("finish-mix")
    session.select("rehearsal")
    for number in range(len(step.faces.boxes)):
        step.decisions.tick_face(number, True)
    step.decisions.change_faces("hold back", attenuation=60.0)
    step.decisions.change_sharpen("amount", 110.0)
    step.decisions.change_sharpen("floor", 1.0)
    step.decisions.change_grain("amount", 2.5)
    session.wait(session.finish_made)
    session.shoot("finish-faces")
    session.select("carved")
    step.bar.masks.button_for("off").click()
    step.decisions.change_sharpen("amount", 140.0)
    step.decisions.change_grain("amount", 3.0)
    step.viewport.set_zoom(1.0)
    step.viewport.move_to(0.5, 0.48)
    step.panel.findChild(QScrollArea).ensureWidgetVisible(step.readings)
    session.wait(session.finish_made)
    session.wait(lambda: step.readings.complete)
    session.shoot("finish-surface")
    _shoot_before_and_after(session)


def _shoot_before_and_after(session: Session) -> None:
    """The same place without Finish and with it, twice as large, side by side."""
    step = session.window.finish_step
    step.viewport.set_zoom(2.0)
    step.viewport.move_to(0.42, 0.42)
    halves = []
    for held in (True, False):
        step.show_while_pressed("before", held)
        session.wait(seconds=0.2)
        session.wait(session.finish_made)
        halves.append(step.pane.grab(QRect(100, 60, 480, 480)))
    joined = QPixmap(972, 480)
    joined.fill(theme.colour(theme.PANEL))
    painter = QPainter(joined)
    painter.drawPixmap(0, 0, halves[0])
    painter.drawPixmap(492, 0, halves[1])
    painter.end()
    joined.save(str(OUT / "finish-before-after.png"))
    print("finish-before-after")


def _shoot_sizes(session: Session) -> None:
    """Crop and paper, the wall, a refusal; then everything as it was."""
    window, step = session.window, session.window.size_step
    window.open_step(SIZE)
    session.select("rehearsal")
    number = window.tray.current.number
    crop = Crop(x=30, y=40, width=690, height=430)
    window.tray.set_framing(number, Framing(straighten_deg=0.6, crop=crop))
    a2 = next(paper for paper in PAPERS if paper.name == "A2")
    window.tray.set_sheet(number, Sheet(name=a2.text, width_mm=594, height_mm=420, margin_mm=12))
    window.tray.set_viewing_distance(number, 1000)
    session.shoot("size")
    step.show_view("wall")
    session.shoot("size-wall")
    step.show_view("crop")
    while window.tray.undo():
        pass
    step.panel.factor.entered.emit(12)
    session.shoot("size-refused")


def _shoot_recipes(session: Session) -> None:
    """Decisions of one picture for two others, and recipes that are kept."""
    window = session.window
    session.select("rehearsal")
    names = [entry.number for entry in window.tray.entries if entry.path.name[:4] in ("rehe", "stag")]
    window.tray.choose(names)
    dialog = window.open_recipes()
    for name in ("Foyer, 30 x 40 cm", "Programme, small"):
        dialog.name.setText(name)
        dialog.keep()
    dialog.list.setCurrentRow(0)
    session.wait(seconds=0.3)
    dialog.grab().save(str(OUT / "recipes.png"))
    dialog.close()
    print("recipes")


def _shoot_strip(entry: TrayEntry) -> None:
    """The paper strip as it will lie on the table, at half its density."""
    columns = [Column(t.letter, entry.trial_recipe(t)) for t in entry.trials.remaining]
    size = strip_cell_px("10x15", len(entry.spots), len(columns), 300)
    cells = render_cells(read_picture(entry.path), entry.path.name, entry.spots, columns, *size)
    path = OUT / "paper-strip.png"
    write_sheet_png(strip_page(cells, "10x15"), path, 300 / 25.4)
    pyvips.Image.new_from_file(str(path)).resize(0.5).write_to_file(str(path) + ".png")
    Path(str(path) + ".png").replace(path)
    print("paper-strip")


def main() -> None:
    """Drive the window through its steps."""
    home = tempfile.mkdtemp()
    for place in ("CONFIG", "DATA", "STATE", "CACHE"):  # nothing of the user's shows
        os.environ[f"XDG_{place}_HOME"] = f"{home}/{place}"
    app = QApplication([])
    apply_theme(app)
    folder = Path(tempfile.mkdtemp()) / "foyer-prints"
    folder.mkdir()
    paths = [Path(shutil.copy(p, folder)) for p in demo_pictures()]
    cut = folder / "interval-bell.jpg"
    cut.write_bytes(paths[-1].read_bytes()[:2000])
    session = Session(app, [cut, *paths])
    window = session.window
    session.wait(lambda: all(e.suggested is not None for e in window.tray.usable))
    session.select("stage")
    session.shoot("assess")
    _shoot_sizes(session)
    _shoot_trials(session)
    _shoot_raw(session)
    _shoot_finish(session)
    window.open_step(DELIVER)
    window.deliver_step.deliver_all()
    jobs = window.jobs
    session.wait(lambda: not jobs.open, 180)
    view = window.deliver_step.result_view
    stage = next(row for row in jobs.rows if row.name.name.startswith("stage"))
    window.deliver_step.rows[stage.number].look.click()
    session.wait(lambda: "Halos" in view.text)
    session.shoot("deliver")
    _shoot_recipes(session)
    window.open_step(SIZE)
    window.close()


if __name__ == "__main__":
    main()
