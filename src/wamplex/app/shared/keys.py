"""All keys in one table: what they are bound from, and what the help sheet shows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from PySide6.QtGui import QKeyEvent, QKeySequence

Where = Literal["Everywhere", "Tray", "1 Assess", "3 Trial", "4 Finish"]


@dataclass(frozen=True)
class Bound:
    """What a key does.

    Attributes
    ----------
    keys : as Qt writes them, any of which does it
    words : what it does, for the help sheet
    """

    name: str
    keys: tuple[str, ...]
    words: str
    where: Where = "Everywhere"


KEYS: tuple[Bound, ...] = (
    *(
        Bound(f"step-{number}", (str(number),), f"open the step {name}")
        for number, name in enumerate(("Assess", "Size", "Trial", "Finish", "Deliver"), start=1)
    ),
    Bound("source", ("Q",), "held: see the source instead"),
    Bound("add", ("Ctrl+O",), "add pictures"),
    Bound("paste", ("Ctrl+V",), "take in what was copied: files, or a picture"),
    Bound("next", ("Ctrl+PgDown",), "the next picture"),
    Bound("previous", ("Ctrl+PgUp",), "the picture before"),
    Bound("undo", ("Ctrl+Z",), "take the last decision back"),
    Bound("redo", ("Ctrl+Shift+Z",), "decide it again"),
    Bound("recipes", ("Ctrl+R",), "take decisions over for other pictures"),
    Bound("save", ("Ctrl+S",), "save the project"),
    Bound("save-elsewhere", ("Ctrl+Shift+S",), "save it under another name"),
    Bound("open-project", ("Ctrl+Shift+O",), "open a project"),
    Bound("tray", ("F9",), "show or hide the tray"),
    Bound("panel", ("F8",), "show or hide the panel"),
    Bound("bare", ("F11",), "hide everything but the picture, or show it again"),
    Bound("help", ("F1",), "this sheet"),
    Bound("what", ("Shift+F1",), "then point at something: what is this?"),
    Bound("preferences", ("Ctrl+,",), "preferences"),
    Bound("quit", ("Ctrl+Q",), "end"),
    Bound("remove", ("Del",), "take the chosen pictures out of the tray", "Tray"),
    Bound("next-mark", ("PgDown",), "choose the next spot; arrows move it, Del deletes it", "1 Assess"),
    Bound("previous-mark", ("PgUp",), "choose the spot before", "1 Assess"),
    Bound("next-spot", ("N",), "go to the next spot (with Shift, the one before)", "3 Trial"),
    Bound("stamp", ("T",), "stamp the trial that is looked at, or take the stamp off", "3 Trial"),
    Bound("strike", ("K",), "strike the trial that is looked at", "3 Trial"),
    Bound("closer", ("+", "="), "look closer", "3 Trial"),
    Bound("farther", ("-",), "look from farther", "3 Trial"),
    Bound("swap", ("V",), "exchange the sides of the curtain", "3 Trial"),
    Bound("curtain-back", (",",), "draw the curtain back", "3 Trial"),
    Bound("curtain-on", (".",), "draw the curtain on", "3 Trial"),
    Bound("pause", ("Space",), "hold blinking, or let it go on", "3 Trial"),
    Bound("before", ("W",), "held: see the result before Finish", "4 Finish"),
    Bound("finish-spot", ("N",), "go to the next spot (with Shift, the one before)", "4 Finish"),
    Bound("brush-smaller", (",",), "a smaller brush", "4 Finish"),
    Bound("brush-larger", (".",), "a larger brush", "4 Finish"),
    Bound("brush-softer", (";", "<"), "a softer brush", "4 Finish"),
    Bound("brush-harder", (":", ">"), "a harder brush", "4 Finish"),
    Bound("brush-turn", ("A",), "paint in, or take away", "4 Finish"),
)


def bound(name: str) -> Bound:
    """What is bound under a name."""
    return next(entry for entry in KEYS if entry.name == name)


def is_key(event: QKeyEvent, name: str) -> bool:
    """Whether an event is one of the keys of a name, whatever is held beside it."""
    return QKeySequence(event.key()).toString(QKeySequence.SequenceFormat.PortableText) in bound(name).keys
