"""Takes the pictures of docs/screenshots from the demo data: ``make screenshots``."""

from __future__ import annotations

import shutil
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QApplication

from wamplex.app.theme import apply_theme
from wamplex.app.views.main_window import DELIVER, SIZE, TRIAL, MainWindow
from wamplex.core.demo import demo_pictures

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


class Session:
    """A window that is driven and photographed."""

    def __init__(self, paths: list[Path]) -> None:
        self.window = MainWindow()
        self.window.show()
        self.window.take_in(paths)
        tray = self.window.tray
        self.wait(lambda: all(e.usable or e.error for e in tray.entries))

    def wait(self, until: Callable[[], bool] = lambda: False, seconds: float = 60.0) -> None:
        """Let the window work until something is true."""
        end = time.monotonic() + seconds
        while time.monotonic() < end and not until():
            QApplication.processEvents()
            time.sleep(0.01)

    def select(self, name: str) -> None:
        """Select a picture by the start of its name."""
        tray = self.window.tray
        tray.select(next(e.number for e in tray.entries if e.path.name.startswith(name)))

    def shoot(self, name: str) -> None:
        """Save the window as it is."""
        self.wait(seconds=0.3)
        OUT.mkdir(parents=True, exist_ok=True)
        self.window.grab().save(str(OUT / f"{name}.png"))
        print(name)

    def tiles_made(self) -> bool:
        """Whether every tile in view is there."""
        step = self.window.trial_step
        keys = [key for pane in step.panes.values() for _, key in pane.wanted_tiles()]
        return bool(keys) and all(step.cache.get(key) is not None for key in keys)


def main() -> None:
    """Drive the window through its steps."""
    app = QApplication([])
    apply_theme(app)
    folder = Path(tempfile.mkdtemp()) / "foyer-prints"
    folder.mkdir()
    paths = [Path(shutil.copy(p, folder)) for p in demo_pictures()]
    cut = folder / "interval-bell.jpg"
    cut.write_bytes(paths[-1].read_bytes()[:2000])
    session = Session([cut, *paths])
    window = session.window
    session.select("rehearsal")
    session.shoot("size")
    window.size_step.panel.factor.entered.emit(12)
    session.shoot("size-refused")
    session.select("stage")
    window.open_step(TRIAL)
    window.trial_step.viewport.move_to(0.36, 0.36)
    session.wait(session.tiles_made)
    session.shoot("trial")
    session.select("linocut")
    window.trial_step.viewport.move_to(0.32, 0.12)
    window.trial_step.heads["B"].strike_asked.emit()
    window.trial_step.panel.stamp_asked.emit("D")
    session.wait(session.tiles_made)
    session.shoot("trial-stamped")
    window.open_step(DELIVER)
    window.deliver_step.deliver_all()
    jobs = window.jobs
    session.wait(lambda: jobs.rows[2].fraction > 0.2)
    session.shoot("deliver-working")
    session.wait(lambda: not jobs.open, 180)
    session.shoot("deliver")
    window.open_step(SIZE)
    window.close()


if __name__ == "__main__":
    main()
