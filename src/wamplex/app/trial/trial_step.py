"""The Trial step: trials compared at the same places; strike, stamp."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from wamplex.app.bench.pane import Pane
from wamplex.app.bench.tile_scheduler import NeededTiles, TileScheduler
from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared.images import dim_image, to_image
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.tab_order import TabOrder
from wamplex.app.shared.widgets import frame, label, lay_out_step, plain_widget
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.trial.blind import BlindChoice
from wamplex.app.trial.linked_view import LinkedView
from wamplex.app.trial.pair_view import PairView
from wamplex.app.trial.readings_model import ReadingsModel
from wamplex.app.trial.scene import OUTSIDE, Scene, ViewName
from wamplex.app.trial.sheet_view import SheetView
from wamplex.app.trial.spots_controller import SpotsController
from wamplex.app.trial.trial_bar import TrialBar, is_preset
from wamplex.app.trial.trial_head import TrialHead
from wamplex.app.trial.trial_panel import TrialPanel
from wamplex.app.workers.rendering.readings import ReadingsThread
from wamplex.app.workers.rendering.tiles import TileRenderer
from wamplex.core.base.errors import SettingsError
from wamplex.core.colour.screen_view import ScreenView
from wamplex.core.model.settings import load_settings, save_settings
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler, is_known

_HINT = "Hold Q to see the source · drag moves and the wheel zooms all panes"


class TrialStep(QWidget):
    """Bar, bench with the open view, and panel; asks for the tiles that are in view."""

    announced = Signal(str)
    moving = Signal(bool)  # whether the picture is being moved, and other work had better wait
    worked = Signal(float, str)
    test_asked = Signal(int)  # number of the entry
    take_away_asked = Signal(int, str)  # number of the entry, what
    chosen_blindly = Signal(str, str)  # letter, upscaler key

    def __init__(self, tray: Tray, renderer: TileRenderer, readings: ReadingsThread) -> None:
        super().__init__()
        self._tray = tray
        self._readings = readings
        self.readings = ReadingsModel()
        self.viewport = Viewport()
        self.viewport.zoom = 1.0
        self.view: ViewName = "sheet"
        self._source_pressed = False
        self._trace: str | None = None
        self.spots = SpotsController(tray, self.viewport, self)
        self.blind = BlindChoice()
        self._placeholder: QImage | None = None
        self._shown_number: int | None = None
        self._shown_thumbnail: object = None
        self.tiles = TileScheduler(renderer, readings, self._needed_tiles, self._is_visible, self)
        self.cache = self.tiles.cache
        self.bar = TrialBar()
        self.linked = LinkedView(self.viewport, self.cache.get)
        self.sheet = SheetView(self.cache.get)
        self.pair = PairView(self.viewport, self.cache.get)
        self._empty = _centred("Add pictures to the tray to compare upscalers on them.")
        self._stack = QStackedWidget()
        for page in (self.linked, self.sheet, self.pair, self._empty):
            self._stack.addWidget(page)
        self.panel = TrialPanel(self.viewport)
        self._tabs = TabOrder(self)
        self._lay_out()
        self._connect()
        self.show_view("sheet")

    @property
    def panes(self) -> dict[str, Pane]:
        """Panes of the Linked view."""
        return self.linked.panes

    @property
    def heads(self) -> dict[str, TrialHead]:
        """Heads of the Linked view."""
        return self.linked.heads

    @property
    def open_view(self) -> LinkedView | SheetView | PairView:
        """The view in front."""
        return {"linked": self.linked, "sheet": self.sheet}.get(self.view, self.pair)  # type: ignore[return-value]

    def show_view(self, view: str) -> None:
        """Look at the trials in another way, at the same place."""
        self.view = view  # type: ignore[assignment]
        self.bar.show_view(self.view)
        if view in ("curtain", "blink", "difference"):
            self.pair.show_as(self.view)
        self.refresh()
        if view == "blink":
            self.pair.plain.setFocus()  # where the space bar holds it still

    def refresh(self) -> None:
        """Show the selected entry."""
        entry = self._tray.current
        if entry is None or not entry.usable:
            for view in (self.linked, self.sheet, self.pair):
                view.forget()
            self._shown_number = None
            self._stack.setCurrentWidget(self._empty)
            self.panel.show_entry(None)
            return
        assert entry.framed_thumbnail is not None
        picture = None
        if entry.number != self._shown_number:
            self._shown_number = entry.number
            self._show_names()
            self._shown_thumbnail = None
        if entry.framed_thumbnail is not self._shown_thumbnail:
            self._shown_thumbnail = entry.framed_thumbnail
            picture = to_image(entry.framed_thumbnail)
            self._placeholder = dim_image(picture)
        self._stack.setCurrentWidget(self.open_view)
        scene = self._scene(entry)
        self.open_view.show_scene(scene)
        offered = self.view == "linked" and (self.linked.two_rows_show_more or self.linked.rows == 2)
        self.bar.show_rows(self.linked.rows, offered)
        self.bar.add_button.setEnabled(entry.trials.can_add)
        self.bar.for_raw = entry.has_mosaic
        self.bar.proofed = self.viewport.view.proof is not None
        active = entry.trials.find(entry.trials.active)
        self.panel.show_entry(entry, picture, scene.mark(active) if self.blind.hidden else None)
        if self.blind.hidden:
            self.panel.show_pairs(len(entry.trials.remaining) > 2, self.blind.by_pairs)
        self.panel.show_map(self.view != "sheet")
        self._show_readings()
        if self.isVisible():  # another step may be measuring
            self._readings.request(self.readings.missing(entry))
        self._tabs.follow()  # heads and values may have been made anew
        self._moved()

    def hold_source(self, pressed: bool) -> None:
        """Show the source, enlarged without any smoothing, in place of every trial while held."""
        if pressed != self._source_pressed:
            self._source_pressed = pressed
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys for the active trial and the view."""
        entry = self._entry()
        if entry is None:
            super().keyPressEvent(event)
        elif is_key(event, "stamp"):
            self._change("stamp", entry.trials.active)
        elif is_key(event, "strike"):
            self._change("strike", entry.trials.active)
        elif is_key(event, "next-spot"):
            self.spots.step(-1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        elif is_key(event, "closer") or is_key(event, "farther"):
            steps = 1 if is_key(event, "closer") else -1
            self.viewport.step_zoom(120 * steps, next(iter(self.panes.values())).scale, (0.5, 0.5))
        elif is_key(event, "pause"):  # no shortcut: the space bar presses what has the focus
            self.pair.toggle_pause()
        elif is_key(event, "swap"):
            self.pair.exchange()
        else:
            super().keyPressEvent(event)

    def set_view(self, view: ScreenView) -> None:
        """Show colours on another screen, or as another print."""
        self.sheet.set_view(view)
        self.viewport.set_view(view)
        if view.proof is None and self._trace == OUTSIDE:
            self._choose_trace(None)
        self.refresh()

    def _set_rows(self, two: bool) -> None:
        self.linked.rows = 2 if two else 1
        self.refresh()

    def cancel(self) -> None:
        """Stop rendering until something else is asked for."""
        self.tiles.stop()
        self.announced.emit("Stopped. Move the picture to go on.")

    def _lay_out(self) -> None:
        bench = plain_widget("bench")
        inside = QVBoxLayout(bench)
        inside.setContentsMargins(4, 4, 4, 4)
        inside.addWidget(self._stack)
        lay_out_step(self, self.bar, bench, self.panel)

    def _connect(self) -> None:
        self.bar.view_chosen.connect(self.show_view)
        self.bar.zoom_chosen.connect(self._choose_zoom)
        self.bar.trace_chosen.connect(self._choose_trace)
        self.bar.trial_asked.connect(lambda key: self._change("add", key))
        self.bar.spot_asked.connect(self.spots.add)
        self.bar.rows_asked.connect(self._set_rows)
        self.bar.test_asked.connect(self._ask_test)
        self.panel.differ_asked.connect(self.spots.ask_where_they_differ)
        self.bar.favourites_asked.connect(self._keep_favourites)
        self.bar.hide_asked.connect(self.hide_names)
        self.bar.take_away_asked.connect(self._ask_take_away)
        self.panel.change_asked.connect(self._change)
        self.panel.pair_choice_asked.connect(self.choose_by_pairs)
        self.panel.better_asked.connect(self._choose_better)
        for view in (self.linked, self.sheet, self.pair):
            view.change_asked.connect(self._change)
            view.tiles_changed.connect(self.tiles.ask_soon)
        self.sheet.spots_chosen.connect(self.spots.use)
        self.sheet.opened.connect(self._look_closer)
        self.panel.stamp_asked.connect(lambda letter: self._change("stamp", letter))
        self.panel.strike_asked.connect(lambda letter: self._change("strike", letter))
        self.panel.put_back_asked.connect(lambda letter: self._change("put_back", letter))
        self.panel.values_chosen.connect(self._set_values)
        self.viewport.changed.connect(self._moved)
        self.tiles.tile_ready.connect(lambda key: self.open_view.repaint_tile(key))
        self._readings.ready.connect(self.readings.put)
        self.readings.changed.connect(self._show_readings)
        self.tiles.working.connect(self._tell_work)
        self.tiles.idle.connect(lambda: self.announced.emit(_HINT))
        self.tiles.moving.connect(self.moving)
        self.spots.announced.connect(self.announced)
        self._tray.selected.connect(self._entry_changed)
        self._tray.changed.connect(self._entry_changed)

    def _entry_changed(self, number: int) -> None:
        # Hidden, it is looked at again when it is opened: no other step shall wait for it.
        current = self._tray.current
        if self.isVisible() and (current is None or current.number == number):
            self.refresh()

    def _entry(self) -> TrayEntry | None:
        entry = self._tray.current
        return entry if entry is not None and entry.usable else None

    def _change(self, action: str, about: str) -> None:
        entry = self._entry()
        if entry is None:
            return
        trials = getattr(entry.trials, action)(about)
        if action == "stamp":
            trials = entry.fix_stamped_values(trials)
        decided = self.blind.decided(trials)
        if decided is not None:
            self._show_names()
            self.chosen_blindly.emit(decided.letter, decided.upscaler_key)
        self._tray.set_trials(entry.number, trials)

    def hide_names(self, hidden: bool) -> None:
        """Begin a blind choice, or give it up."""
        entry = self._entry()
        if entry is None:
            return
        self.blind = BlindChoice.among(entry.trials) if hidden else BlindChoice()
        self.bar.show_hidden(hidden)
        if hidden and entry.trials.stamped is not None:
            self._tray.set_trials(entry.number, entry.trials.stamp(entry.trials.stamped))
        self.refresh()

    def choose_by_pairs(self) -> None:
        """Two at a time, side by side."""
        self.blind = replace(self.blind, by_pairs=True)
        self.show_view("linked")

    def _choose_better(self, side: int) -> None:
        """Strike the worse of the pair; the last one left is stamped."""
        entry = self._entry()
        if entry is None or not self.blind.by_pairs:
            return
        pair = self._scene(entry).trials
        better, worse = pair[side], pair[1 - side]
        self._change("strike", worse.letter)
        if entry.trials.remaining == (entry.trials.find(better.letter),) and not entry.trials.stamped:
            self._change("stamp", better.letter)

    def _scene(self, entry: TrayEntry) -> Scene:
        return Scene(entry, self._source_pressed, self._trace, self._placeholder, self.blind, self.viewport.view)

    def _show_names(self) -> None:
        self.blind = BlindChoice()
        self.bar.show_hidden(False)

    def _set_values(self, letter: str, values: Values | None) -> None:
        entry = self._entry()
        if entry is not None:
            self._tray.set_trials(entry.number, entry.trials.set_values(letter, values))

    def _show_readings(self) -> None:
        entry = self._entry()
        # Unseen, they are shown when it is opened: Finish has readings made too, and shall not wait for this.
        if entry is not None and not self.blind.hidden and self.isVisible():
            spots, over_picture = (self.readings.standings(entry, over_picture=w) for w in (False, True))
            self.sheet.show_standings(spots)
            self.panel.readings.show_standings(entry.trials.active, spots, over_picture)

    def _ask_test(self) -> None:
        entry = self._entry()
        if entry is not None:
            self.test_asked.emit(entry.number)

    def _ask_take_away(self, kind: str) -> None:
        entry = self._entry()
        if entry is not None:
            self.take_away_asked.emit(entry.number, kind)

    def _look_closer(self, letter: str, x: float, y: float) -> None:
        self._change("activate", letter)
        self.viewport.move_to(x, y)
        self.show_view("linked")

    def _choose_zoom(self, zoom: object) -> None:
        zoom_now = self._print_zoom() if zoom == "print" else None if zoom is None else float(str(zoom))
        if self.view == "sheet" and zoom_now is not None:
            self.sheet.set_zoom(zoom_now)
            self._moved()
        else:
            self.viewport.set_zoom(zoom_now)

    def _print_zoom(self) -> float:
        """Screen pixels per result pixel at which a millimetre of the print is one on the screen."""
        entry = self._entry()
        density = entry.size.density_ppi if entry is not None and entry.size is not None else 300.0
        ratio = self.devicePixelRatioF()
        return float(self.screen().physicalDotsPerInch() * ratio / density)

    def _keep_favourites(self, usual: bool) -> None:
        entry = self._entry()
        if entry is None:
            return
        remaining = entry.trials.without_guests().remaining
        keys = () if usual else tuple(trial.upscaler_key for trial in remaining)
        try:
            save_settings(load_settings().replace(first_trials=keys))
        except SettingsError as error:
            self.announced.emit(str(error))
            return
        names = "the usual trials" if usual else ", ".join(t.upscaler.name for t in remaining)
        self.announced.emit(f"New pictures start with {names}.")

    def _choose_trace(self, trace: str | None) -> None:
        self._trace = trace
        self.bar.show_trace(trace)
        self.refresh()

    def _is_visible(self) -> bool:
        return self.isVisible() and self._shown_number is not None

    def _needed_tiles(self) -> NeededTiles:
        return self.open_view.needed_tiles()

    def _moved(self) -> None:
        pane = self.open_view.pane
        if pane is not None:
            scale = pane.scale
            self.bar.zoom_buttons.show_value(scale if self.view == "sheet" else self.viewport.zoom)
            preset = self.viewport.zoom is not None or self.view == "sheet"
            self.bar.zoom_text.setText("" if preset and is_preset(scale) else f"{100 * scale:.0f} %")
            if self.view != "sheet":
                self._show_place(pane)
        self.tiles.view_changed()

    def _show_place(self, pane: Pane) -> None:
        visible, full = pane.visible(), pane.result_pixels
        self.panel.map.show_part(
            QRectF(
                visible.x() / full.width(),
                visible.y() / full.height(),
                visible.width() / full.width(),
                visible.height() / full.height(),
            )
        )

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """The step was opened."""
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Another step was opened: nothing is seen, so nothing is rendered."""
        super().hideEvent(event)
        self.tiles.leave()

    def _tell_work(self, done: int, total: int, upscaler_key: str) -> None:
        # A guest may have been let go of while its tiles were under way.
        is_named = not self.blind.hidden and is_known(upscaler_key)
        name = f" · {find_upscaler(upscaler_key).name}" if is_named else ""
        self.worked.emit(done / max(total, 1), f"Rendering {done + 1} of {total}{name}")


def _centred(sentence: str) -> QWidget:
    box = frame("")
    inside = QVBoxLayout(box)
    text = label(sentence, "on-bench", wrap=True)
    text.setAlignment(Qt.AlignmentFlag.AlignCenter)
    inside.addWidget(text)
    return box
