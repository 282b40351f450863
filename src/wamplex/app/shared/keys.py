"""All keys in one table: what they are bound from, and what the help sheet shows."""

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
    words : what it does, for the help sheet
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
    KeyBinding("source", ("Q",), "held: see the source instead"),
    KeyBinding("add", ("Ctrl+O",), "add pictures"),
    KeyBinding("paste", ("Ctrl+V",), "take in what was copied: files, or a picture"),
    KeyBinding("next", ("Ctrl+PgDown",), "the next picture"),
    KeyBinding("previous", ("Ctrl+PgUp",), "the picture before"),
    KeyBinding("undo", ("Ctrl+Z",), "take the last decision back"),
    KeyBinding("redo", ("Ctrl+Shift+Z",), "decide it again"),
    KeyBinding("recipes", ("Ctrl+R",), "take decisions over for other pictures"),
    KeyBinding("save", ("Ctrl+S",), "save the project"),
    KeyBinding("save-elsewhere", ("Ctrl+Shift+S",), "save it under another name"),
    KeyBinding("open-project", ("Ctrl+Shift+O",), "open a project"),
    KeyBinding("tray", ("F9",), "show or hide the tray"),
    KeyBinding("panel", ("F8",), "show or hide the panel"),
    KeyBinding("bare", ("F11",), "hide everything but the picture, or show it again"),
    KeyBinding("help", ("F1",), "this sheet"),
    KeyBinding("what", ("Shift+F1",), "then point at something: what is this?"),
    KeyBinding("preferences", ("Ctrl+,",), "preferences"),
    KeyBinding("quit", ("Ctrl+Q",), "end"),
    KeyBinding("remove", ("Del",), "take the chosen pictures out of the tray", "Tray"),
    KeyBinding("next-mark", ("PgDown",), "choose the next spot; arrows move it, Del deletes it", "1 Assess"),
    KeyBinding("previous-mark", ("PgUp",), "choose the spot before", "1 Assess"),
    KeyBinding("next-spot", ("N",), "go to the next spot (with Shift, the one before)", "3 Trial"),
    KeyBinding("stamp", ("T",), "stamp the trial that is looked at, or take the stamp off", "3 Trial"),
    KeyBinding("strike", ("K",), "strike the trial that is looked at", "3 Trial"),
    KeyBinding("closer", ("+", "="), "look closer", "3 Trial"),
    KeyBinding("farther", ("-",), "look from farther", "3 Trial"),
    KeyBinding("swap", ("V",), "exchange the sides of the curtain", "3 Trial"),
    KeyBinding("curtain-back", (",",), "draw the curtain back", "3 Trial"),
    KeyBinding("curtain-on", (".",), "draw the curtain on", "3 Trial"),
    KeyBinding("pause", ("Space",), "hold blinking, or let it go on", "3 Trial"),
    KeyBinding("before", ("W",), "held: see the result before Finish", "4 Finish"),
    KeyBinding("finish-spot", ("N",), "go to the next spot (with Shift, the one before)", "4 Finish"),
    KeyBinding("brush-smaller", (",",), "a smaller brush", "4 Finish"),
    KeyBinding("brush-larger", (".",), "a larger brush", "4 Finish"),
    KeyBinding("brush-softer", (";", "<"), "a softer brush", "4 Finish"),
    KeyBinding("brush-harder", (":", ">"), "a harder brush", "4 Finish"),
    KeyBinding("brush-turn", ("A",), "paint in, or take away", "4 Finish"),
)


def find_binding(name: str) -> KeyBinding:
    """What is bound under a name."""
    return next(entry for entry in KEYS if entry.name == name)


def is_key(event: QKeyEvent, name: str) -> bool:
    """Whether an event is one of the keys of a name, whatever is held beside it."""
    return QKeySequence(event.key()).toString(QKeySequence.SequenceFormat.PortableText) in find_binding(name).keys
