"""The views of the Size step by themselves: handles, scale, captions."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from pytestqt.qtbot import QtBot
from tests.app.watching import grabbed

from wamplex.app.shared.images import mask_overlay_image, to_image
from wamplex.app.size.crop_view import CropView
from wamplex.app.size.paper_view import PaperView, WallView
from wamplex.app.size.sheet_editor import SheetEditor
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import Sheet

RED = np.full((60, 80, 3), (200, 30, 30), np.uint8)


@pytest.fixture
def crop_view(qtbot: QtBot) -> CropView:
    view = CropView()
    qtbot.addWidget(view)
    view.resize(400, 300)
    framing = Framing(crop=Crop(x=20, y=10, width=40, height=30))
    view.show_framing(to_image(RED), framing, 80, 60, None)
    view.show()
    return view


def test_the_frame_lies_where_the_crop_is(crop_view: CropView) -> None:
    frame = crop_view.frame_rect()
    assert (frame.x(), frame.y(), frame.width(), frame.height()) == (100, 50, 200, 150)
    assert crop_view.showing


@pytest.mark.parametrize(
    ("x", "y", "handle"),
    [
        (100, 50, "top-left"),
        (300, 200, "bottom-right"),
        (300, 50, "top-right"),
        (100, 200, "bottom-left"),
        (200, 50, "top"),
        (200, 203, "bottom"),
        (97, 120, "left"),
        (303, 120, "right"),
        (200, 120, "inside"),
        (40, 40, None),
    ],
)
def test_every_part_of_the_frame_can_be_taken_hold_of(crop_view: CropView, x: int, y: int, handle: str | None) -> None:
    assert crop_view.handle_at(QPointF(x, y)) == handle


def test_what_is_cut_off_is_veiled(crop_view: CropView) -> None:
    shown = grabbed(crop_view).astype(int)
    assert np.abs(shown[125, 200] - RED[0, 0]).max() <= 2
    assert np.abs(shown[20, 30] - RED[0, 0]).max() > 40


@pytest.mark.parametrize(
    ("key", "modifier", "expected"),
    [
        (Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, (21, 10, 40, 30)),
        (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, (20, 9, 40, 30)),
        (Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier, (20, 10, 39, 30)),
        (Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, (20, 10, 40, 31)),
    ],
)
def test_the_frame_moves_by_keys(
    crop_view: CropView, qtbot: QtBot, key: Qt.Key, modifier: Qt.KeyboardModifier, expected: tuple[int, ...]
) -> None:
    framed: list[Framing] = []
    crop_view.framed.connect(framed.append)
    qtbot.keyClick(crop_view, key, modifier)
    crop = framed[-1].crop
    assert crop is not None
    assert (crop.x, crop.y, crop.width, crop.height) == expected


def test_a_press_without_a_drag_decides_nothing(crop_view: CropView, qtbot: QtBot) -> None:
    framed: list[Framing] = []
    drawn: list[float] = []
    crop_view.framed.connect(framed.append)
    crop_view.angle_drawn.connect(drawn.append)
    qtbot.mouseClick(crop_view, Qt.MouseButton.LeftButton, pos=QPoint(200, 120))
    crop_view.draw_line(True)
    qtbot.mouseClick(crop_view, Qt.MouseButton.LeftButton, pos=QPoint(200, 120))
    assert (framed, drawn) == ([], [])


def test_a_straightened_picture_is_shown_turned(crop_view: CropView) -> None:
    half = RED.copy()
    half[:30] = (30, 30, 200)
    framing = Framing(straighten_deg=30)
    crop_view.show_framing(to_image(half), framing, 80, 60, None)
    shown = grabbed(crop_view).astype(int)
    # Turned clockwise, the border between blue and red runs down to the right.
    left, right = shown[150, 150], shown[150, 250]
    assert left[0] > left[2]
    assert right[2] > right[0]


def test_the_wall_is_to_scale(qtbot: QtBot) -> None:
    """A print as high as the person of 1.70 m beside it."""
    wall = WallView()
    qtbot.addWidget(wall)
    wall.resize(800, 400)
    wall.show()
    wall.show_print(to_image(RED), 1000, 1700)
    wall.show_caption("as tall as a person")
    shown = grabbed(wall).astype(int)
    red = np.abs(shown - RED[0, 0]).max(axis=2) < 8
    rows, columns = (np.flatnonzero(red.any(axis=axis)) for axis in (1, 0))
    height, width = rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1
    assert height / width == pytest.approx(1.7, abs=0.04)
    beside = shown[:, columns[-1] + 12 :]
    dark = beside.max(axis=2) < 120
    person = np.flatnonzero(dark[: wall.height() - 46].any(axis=1))
    assert person[-1] - person[0] == pytest.approx(height, rel=0.06)
    assert wall.caption == "as tall as a person"


def test_folds_are_drawn_on_the_sheet(qtbot: QtBot) -> None:
    paper = PaperView()
    qtbot.addWidget(paper)
    paper.resize(300, 300)
    paper.show()
    paper.show_sheet(to_image(RED))
    plain = grabbed(paper).astype(int)
    paper.show_sheet(to_image(RED), (0.1, 0.1))
    assert np.abs(grabbed(paper) - plain).max() > 100
    paper.show_sheet(None)
    assert np.abs(grabbed(paper).astype(int) - plain).max() > 50


def test_a_veil_is_clear_where_it_is_nought() -> None:
    opacity = np.zeros((4, 6), np.uint8)
    opacity[:, 3:] = 200
    veil = mask_overlay_image(opacity)
    assert (veil.pixelColor(0, 0).alpha(), veil.pixelColor(5, 3).alpha()) == (0, 200)


@pytest.fixture
def editor(qtbot: QtBot) -> SheetEditor:
    made = SheetEditor()
    qtbot.addWidget(made)
    made.show()
    return made


def test_a_sheet_lies_as_the_picture_does(editor: SheetEditor) -> None:
    chosen: list[Sheet | None] = []
    editor.chosen.connect(chosen.append)
    for landscape in (True, False):
        editor.show_sheet(None, 500, landscape)
        index = editor.papers.findText("A4", Qt.MatchFlag.MatchStartsWith)
        editor.papers.activated.emit(index)
    lying, upright = chosen
    assert lying is not None
    assert upright is not None
    assert (lying.width_mm, upright.width_mm) == (297, 210)
    editor.papers.activated.emit(0)
    assert chosen[-1] is None


def test_details_of_the_sheet_show_only_when_there_is_one(editor: SheetEditor) -> None:
    editor.show_sheet(None, 500, True)
    assert not editor.margin.isVisible()
    assert editor.viewing_distance.text() == "0.50"
    editor.show_sheet(Sheet(width_mm=297, height_mm=210, margin_mm=12), 800, True)
    assert editor.margin.isVisible()
    assert (editor.margin.text(), editor.viewing_distance.text()) == ("12", "0.80")
    assert not editor.extensions.isVisible()
    editor.show_sheet(Sheet(width_mm=297, height_mm=210, place="extend", extension="filled"), 800, True)
    assert editor.extensions.isVisible()
    assert editor.extensions.currentText() == "filled"


def test_every_choice_of_the_sheet_is_told(editor: SheetEditor) -> None:
    chosen: list[Sheet] = []
    refused: list[str] = []
    editor.chosen.connect(chosen.append)
    editor.refused.connect(refused.append)
    editor.show_sheet(Sheet(width_mm=297, height_mm=210), 500, True)
    editor.places.button_for("extend").click()
    assert chosen[-1].place == "extend"
    editor.wraps.textActivated.emit("stretched")
    assert chosen[-1].wrap == "stretched"
    editor.extensions.textActivated.emit("filled")
    assert chosen[-1].extension == "filled"
    editor.turn.click()
    assert (chosen[-1].width_mm, chosen[-1].height_mm) == (210, 297)
    editor.bleed.entered.emit(900.0)
    assert "not possible" in refused[-1]
    editor.margin.entered.emit(104.0)
    assert "nothing is left" in refused[-1]
