"""The Finish step: layers, masks and brush, faces, surface, over one large view of the result."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent, QImage, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QFileDialog, QStackedWidget, QVBoxLayout, QWidget

from wamplex.app.bench.spot_walk import SpotWalk
from wamplex.app.bench.tile_cache import TileCache
from wamplex.app.bench.tile_scheduler import NeededTiles, TileScheduler
from wamplex.app.bench.viewport import Viewport
from wamplex.app.finish.brush import Brush
from wamplex.app.finish.faces_part import FacesPart
from wamplex.app.finish.finish_bar import FinishBar
from wamplex.app.finish.finish_decisions import FinishDecisions
from wamplex.app.finish.finish_pane import FinishPane
from wamplex.app.finish.mix_part import MixPart
from wamplex.app.finish.readings_part import ReadingsPart
from wamplex.app.finish.surface_part import SurfacePart
from wamplex.app.shared.images import dim_image, to_image
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.render_requests import ReadingsKey
from wamplex.app.shared.tab_order import TabOrder
from wamplex.app.shared.widgets import frame, label, lay_out_step, plain_widget, scrolling_panel
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.finish_edits import edit_layer, present_faces
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.masks import MaskWorker
from wamplex.app.workers.rendering.readings import ReadingsThread
from wamplex.app.workers.rendering.tiles import TileRenderer
from wamplex.core.finish.mask_stage import source_to_result
from wamplex.core.finish.strokes import encode_points
from wamplex.core.intake.formats import FILE_DIALOG_PATTERNS
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import BeginningKind, Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import find_upscaler

_HINT = "Hold Q for the source, W for the result before Finish · N goes to the next spot"


class FinishStep(QWidget):
    """Bar, bench and panel; asks for tiles and masks, and decides what was chosen."""

    announced = Signal(str)
    moving = Signal(bool)
    worked = Signal(float, str)

    def __init__(
        self, tray: Tray, renderer: TileRenderer, readings: ReadingsThread, masks: MaskWorker, cache: TileCache
    ) -> None:
        super().__init__()
        self._tray = tray
        self.decisions = FinishDecisions(tray, masks)
        self.viewport = Viewport()
        self._mask_shown = "off"
        self._pressed: str = ""  # "source" or "before" while a key is held
        self._tool = "look"
        self._walk = SpotWalk(self.viewport)
        self._shown: tuple[object, ...] = ()
        self._thumbnail: object = None
        self._placeholder: QImage | None = None
        self._readings = readings
        self._measured: dict[ReadingsKey, dict[str, float]] = {}
        self.tiles = TileScheduler(renderer, readings, self._needed_tiles, self._is_visible, self, cache)
        self.pane = FinishPane(self.viewport, self.tiles.cache.get)
        self.bar = FinishBar()
        self.mix, self.faces, self.surface = MixPart(), FacesPart(), SurfacePart()
        self.readings = ReadingsPart()
        self.panel, inside = scrolling_panel()
        inside.addWidget(self.mix)
        for part in (self.faces, self.surface, self.readings):
            inside.addWidget(frame("rule"))
            inside.addWidget(part)
        inside.addStretch(1)
        self._empty = label("Add pictures to the tray to finish them.", "on-bench", wrap=True)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.pane)
        self._stack.addWidget(self._empty)
        bench = plain_widget("bench")
        around = QVBoxLayout(bench)
        around.setContentsMargins(4, 4, 4, 4)
        around.addWidget(self._stack)
        lay_out_step(self, self.bar, bench, self.panel)
        self._tabs = TabOrder(self)
        self._connect()
        self.refresh()

    def refresh(self) -> None:
        """Show the selected entry."""
        entry = self._entry()
        self._stack.setCurrentWidget(self._empty if entry is None else self.pane)
        self.panel.setEnabled(entry is not None)
        if entry is None:
            return
        self.decisions.choose_among(len(entry.finish.layers))
        if self._mask is None:
            self._mask_shown = "off"
            self._tool = "look" if self._tool in ("add", "take", "pick") else self._tool
        self._show_picture(entry)
        self.mix.show_entry(entry, self.decisions.chosen)
        self.faces.show_entry(entry, present_faces(entry), adding=self._tool == "oval")
        others = [other for other in self._tray.usable if other is not entry]
        self.surface.show_entry(entry, others, self._mask)
        self._show_tools()
        self._measure(entry)
        self._tabs.follow()  # layers and faces may have been made anew
        self._moved()

    def show_while_pressed(self, overlay: str, pressed: bool) -> None:
        """Show the source, or the result before Finish, while a key is held."""
        overlay = overlay if pressed and self.isVisible() else ""
        if overlay != self._pressed:
            self._pressed = overlay
            self.refresh()

    def cancel(self) -> None:
        """Stop rendering until something else is asked for."""
        self.tiles.stop()
        self.announced.emit("Stopped. Move the picture to go on.")

    # Showing.

    def _show_picture(self, entry: TrayEntry) -> None:
        assert entry.size is not None
        assert entry.header is not None
        if entry.framed_thumbnail is not None and entry.framed_thumbnail is not self._thumbnail:
            self._thumbnail = entry.framed_thumbnail
            self._placeholder = dim_image(to_image(entry.framed_thumbnail))
        place = (entry.number, entry.source, entry.size, entry.framing)
        if place != self._shown:
            if self._shown[:1] != place[:1]:
                self._walk, self.viewport.zoom = SpotWalk(self.viewport), None
            self._shown = place
            self.pane.forget_images()
        recipe = self._recipe(entry)
        self.pane.lies(source_to_result(entry.header.width, entry.header.height, recipe), *_size(entry))
        self.pane.show_result(entry.source, recipe, entry.size, self._placeholder)
        shown = self._mask if self._mask_shown != "off" and not self._pressed else None
        self.pane.show_mask(shown, alone=self._mask_shown == "alone")
        faces = present_faces(entry)
        self.pane.faces = faces.ellipses if entry.finish.faces is not None or self._tool == "oval" else ()

    def _recipe(self, entry: TrayEntry) -> Recipe:
        recipe = entry.delivered_recipe().replace(sheet=None)
        if self._pressed == "source":
            return recipe.unfinished.replace(base=TrialSpec(upscaler="nearest"))
        return recipe.unfinished if self._pressed == "before" else recipe

    def _measure(self, entry: TrayEntry) -> None:
        """Readings at the spots, before and after Finish."""
        places = tuple((spot.x, spot.y) for spot in entry.spots)
        recipe = entry.delivered_recipe().replace(sheet=None)
        keys = [ReadingsKey(entry.source, r, places) for r in (recipe.unfinished, recipe)]
        self.readings.setVisible(bool(places) and recipe != recipe.unfinished)
        self.readings.show_readings(*(self._measured.get(key) for key in keys))
        if self.isVisible() and self.readings.isVisibleTo(self):
            self._readings.request([key for key in dict.fromkeys(keys) if key not in self._measured])

    def _take_readings(self, key: ReadingsKey, values: dict[str, float]) -> None:
        if self.isVisible():
            self._measured[key] = values
            entry = self._entry()
            if entry is not None:
                self._measure(entry)

    def _show_tools(self) -> None:
        paints = self._mask is not None
        pane_tool = {"add": "paint", "take": "paint"}.get(self._tool, self._tool)
        self.pane.take_up(pane_tool)  # type: ignore[arg-type]
        self.bar.show_brush(self.pane.brush)
        self.bar.show_state(tool=self._tool, mask=self._mask_shown, zoom=self.viewport.zoom, paints=paints)

    @property
    def _mask(self) -> Mask | None:
        return self.decisions.mask

    # Choosing.

    def add_layer(self, source_trial: TrialSpec | None) -> None:
        """Lay a trial, or the source, over what there is, and take up the brush."""
        self._tool, self._mask_shown = "add", "tint"
        self.decisions.add_layer(source_trial)

    def choose_layer(self, number: int) -> None:
        """Work on another layer."""
        if number >= 0:
            self.decisions.chosen = number
        self.refresh()

    def begin_mask(self, kind: BeginningKind) -> None:
        """Have the chosen layer's mask begin somewhere else; a colour is picked, a file chosen first."""
        self._mask_shown = "tint"
        if kind == "colours":
            self._tool = "pick"
            self.announced.emit("Click a colour in the picture")
            self.refresh()
        elif kind == "file":
            chosen, _ = QFileDialog.getOpenFileName(
                self, "A grey picture as a mask", "", f"Pictures ({FILE_DIALOG_PATTERNS})"
            )
            if chosen:
                self.decisions.begin_mask("file", path=Path(chosen))
        elif kind == "tones":
            self.decisions.begin_mask("tones", low=0.0, high=40.0, soft=15.0)
        else:
            self.decisions.begin_mask(kind)

    def _pick(self, x: float, y: float) -> None:
        self._tool = "look"
        self.decisions.begin_mask("colours", place=(x, y))

    def _set_tones(self, low: float, high: float, soft: float) -> None:
        self.decisions.begin_mask("tones", low=min(low, high), high=max(low, high), soft=soft)

    def _set_radius(self, radius: float) -> None:
        mask = self._mask
        if mask is not None and mask.initial_mask.colour is not None:
            self.decisions.begin_mask("colours", colour=mask.initial_mask.colour, colour_tolerance=max(radius, 1.0))

    def _add_ellipse(self, x: float, y: float, width: float, height: float) -> None:
        self._tool = "look"
        self.decisions.add_face(x, y, width, height)

    def _ask_ellipse(self, drawing: bool) -> None:
        self._tool = "oval" if drawing else "look"
        self.refresh()

    def _ask_tone(self, number: int | None, colour: bool) -> None:
        if number is None:
            chosen, _ = QFileDialog.getOpenFileName(self, "Match tone to", "", f"Pictures ({FILE_DIALOG_PATTERNS})")
            path = Path(chosen) if chosen else None
        else:
            path = self._tray.entry(number).path
        if path is not None:
            self.decisions.take_tone_from(path, colour)

    # Looking.

    def _choose_tool(self, tool: str) -> None:
        self._tool = tool
        if tool in ("add", "take"):
            self.pane.set_brush(replace(self.pane.brush, adds=tool == "add"))
            if self._mask_shown == "off":
                self._mask_shown = "tint"
        self.refresh()

    def _choose_brush(self, brush: Brush) -> None:
        if self._tool in ("add", "take"):
            self._tool = "add" if brush.adds else "take"
        self.pane.set_brush(brush)
        self._show_tools()

    def _choose_mask(self, which: str) -> None:
        self._mask_shown = which
        self.refresh()

    def _choose_zoom(self, zoom: object) -> None:
        if zoom == "print":
            entry = self._entry()
            density = entry.size.density_ppi if entry is not None and entry.size is not None else 300.0
            zoom = float(self.screen().physicalDotsPerInch() * self.devicePixelRatioF() / density)
        self.viewport.set_zoom(None if zoom is None else float(str(zoom)))

    def step_spot(self, by: int) -> None:
        """Look at the next spot, or the one before."""
        entry = self._entry()
        self.announced.emit(self._walk.step(() if entry is None else entry.spots, by))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """N steps through the spots."""
        if is_key(event, "finish-spot"):
            self.step_spot(-1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        else:
            super().keyPressEvent(event)

    def _moved(self) -> None:
        self.bar.zooms.show_value(self.viewport.zoom)
        self.tiles.view_changed()

    def _connect(self) -> None:
        self.bar.tool_chosen.connect(self._choose_tool)
        self.bar.brush_chosen.connect(self._choose_brush)
        self.bar.mask_chosen.connect(self._choose_mask)
        self.bar.zoom_chosen.connect(self._choose_zoom)
        self.bar.before_pressed.connect(lambda held: self.show_while_pressed("before", held))
        self.bar.spot_asked.connect(self.step_spot)
        self.pane.painted.connect(lambda points: self.decisions.paint(self.pane.brush.stroke(points)))
        self.pane.drawing.connect(self.tiles.draw)
        self.pane.brush_changed.connect(self._choose_brush)
        self.pane.picked.connect(self._pick)
        self.pane.ellipse_drawn.connect(self._add_ellipse)
        self.pane.tiles_changed.connect(self.tiles.ask_soon)
        self._connect_parts()
        self._readings.ready.connect(self._take_readings)
        self.viewport.changed.connect(self._moved)
        self.tiles.tile_ready.connect(self._use_tile)
        self.tiles.idle.connect(self._use_idle)
        self.tiles.working.connect(self._tell_work)
        self.tiles.moving.connect(self.moving)
        self._tray.selected.connect(self._entry_changed)
        self._tray.changed.connect(self._entry_changed)

    def _connect_parts(self) -> None:
        decisions, mix, faces, surface = self.decisions, self.mix, self.faces, self.surface
        decisions.announced.connect(self.announced)
        mix.layer_asked.connect(self.add_layer)
        mix.layer_chosen.connect(self.choose_layer)
        mix.mask_asked.connect(self.begin_mask)
        mix.tones_asked.connect(self._set_tones)
        mix.radius_asked.connect(self._set_radius)
        mix.changed.connect(decisions.change_layer)
        mix.mask_changed.connect(decisions.change_mask)
        mix.done.connect(decisions.do_layer)
        faces.source_trial_asked.connect(lambda trial: decisions.change_faces("trial of faces", source_trial=trial))
        faces.ticked.connect(decisions.tick_face)
        faces.one_asked.connect(decisions.set_face)
        faces.removed.connect(decisions.remove_face)
        faces.add_asked.connect(self._ask_ellipse)
        faces.closer_asked.connect(decisions.look_closer_for_faces)
        faces.changed.connect(lambda name, value: decisions.change_faces("faces", flows=True, **{name: value}))
        surface.sharpen_changed.connect(decisions.change_sharpen)
        surface.grain_changed.connect(decisions.change_grain)
        surface.where_asked.connect(decisions.set_where)
        surface.reference_asked.connect(self._ask_tone)
        surface.tone_changed.connect(decisions.set_tone_strength)
        surface.tone_dropped.connect(decisions.drop_tone)

    def _use_tile(self, key: object) -> None:
        if self.isVisible():
            self.pane.update()

    def _use_idle(self) -> None:
        self.pane.idle()
        self.announced.emit(_HINT)

    def _tell_work(self, done: int, total: int, upscaler_key: str) -> None:
        name = find_upscaler(upscaler_key).name
        self.worked.emit(done / max(total, 1), f"Rendering {done + 1} of {total} · {name}")

    def _entry_changed(self, number: int) -> None:
        # Hidden, it is looked at again when it is opened: no other step shall wait for it.
        current = self._tray.current
        if self.isVisible() and (current is None or current.number == number):
            self.refresh()

    def _entry(self) -> TrayEntry | None:
        return self.decisions.entry

    def _is_visible(self) -> bool:
        return self.isVisible() and self._entry() is not None

    def _needed_tiles(self) -> NeededTiles:
        for distance, key in self.pane.needed_tiles():
            # Where a stroke was drawn is seen already: its pixels come first.
            yield (distance if key.overlay.mask is None else distance + 5e5), 0, key
        entry = self._entry()
        if entry is not None and self._tool in ("add", "take") and not self._pressed:
            yield from self._ahead(self._recipe(entry))

    def _ahead(self, recipe: Recipe) -> NeededTiles:
        """Render the selected layer without its mask, so that the first stroke need not wait."""
        chosen = self.decisions.chosen
        if self._mask is None or chosen is None or recipe.layers[chosen].source_trial is None:
            return
        everywhere = edit_layer(recipe.finish, chosen, mask=Mask(strokes=process_assets().put(encode_points(()))))
        for distance, key in self.pane.tiles_of(recipe.finished(everywhere)):
            yield distance + 1e6, 1, key

    def showEvent(self, event: QShowEvent) -> None:
        """The step was opened."""
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        """Another step was opened: nothing is seen, so nothing is rendered."""
        super().hideEvent(event)
        self._pressed = ""
        self.tiles.leave()


def _size(entry: TrayEntry) -> tuple[int, int]:
    assert entry.header is not None
    return entry.header.width, entry.header.height
