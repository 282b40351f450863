"""The user's own networks in the window: tried beside it, renamed, refused in words, removed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import onnx
import pytest
from onnx import TensorProto, helper, numpy_helper
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import MainWindow
from wamplex.app.window.networks_dialog import NetworksDialog
from wamplex.core.upscale.user_networks.network_store import user_upscalers

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def doubling(tmp_path: Path) -> Path:
    """A network that repeats every pixel."""
    scales = numpy_helper.from_array(np.array([1, 1, 2, 2], np.float32), "scales")
    node = helper.make_node("Resize", ["in", "", "scales"], ["out"], mode="nearest")
    sides = ("in", [1, 3, "h", "w"]), ("out", [1, 3, "H", "W"])
    ends = [helper.make_tensor_value_info(name, TensorProto.FLOAT, shape) for name, shape in sides]
    graph = helper.make_graph([node], "doubling", ends[:1], ends[1:], [scales])
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=9)
    path = tmp_path / "doubling.onnx"
    onnx.save(model, path)
    return path


def added(window: MainWindow, qtbot: QtBot, path: Path) -> NetworksDialog:
    dialog = window.dialogs.networks()
    dialog.add(path)
    qtbot.waitUntil(dialog.add_button.isEnabled, timeout=WAIT_MS)
    return dialog


def test_a_network_that_works_is_listed_renamed_and_removed(window: MainWindow, qtbot: QtBot, doubling: Path) -> None:
    dialog = added(window, qtbot, doubling)
    assert "doubling works" in dialog.text
    dialog.name.setText("My doubling")
    dialog.rename()
    assert [own.name for own in user_upscalers()] == ["My doubling"]
    assert user_upscalers()[0].key == "doubling"
    dialog.name.setText(" ")
    dialog.rename()
    assert "needs a name" in dialog.text
    dialog.remove()
    assert user_upscalers() == ()
    assert dialog.list.count() == 0


def test_why_one_is_refused_is_said(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    bad = photo_file.with_name("picture.onnx")
    bad.write_bytes(photo_file.read_bytes())
    dialog = added(window, qtbot, bad)
    assert "picture.onnx cannot be used as an upscaler" in dialog.text
    assert dialog.list.count() == 0


def test_one_that_a_trial_has_stays_also_when_the_trial_was_taken_back(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, doubling: Path, photo_file: Path
) -> None:
    dialog = added(window, qtbot, doubling)
    take_in([photo_file])
    window.tray.set_trials(0, window.tray.entry(0).trials.add("doubling"))
    window.undo()
    dialog.remove()
    assert "photo.png has a trial with this network" in dialog.text
    window.redo()
    assert "doubling" in [trial.upscaler_key for trial in window.tray.entry(0).trials.rows]
