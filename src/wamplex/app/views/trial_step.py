"""The Trial step: trials side by side, moving together; strike, stamp."""

from __future__ import annotations

from collections import OrderedDict

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from wamplex.app.models.tray import Entry, Tray
from wamplex.app.models.viewport import Viewport
from wamplex.app.views.pane import Pane
from wamplex.app.views.parts import (
    Choice,
    button,
    clear,
    dimmed,
    frame,
    image_of,
    label,
    plain_widget,
    toolbar,
)
from wamplex.app.views.trial_head import TrialHead
from wamplex.app.views.trial_panel import TrialPanel
from wamplex.app.workers.tiles import TileKey, TileRenderer
from wamplex.core.upscale.registry import UPSCALERS

SOURCE_KEY = Qt.Key.Key_Q
_CACHE_BYTES = 600_000_000
_ZOOM_CHOICES: list[tuple[object, str, str]] = [
    (None, "Fit", "Show the whole picture in every pane"),
    (0.25, "25 %", "Sixteen result pixels share a screen pixel"),
    (0.5, "50 %", "Four result pixels share a screen pixel"),
    (1.0, "100 %", "Each result pixel has a screen pixel of its own"),
    (2.0, "200 %", "Show every result pixel 2 × 2"),
    (4.0, "400 %", "Show every result pixel 4 × 4"),
    (8.0, "800 %", "Show every result pixel 8 × 8"),
]


class TileCache:
    """Tile images, the ones used last, up to a number of bytes."""

    def __init__(self) -> None:
        self._images: OrderedDict[TileKey, QImage] = OrderedDict()
        self._bytes = 0

    def __len__(self) -> int:
        return len(self._images)

    def get(self, key: TileKey) -> QImage | None:
        """The image, if it is at hand."""
        image = self._images.get(key)
        if image is not None:
            self._images.move_to_end(key)
        return image

    def put(self, key: TileKey, image: QImage) -> None:
        """Keep an image."""
        if key in self._images:
            return
        self._images[key] = image
        self._bytes += image.sizeInBytes()
        while self._bytes > _CACHE_BYTES and len(self._images) > 1:
            _, old = self._images.popitem(last=False)
            self._bytes -= old.sizeInBytes()


class TrialStep(QWidget):
    """Bench and panel of the Trial step."""

    said = Signal(str)
    worked = Signal(float, str)

    def __init__(self, tray: Tray, renderer: TileRenderer) -> None:
        super().__init__()
        self._tray = tray
        self._renderer = renderer
        self.viewport = Viewport()
        self.viewport.zoom = 1.0
        self.cache = TileCache()
        self.panes: dict[str, Pane] = {}
        self.heads: dict[str, TrialHead] = {}
        self._source_held = False
        self._stopped = False
        self._placeholder: QImage | None = None
        self.zoom_buttons = Choice("Zoom", _ZOOM_CHOICES, self._choose_zoom)
        self._zoom_words = label("", "soft")
        self.add_button = button("Add a trial", "Compare one more upscaler", self._open_chooser)
        bar = toolbar(self.zoom_buttons, self._zoom_words, None, self.add_button)
        bench = plain_widget("bench")
        self._columns = QHBoxLayout(bench)
        self._columns.setContentsMargins(4, 4, 4, 4)
        self._columns.setSpacing(4)
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(bar)
        left.addWidget(bench, 1)
        self.panel = TrialPanel(self.viewport)
        self.panel.stamp_asked.connect(lambda letter: self._change("stamp", letter))
        self.panel.strike_asked.connect(lambda letter: self._change("strike", letter))
        self.panel.put_back_asked.connect(lambda letter: self._change("put_back", letter))
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(left, 1)
        whole.addWidget(self.panel)
        self.viewport.changed.connect(self._moved)
        renderer.made.connect(self._tile_made)
        renderer.working.connect(self._tell_work)
        renderer.idle.connect(self._tell_idle)
        tray.selected.connect(lambda _number: self.refresh())
        tray.changed.connect(self._entry_changed)

    def refresh(self) -> None:
        """Rebuild the row of panes from the selected entry."""
        clear(self._columns)
        self.panes, self.heads = {}, {}
        entry = self._tray.current
        if entry is None or not entry.usable:
            self._columns.addWidget(_centred("Add pictures to the tray to compare upscalers on them."))
            self.panel.show_entry(None)
            return
        assert entry.thumbnail is not None
        picture = image_of(entry.thumbnail)
        self._placeholder = dimmed(picture)
        for trial in entry.trials.kept:
            head = TrialHead(trial)
            head.strike_asked.connect(lambda t=trial.letter: self._change("strike", t))
            head.activated.connect(lambda t=trial.letter: self._change("activate", t))
            pane = Pane(self.viewport, self.cache.get)
            pane.setAccessibleName(f"Trial {trial.letter}, {trial.upscaler.name}")
            pane.activated.connect(lambda t=trial.letter: self._change("activate", t))
            pane.tiles_changed.connect(self._request)
            column = QVBoxLayout()
            column.setSpacing(0)
            column.addWidget(head)
            column.addWidget(pane, 1)
            self._columns.addLayout(column, 1)
            self.panes[trial.letter], self.heads[trial.letter] = pane, head
        self._show_results()
        self._show_marks(entry)
        self.panel.show_entry(entry, picture)
        self._moved()

    def hold_source(self, held: bool) -> None:
        """Show the source, enlarged without any smoothing, in every pane while held."""
        if held != self._source_held:
            self._source_held = held
            self._show_results()
            for head in self.heads.values():
                head.show_source(held)
            self._request()

    def cancel(self) -> None:
        """Stop rendering until something else is asked for."""
        self._stopped = True
        self._renderer.cancel()
        self.said.emit("Stopped. Move the picture to go on.")

    def _show_results(self) -> None:
        entry = self._tray.current
        if entry is None or not entry.usable:
            return
        assert entry.size is not None
        for letter, pane in self.panes.items():
            key = "nearest" if self._source_held else entry.trials.find(letter).upscaler_key
            pane.show_result(entry.path, entry.recipe(key), entry.size, self._placeholder)

    def _show_marks(self, entry: Entry) -> None:
        for letter, head in self.heads.items():
            head.mark(letter == entry.trials.active, letter == entry.trials.stamped)
            head.allow_strike(entry.trials.can_strike)
        self.add_button.setEnabled(entry.trials.can_add)

    def _entry_changed(self, number: int) -> None:
        entry = self._tray.entries[number]
        if entry is not self._tray.current or not entry.usable:
            return
        if {t.letter for t in entry.trials.kept} != set(self.panes):
            self.refresh()
        else:
            self._show_results()
            self._show_marks(entry)
            self.panel.show_entry(entry, None)
            self._moved()

    def _change(self, what: str, letter: str) -> None:
        entry = self._tray.current
        if entry is not None:
            self._tray.set_trials(entry.number, getattr(entry.trials, what)(letter))

    def _open_chooser(self) -> None:
        entry = self._tray.current
        if entry is None or not entry.usable:
            return
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for upscaler in UPSCALERS:
            action = menu.addAction(f"{upscaler.name}: {upscaler.purpose}")
            action.triggered.connect(
                lambda _checked=False, key=upscaler.key: self._tray.set_trials(
                    entry.number, entry.trials.add(key)
                )
            )
        menu.popup(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))

    def _choose_zoom(self, zoom: object) -> None:
        self.viewport.set_zoom(None if zoom is None else float(str(zoom)))

    def _moved(self) -> None:
        self._stopped = False
        self.zoom_buttons.show_value(self.viewport.zoom)
        pane = next(iter(self.panes.values()), None)
        if pane is not None:
            self._zoom_words.setText(f"{100 * pane.scale:.0f} %")
            seen, whole = pane.visible(), pane.result_pixels
            self.panel.map.show_part(
                QRectF(
                    seen.x() / whole.width(),
                    seen.y() / whole.height(),
                    seen.width() / whole.width(),
                    seen.height() / whole.height(),
                )
            )
        self._request()

    def _request(self) -> None:
        """Ask for the tiles in view that are not at hand, those in the middle of all panes first."""
        if self._stopped or not self.isVisible():
            return
        wanted = [
            (distance, i, key)
            for i, pane in enumerate(self.panes.values())
            for distance, key in pane.wanted_tiles()
            if self.cache.get(key) is None
        ]
        wanted.sort(key=lambda row: row[:2])
        unique = list(dict.fromkeys(key for _, _, key in wanted))
        self._renderer.want(unique)
        if not unique:
            self._tell_idle()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """The step was opened."""
        super().showEvent(event)
        self._moved()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Another step was opened: nothing is seen, so nothing is rendered."""
        super().hideEvent(event)
        self._renderer.cancel()

    def _tile_made(self, key: TileKey, pixels) -> None:  # type: ignore[no-untyped-def]
        self.cache.put(key, image_of(pixels))
        for pane in self.panes.values():
            pane.update()

    def _tell_work(self, done: int, total: int, upscaler_key: str) -> None:
        if self.isVisible() and not self._stopped:
            name = next(u.name for u in UPSCALERS if u.key == upscaler_key)
            self.worked.emit(done / max(total, 1), f"Rendering {done + 1} of {total} · {name}")

    def _tell_idle(self) -> None:
        if self.isVisible() and not self._stopped:
            self.said.emit("Hold Q to see the source · drag moves and the wheel zooms all panes")


def _centred(words: str) -> QWidget:
    box = frame("")
    inside = QVBoxLayout(box)
    text = label(words, "on-bench", wrap=True)
    text.setAlignment(Qt.AlignmentFlag.AlignCenter)
    inside.addWidget(text)
    return box
