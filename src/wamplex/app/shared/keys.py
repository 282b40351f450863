"""All keys in one table, for key bindings and for the help sheet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from PySide6.QtGui import QKeyEvent, QKeySequence

Where = Literal["Everywhere", "Tray", "1 Assess", "3 Trial", "4 Finish"]


@dataclass(frozen=True)
class KeyBinding:
    """What a key does.

    Attributes
    ----------
    keys : as Qt writes them, any of which does it
    text : what it does, for the help sheet
    """

    name: str
    keys: tuple[str, ...]
    text: str
    where: Where = "Everywhere"


KEYS: tuple[KeyBinding, ...] = (
    *(
        KeyBinding(f"step-{number}", (str(number),), f"open the step {name}")
        for number, name in enumerate(("Assess", "Size", "Trial", "Finish", "Deliver"), start=1)
    ),
    KeyBinding("source", ("Q",), "hold: show the source"),
    KeyBinding("add", ("Ctrl+O",), "add pictures"),
    KeyBinding("paste", ("Ctrl+V",), "paste copied files, or a picture"),
    KeyBinding("next", ("Ctrl+PgDown",), "next picture"),
    KeyBinding("previous", ("Ctrl+PgUp",), "previous picture"),
    KeyBinding("undo", ("Ctrl+Z",), "undo"),
    KeyBinding("redo", ("Ctrl+Shift+Z",), "redo"),
    KeyBinding("recipes", ("Ctrl+R",), "copy decisions to other pictures"),
    KeyBinding("save", ("Ctrl+S",), "save the project"),
    KeyBinding("save-elsewhere", ("Ctrl+Shift+S",), "save under another name"),
    KeyBinding("open-project", ("Ctrl+Shift+O",), "open a project"),
    KeyBinding("tray", ("F9",), "show or hide the tray"),
    KeyBinding("panel", ("F8",), "show or hide the panel"),
    KeyBinding("bare", ("F11",), "show only the picture, or everything again"),
    KeyBinding("help", ("F1",), "help"),
    KeyBinding("what", ("Shift+F1",), "then click something: what is this?"),
    KeyBinding("preferences", ("Ctrl+,",), "preferences"),
    KeyBinding("quit", ("Ctrl+Q",), "quit"),
    KeyBinding("remove", ("Del",), "remove the selected pictures from the tray", "Tray"),
    KeyBinding("next-mark", ("PgDown",), "select the next spot; arrows move it, Del deletes it", "1 Assess"),
    KeyBinding("previous-mark", ("PgUp",), "select the previous spot", "1 Assess"),
    KeyBinding("next-spot", ("N",), "next spot (with Shift, the previous one)", "3 Trial"),
    KeyBinding("stamp", ("T",), "stamp the active trial, or remove the stamp", "3 Trial"),
    KeyBinding("strike", ("K",), "strike the active trial", "3 Trial"),
    KeyBinding("closer", ("+", "="), "zoom in", "3 Trial"),
    KeyBinding("farther", ("-",), "zoom out", "3 Trial"),
    KeyBinding("swap", ("V",), "swap the sides of the curtain", "3 Trial"),
    KeyBinding("curtain-back", (",",), "move the curtain left", "3 Trial"),
    KeyBinding("curtain-on", (".",), "move the curtain right", "3 Trial"),
    KeyBinding("pause", ("Space",), "pause or resume blinking", "3 Trial"),
    KeyBinding("before", ("W",), "hold: show the result before Finish", "4 Finish"),
    KeyBinding("finish-spot", ("N",), "next spot (with Shift, the previous one)", "4 Finish"),
    KeyBinding("brush-smaller", (",",), "a smaller brush", "4 Finish"),
    KeyBinding("brush-larger", (".",), "a larger brush", "4 Finish"),
    KeyBinding("brush-softer", (";", "<"), "a softer brush", "4 Finish"),
    KeyBinding("brush-harder", (":", ">"), "a harder brush", "4 Finish"),
    KeyBinding("brush-turn", ("A",), "switch between adding and erasing", "4 Finish"),
)


def find_binding(name: str) -> KeyBinding:
    """Find the key binding of a name."""
    return next(entry for entry in KEYS if entry.name == name)


def is_key(event: QKeyEvent, name: str) -> bool:
    """Whether an event is one of the keys of a name, whatever is held beside it."""
    return QKeySequence(event.key()).toString(QKeySequence.SequenceFormat.PortableText) in find_binding(name).keys
