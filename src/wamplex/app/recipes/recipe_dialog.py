"""Copies the decisions of one picture, or of a recipe, to others."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.shared.widgets import button, frame, label, plain_widget, row, set_tooltip
from wamplex.app.tray.decision_transfer import DecisionTransfer
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.trials import Trials
from wamplex.core.base.errors import WamplexError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.recipe_reader import read_recipe
from wamplex.core.workflow.recipe_transfer.named_recipe import name_recipe
from wamplex.core.workflow.recipe_transfer.part_text import PART_NAMES, part_text
from wamplex.core.workflow.recipe_transfer.recipe_store import forget_recipe, store_recipe, stored_recipes
from wamplex.core.workflow.recipe_transfer.similar_shots import group_similar_shots
from wamplex.core.workflow.recipe_transfer.transfer import PARTS, Part


@dataclass(frozen=True)
class RecipeOrigin:
    """A source of decisions.

    Attributes
    ----------
    is_stored : whether it is stored under a name, and can be forgotten
    trials : all trials of a picture of the tray
    """

    name: str
    recipe: Recipe
    delivery: Delivery | None = None
    is_stored: bool = False
    trials: Trials | None = None


class RecipeDialog(QDialog):
    """From where, what, and for which pictures."""

    used = Signal(str)  # what was done, in words
    delivery_applied = Signal(object)  # Delivery

    def __init__(self, tray: Tray, delivery: Delivery, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Recipes")
        self.resize(760, 470)
        self._tray, self._delivery = tray, delivery
        self._origins: list[RecipeOrigin] = []
        self._read: list[RecipeOrigin] = []
        self.list = QListWidget()
        self.list.setAccessibleName("Where the decisions come from")
        self.list.currentRowChanged.connect(lambda _row: self._show_origin())
        self.ticks: dict[Part, QCheckBox] = {part: QCheckBox() for part in PARTS}
        self._text = label("", "soft", wrap=True)
        self._make_controls()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._left())
        layout.addWidget(self._right(), 1)
        self._fill()

    @property
    def text(self) -> str:
        """Text on the last action."""
        return self._text.text()

    def use(self) -> None:
        """Take what is ticked over for the pictures asked for."""
        origin = self._origin
        parts = frozenset(part for part, tick in self.ticks.items() if tick.isChecked() and tick.isEnabled())
        if origin is None or not parts:
            self._text.setText("Tick what to apply.")
            return
        numbers: list[int] = self.targets.currentData()
        text = f"decisions from {origin.name}"
        transfer = DecisionTransfer(origin.recipe, parts, self.remeasured.isChecked(), text, origin.trials)
        notes = self._tray.carry(numbers, transfer)
        if "delivery" in parts and origin.delivery is not None:
            self.delivery_applied.emit(origin.delivery)
        count = "1 picture" if len(numbers) == 1 else f"{len(numbers)} pictures"
        texts = [f"{name}: {sentence}." for name, sentences in notes.items() for sentence in sentences]
        self._text.setText("\n".join([f"Applied to {count}. Ctrl+Z undoes it.", *texts[:6]]))
        self.used.emit(f"Applied from {origin.name} to {count}")

    def keep(self) -> None:
        """Keep the chosen decisions under the name that was typed."""
        origin = self._origin
        if origin is None:
            return
        try:
            saved, left_out = name_recipe(self.name.text(), origin.recipe, origin.delivery)
            store_recipe(saved)
        except WamplexError as error:
            self._text.setText(str(error))
            return
        self._fill(chosen=saved.name)
        self.name.clear()
        self._text.setText("\n".join([f"Stored as “{saved.name}”.", *(f"Left out: {w}." for w in left_out)]))

    def read_file(self, path: Path) -> None:
        """Offer the recipe that stands in a file."""
        try:
            recipe, _ = read_recipe(path)
        except WamplexError as error:
            self._text.setText(str(error))
            return
        self._read.append(RecipeOrigin(path.name, recipe))
        self._fill(chosen=path.name)

    @property
    def _origin(self) -> RecipeOrigin | None:
        place = self.list.currentRow()
        return self._origins[place] if 0 <= place < len(self._origins) else None

    def _fill(self, chosen: str | None = None) -> None:
        current = self._tray.current
        own = [] if current is None else [_as_decided(current, self._delivery)]
        stored = [RecipeOrigin(s.name, s.recipe, s.delivery, is_stored=True) for s in stored_recipes()]
        self._origins = [*own, *self._read, *stored]
        self.list.clear()
        self.list.addItems([_listed(origin, own) for origin in self._origins])
        names = [origin.name for origin in self._origins]
        self.list.setCurrentRow(names.index(chosen) if chosen in names else 0)
        self._fill_targets()

    def _fill_targets(self) -> None:
        tray, current = self._tray, self._tray.current
        self.targets.clear()
        chosen = [entry.number for entry in tray.chosen if entry.usable]
        if len(chosen) > 1:
            self.targets.addItem(f"the {len(chosen)} chosen pictures", chosen)
        if current is not None:
            shots = [(entry.number, entry.info.shot_info) for entry in tray.usable]
            similar = list(group_similar_shots(shots, current.number))
            if len(similar) > 1:
                self.targets.addItem(
                    f"the {len(similar)} pictures taken minutes before or after {current.path.name}", similar
                )
        everything = [entry.number for entry in tray.usable]
        if len(everything) > 1:
            self.targets.addItem(f"all {len(everything)} pictures", everything)
        if current is not None and current.usable:
            self.targets.addItem(f"{current.path.name} alone", [current.number])
        self.use_button.setEnabled(self.targets.count() > 0)

    def _show_origin(self) -> None:
        origin = self._origin
        for part, tick in self.ticks.items():
            text = "" if origin is None else part_text(part, origin.recipe, origin.delivery)
            tick.setText(f"{PART_NAMES[part]}: {text}" if text else f"{PART_NAMES[part]}: nothing decided")
            tick.setEnabled(bool(text))
            tick.setChecked(bool(text) and part != "delivery")
        self.forget_button.setEnabled(origin is not None and origin.is_stored)
        self._text.setText("")

    def _forget(self) -> None:
        origin = self._origin
        if origin is not None and origin.is_stored:
            forget_recipe(origin.name)
            self._fill()

    def _ask_file(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "A picture that Wamplex made")
        if chosen:
            self.read_file(Path(chosen))

    def _make_controls(self) -> None:
        self.as_in_recipe = QRadioButton("with its values")
        self.remeasured = QRadioButton("with values measured for each picture")
        self.as_in_recipe.setToolTip("Noise, compression and blur values of the recipe")
        self.remeasured.setToolTip("Noise, compression and blur values measured for each picture")
        self.remeasured.setChecked(True)
        self.targets = QComboBox()
        set_tooltip(self.targets, "For which pictures", "The pictures that the ticked decisions are applied to")
        self.name = QLineEdit()
        self.name.setPlaceholderText("name")
        set_tooltip(self.name, "Name of the recipe", "Name of the stored recipe")
        self.keep_button = button("Store", "Store these decisions under this name", self.keep)
        self.use_button = button("Apply", "Apply what is ticked to these pictures", self.use, "main")
        self.forget_button = button("delete", "Delete this recipe", self._forget, "link")
        for part, tick in self.ticks.items():
            tick.setToolTip(f"Whether {PART_NAMES[part].lower()} is taken over")

    def _left(self) -> QWidget:
        panel = plain_widget("tray")
        panel.setFixedWidth(230)
        inside = QVBoxLayout(panel)
        inside.addWidget(label("From", "heading"))
        inside.addWidget(self.list, 1)
        read = button("read from a file…", "Read the recipe inside a file", self._ask_file, "link")
        inside.addLayout(row(read, None, self.forget_button))
        return panel

    def _right(self) -> QWidget:
        panel = plain_widget("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(18, 12, 18, 14)
        inside.addWidget(label("What to apply", "heading"))
        for part, tick in self.ticks.items():
            inside.addWidget(tick)
            if part == "trial":
                inside.addLayout(row(22, self.as_in_recipe, None))
                inside.addLayout(row(22, self.remeasured, None))
        inside.addSpacing(6)
        inside.addLayout(row(label("For"), self.targets, None))
        inside.addWidget(frame("rule"))
        inside.addLayout(row(label("Store for other pictures as"), self.name, self.keep_button))
        inside.addWidget(self._text)
        inside.addStretch(1)
        close = button("Close", "Everything else stays", self.close)
        inside.addLayout(row(None, close, self.use_button))
        self._text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        return panel


def _as_decided(entry: TrayEntry, delivery: Delivery) -> RecipeOrigin:
    return RecipeOrigin(entry.path.name, entry.delivered_recipe(), delivery, trials=entry.trials)


def _listed(origin: RecipeOrigin, own: list[RecipeOrigin]) -> str:
    return f"{origin.name}, as decided" if origin in own else origin.name
