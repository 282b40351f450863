"""The values of a trial in the panel: suggested with a reason, changed, set back; the pixels follow."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageFilter
from pytestqt.qtbot import QtBot
from skimage import data
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import TRIAL, MainWindow
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.findings import describe_condition

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def compressed(tmp_path: Path, photo: np.ndarray) -> Path:
    path = tmp_path / "compressed.jpg"
    Image.fromarray(photo).save(path, quality=45)
    return path


def test_mender_is_told_what_was_measured(window: MainWindow, take_in: TakeIn, qtbot: QtBot, compressed: Path) -> None:
    take_in([compressed])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    window.open_step(TRIAL)
    trial = entry.trials.find("E")  # added by itself, since the file is compressed
    assert (trial.upscaler_key, trial.reason.split(" because ")[0]) == ("mender", "suggested")
    assert entry.trials.active == "E"  # what is suggested is selected
    editor = window.trial_step.panel.values
    assert editor.sliders["compression"].value() == 55
    assert "quality 45" in " ".join(reason.text() for reason in editor.reasons.values())
    editor.sliders["compression"].setValue(20)
    qtbot.waitUntil(lambda: entry.trials.find("E").values is not None, timeout=WAIT_MS)
    assert entry.trial_recipe(entry.trials.find("E")).values.compression == 20
    assert editor.set_back.isVisible()
    editor.set_back.click()
    assert entry.trials.find("E").values is None
    assert editor.sliders["compression"].value() == 55
    assert not editor.set_back.isVisible()


def test_switches_reach_the_recipe_and_the_file(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    entry = window.tray.entries[0]
    editor = window.trial_step.panel.values
    assert set(editor.switches) == {"self_ensemble", "back_projection_levels"}  # Vellum is the active trial
    editor.switches["self_ensemble"].click()
    editor.switches["back_projection_levels"].click()
    editor.sliders["keep_source"].setValue(30)
    qtbot.waitUntil(lambda: entry.trials.find("D").values is not None, timeout=WAIT_MS)
    window.tray.set_trials(0, entry.trials.stamp("D"))
    values = entry.delivered_recipe().values
    assert (values.self_ensemble, values.back_projection_levels, values.keep_source) == (True, 1.0, 30)
    window.trial_step.heads["A"].activated.emit()
    assert set(editor.switches) == {"back_projection_levels"}
    assert editor.sliders["keep_source"].value() == 0


@pytest.fixture
def soft(tmp_path: Path) -> Path:
    """A photograph of scikit-image, shrunk and blurred by one pixel."""
    small = Image.fromarray(data.astronaut()).resize((256, 256), Image.Resampling.BICUBIC)
    path = tmp_path / "soft.png"
    small.filter(ImageFilter.GaussianBlur(1.0)).save(path)
    return path


def test_softness_is_suggested_shown_and_warned_of(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, soft: Path
) -> None:
    take_in([soft])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    assert "Soft" in " ".join(
        f.reason for f in describe_condition(entry.condition or Condition(1, 1)) if f.key == "blur"
    )
    window.open_step(TRIAL)
    window.tray.set_trials(0, entry.trials.activate("D"))
    editor, trial = window.trial_step.panel.values, entry.trials.find("D")
    assert trial.upscaler_key == "vellum"
    suggested = entry.trial_recipe(trial).values.blur
    assert 30 < suggested < 70
    assert editor.sliders["blur"].value() == round(suggested)
    assert "of blur more than a sharp picture" in editor.reasons["blur"].text()
    assert entry.warning(trial) is None
    editor.sliders["blur"].setValue(0)
    qtbot.waitUntil(lambda: entry.trials.find("D").values is not None, timeout=WAIT_MS)
    assert "blurred, and this trial does not correct it" in (entry.warning(entry.trials.find("D")) or "")


def test_movement_is_shown_when_asked_for(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    editor = window.trial_step.panel.values
    assert not editor.sliders["motion_blur_px"].isVisible()
    editor.motion_row.click()
    assert editor.sliders["motion_blur_px"].isVisible()
    assert editor.sliders["motion_blur_deg"].isVisible()
    assert not editor.motion_row.isVisible()


def test_what_is_stamped_before_it_is_measured_does_not_change(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    """What was judged is what is delivered, also when the suggestion comes later."""
    window.workers.loader.pause(True)
    take_in([photo_file])
    entry = window.tray.entries[0]
    window.open_step(TRIAL)
    window.trial_step.panel.stamp.click()
    assert entry.suggested is None
    judged = entry.delivered_recipe()
    window.workers.loader.pause(False)
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    assert entry.suggested_values(judged.base.upscaler) != judged.base.values
    assert entry.delivered_recipe() == judged
