"""What is ticked is done without a press, once the user has said so; never what was decided otherwise."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import MainWindow
from wamplex.core.demo import demo_pictures
from wamplex.core.model.settings import load_settings


def test_new_pictures_get_their_suggestions(
    window: MainWindow, take_in: Callable[[list[Path]], None], qtbot: QtBot
) -> None:
    said: list[str] = []
    window.automatic.announced.connect(said.append)
    pictures = {path.name: path for path in demo_pictures()}
    take_in([pictures["rehearsal.jpg"]])
    before = window.tray.entries[0]
    qtbot.waitUntil(lambda: before.suggested is not None, timeout=WAIT_MS)
    assert before.decisions == before.at_first
    assert said == []

    window.assess_step.automatic.click()
    assert load_settings().use_suggestions
    window.workers.loader.pause(True)
    take_in([pictures["stage-web.jpg"], pictures["carved-head.png"]])
    stage, head = window.tray.entries[1:]
    window.tray.set_size(head.number, head.size.with_factor(2))  # decided before it is measured
    window.workers.loader.pause(False)
    qtbot.waitUntil(lambda: None not in (stage.suggested, head.suggested), timeout=WAIT_MS)
    ticked = next(trial for trial in stage.trials.rows if trial.upscaler_key == "mender")
    assert ticked.reason
    assert any("stage-web.jpg, automatically: " in words for words in said)
    assert stage.decisions != stage.at_first
    assert head.size is not None
    assert head.size.factor == 2
    assert not any("carved-head" in words for words in said)
    assert before.decisions == before.at_first  # it was there before
    while window.tray.undo():
        pass
    assert stage.decisions == stage.at_first  # all of it can be taken back


def test_an_empty_tray_shows_what_can_be_done(window: MainWindow, qtbot: QtBot) -> None:
    step = window.assess_step
    assert step.welcome.isVisible()
    step.welcome.demo_button.click()
    qtbot.waitUntil(lambda: len(window.tray.usable) == len(demo_pictures()), timeout=WAIT_MS)
    assert not step.welcome.isVisible()
    assert step.view.isVisible()
    assert window.deliver_step.panel.delivery.folder == Path.cwd() / "demo-output"
    window.tray.remove([entry.number for entry in window.tray.entries])
    assert step.welcome.isVisible()
