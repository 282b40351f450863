"""The one window: rail, tray, the open step, status line."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.assess.assess_step import AssessStep
from wamplex.app.assess.automatic_suggestions import AutomaticSuggestions
from wamplex.app.assess.development_controller import DevelopmentController
from wamplex.app.deliver.deliver_step import DeliverStep
from wamplex.app.deliver.delivery_controller import DeliveryController
from wamplex.app.deliver.hand_over_controller import HandOverController
from wamplex.app.deliver.jobs import Jobs
from wamplex.app.deliver.lineage_controller import LineageController
from wamplex.app.finish.finish_step import FinishStep
from wamplex.app.project.project_controller import ProjectController
from wamplex.app.project.project_model import ProjectModel
from wamplex.app.recipes.recipe_dialog import RecipeDialog
from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.shared.status_line import StatusLine
from wamplex.app.size.size_step import SizeStep
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.files_controller import FilesController
from wamplex.app.tray.scene_controller import SceneController
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.tray_view import TrayView
from wamplex.app.trial.answer_window import AnswerWindow
from wamplex.app.trial.guests_controller import GuestsController
from wamplex.app.trial.sheet_export_controller import SheetExportController
from wamplex.app.trial.stamp_history_controller import StampHistoryController
from wamplex.app.trial.trial_step import TrialStep
from wamplex.app.window.actions import Action, add_keys
from wamplex.app.window.clipboard import paste
from wamplex.app.window.colours_controller import ColoursController
from wamplex.app.window.dialogs import Dialogs
from wamplex.app.window.full_view import FullView
from wamplex.app.window.held_keys import HeldKeys
from wamplex.app.window.panels import Panels
from wamplex.app.window.step_rail import STEPS, StepRail
from wamplex.app.window.worker_set import WorkerSet
from wamplex.app.workers.output.autosave import Autosave
from wamplex.app.workers.output.delivery import DeliveryThread
from wamplex.core.colour.screen_view import ScreenView
from wamplex.core.demo import demo_pictures
from wamplex.core.geometry.size_text import size_summary
from wamplex.core.intake.formats import FILE_DIALOG_PATTERNS
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.settings import load_settings
from wamplex.core.model.source import Source
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.hand_over import HandOver
from wamplex.core.workflow.projects.project import SUFFIX, Project
from wamplex.core.workflow.queue.delivery_client import DeliveryClient
from wamplex.core.workflow.queue.journal import Journal, journal_path

ASSESS, SIZE, TRIAL, FINISH, DELIVER = range(5)


class MainWindow(QMainWindow):
    """Owns the models and the workers, and connects them."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Wamplex")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self._journal = Journal(journal_path())
        self.tray, self.jobs = Tray(), Jobs(self._journal)
        self.store = PictureCache()
        self.store.keep_up_to(load_settings().cache_gb)
        self.workers = WorkerSet(self.store, self)
        deliveries = self._deliveries = DeliveryThread(self._journal, DeliveryClient(self._journal), self)
        self.files = FilesController(self, self.tray, self.workers.loader)
        self.watch = self.files.watch
        self.rail, self.status = StepRail(), StatusLine()
        self.assess_step = AssessStep(self.tray)
        self.automatic = AutomaticSuggestions(self.tray, self)
        self.developing = DevelopmentController(self.store, self.tray, self.assess_step, self)
        self.size_step = SizeStep(self.tray, self.workers.previews)
        self.trial_step = TrialStep(self.tray, self.workers.renderer, self.workers.readings)
        self.finish_step = FinishStep(
            self.tray, self.workers.renderer, self.workers.readings, self.workers.masks, self.trial_step.cache
        )
        self.deliver_step = DeliverStep(self.tray, self.jobs, self.workers.looks)
        self.tray_view = TrayView(self.tray)
        self.panels = Panels(self, self.tray_view)
        self.notices = NoticeBar()
        self._ended = False
        self._in_motion: frozenset[int] = frozenset()
        autosave = Autosave(self)
        autosave.failed.connect(self.notices.warn)
        self.project = ProjectModel(self.tray, lambda: self.deliver_step.panel.delivery, autosave)
        self.project_controller = ProjectController(
            self, self.project, self.tray, self.notices, self.workers.loader.look, self._took_in
        )
        self._steps = QStackedWidget()
        steps = (self.assess_step, self.size_step, self.trial_step, self.finish_step, self.deliver_step)
        for step in steps:
            self._steps.addWidget(step)
        self.delivery = DeliveryController(self, self.jobs, deliveries, self.deliver_step, self.status, self.notices)
        self.lineage = LineageController(self, self.tray, self.jobs, self.deliver_step, self.notices, self.take_in)
        self.colours = ColoursController(self, self.tray, self.status, self._show_colours)
        self.take_away = SheetExportController(self, self.store, self.notices)
        self.dialogs, self._choices = Dialogs(self.tray, self), StampHistoryController(self.tray, self)
        self.guests = GuestsController(self, self.tray, self.store, self.notices)
        self.scenes = SceneController(self.tray, self.workers.scenes, self)
        self._lay_out()
        self._connect()
        actions = self._actions()
        add_keys(self, actions)
        self.rail.asked.connect(lambda name: actions[name]())
        self.open_step(ASSESS)
        # Those of the controllers end with the others; files under way have an end of their own.
        self.workers.join(self.developing, self.files.thumbnails, self.lineage.finder, self.watch)
        self.workers.tell(self.notices.warn)
        self.workers.start()
        deliveries.start()
        self._held_keys = HeldKeys(self, self.trial_step, self.finish_step)

    def take_in(self, paths: list[Path]) -> None:
        """Add files or folders to the tray and look at them; open project files."""
        for project in [p for p in paths if p.suffix == SUFFIX]:
            self.project_controller.open(project)
        self.files.take_in([p for p in paths if p.suffix != SUFFIX])
        self._show_place()

    def _took_in(self, project: Project) -> None:
        """A project was opened: its delivery settings count now."""
        self.deliver_step.panel.use(project.delivery)
        self._show_place()

    def _show_place(self) -> None:
        if self.project.path is not None:
            text = f"{self.project.name}{' · not saved' if self.project.unsaved else ''}"
            self.rail.show_place(text)
        elif self.tray.entries:
            self.rail.show_place(self.tray.entries[-1].path.parent.name)

    def open_step(self, index: int) -> None:
        """Show a step."""
        self._steps.setCurrentIndex(index)
        self.rail.show_step(index)
        if index == DELIVER:
            self._deliveries.maker.warm_up()
        if index not in (TRIAL, FINISH) and not self.jobs.open:
            self.status.show_idle("Ready")

    def open_test(self, number: int) -> AnswerWindow:
        """Open the known-answer test of a picture."""
        window = AnswerWindow(self.tray.entry(number), self.store, self)
        window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        window.show()
        return window

    def open_recipes(self) -> RecipeDialog:
        """Open what takes decisions over from one picture to others."""
        dialog = RecipeDialog(self.tray, self.deliver_step.panel.delivery, self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.delivery_applied.connect(self.deliver_step.panel.use)
        dialog.used.connect(self._say)
        dialog.show()
        return dialog

    def start_hand_over(self, hand_over: HandOver) -> HandOverController:
        """Another program waits for a file: put the bar for it over the window."""
        controller = HandOverController(hand_over, self.tray, self.store, self.jobs.journal, self)
        controller.ended.connect(QApplication.quit)
        self._full.insertWidget(1, controller.bar)
        return controller

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask when files are being written; then end."""
        if (self.jobs.open or self.deliver_step.ordering.pending) and not self.confirm_close():
            event.ignore()
            return
        self.end(asked=True)
        super().closeEvent(event)

    def end(self, *, asked: bool) -> None:
        """Keep the work and end the workers; a job under way leaves no file.

        Parameters
        ----------
        asked : whether the user wants it, jobs and all; else the jobs go on at the next start
        """
        if self._ended:
            return
        self._ended = True
        self._held_keys.stop()
        for test in self.findChildren(AnswerWindow):
            test.close()
        self.files.end()
        self.workers.loader.finish()
        self.take_away.cancel()
        self.guests.cancel()
        self.colours.end()
        self.deliver_step.ordering.end(keep=not asked)
        self.delivery.end(keep_orders=not asked)
        self.workers.end()
        self._journal.close()
        self._leave_project()
        self.project.finish()

    def undo(self) -> None:
        """Undo, and say what it was."""
        text = self.tray.undo()
        self._say("Nothing to undo" if text is None else f"Undone: {text}")

    def redo(self) -> None:
        """Decide again what was taken back."""
        text = self.tray.redo()
        self._say("Nothing to redo" if text is None else f"Redone: {text}")

    def _tell_choice(self, letter: str, key: str) -> None:
        """A blind choice was made: reveal it, and count it."""
        choices = self.project.blind_choices
        choices[key] = choices.get(key, 0) + 1
        self.project.touch()
        so_far = ", ".join(f"{find_upscaler(k).name} {n}" for k, n in sorted(choices.items(), key=lambda row: -row[1]))
        self.notices.say(f"You chose {letter}, {find_upscaler(key).name}. Blind choices so far: {so_far}.")

    def _leave_project(self) -> None:
        """Save what has a file; keep decisions that have none for the next start."""
        if self.project.path is not None and self.project.look():
            self.project_controller.save()
        elif self.project.path is None and self.tray.decided:
            self.project.save_for_recovery()
        else:
            self.project.forget_recovery()

    def confirm_close(self) -> bool:
        """Whether to stop the jobs that have not ended."""
        count = len(self.jobs.open) + self.deliver_step.ordering.pending
        files = "1 file is" if count == 1 else f"{count} files are"
        answer = QMessageBox.question(
            self,
            "Close Wamplex?",
            f"{files} not finished yet. Stop and close? Finished files stay; nothing half-written is left.",
        )
        return answer == QMessageBox.StandardButton.Yes

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped anywhere."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Take dropped files in."""
        urls = event.mimeData().urls()
        self.take_in([Path(u.toLocalFile()) for u in urls if u.isLocalFile()])
        event.acceptProposedAction()

    def open_demo(self) -> None:
        """Take the demo pictures in; they lie inside the program, and results belong where the user is."""
        self.take_in(demo_pictures())
        self.deliver_step.panel.set_folder(Path.cwd() / "demo-output")

    def choose_files(self) -> None:
        """Ask for picture files."""
        chosen, _ = QFileDialog.getOpenFileNames(
            self, "Add pictures", "", f"Pictures ({FILE_DIALOG_PATTERNS});;All files (*)"
        )
        self.take_in([Path(c) for c in chosen])

    def _lay_out(self) -> None:
        columns = QHBoxLayout()
        columns.setContentsMargins(0, 0, 0, 0)
        columns.setSpacing(0)
        columns.addWidget(self.tray_view)
        columns.addWidget(self._steps, 1)
        central = QWidget()
        inside = QVBoxLayout(central)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(self.rail)
        inside.addWidget(self.notices)
        inside.addLayout(columns, 1)
        inside.addWidget(self.status)
        self.setCentralWidget(central)
        self._full = inside

    def _actions(self) -> dict[str, Action]:
        """Actions of the whole window by their names."""
        actions: dict[str, Action] = {
            "add": self.choose_files,
            "paste": partial(paste, self.take_in, self.notices),
            "next": lambda: self.tray.step(1),
            "previous": lambda: self.tray.step(-1),
            "undo": self.undo,
            "redo": self.redo,
            "recipes": self.open_recipes,
            "save": self.project_controller.save,
            "save-elsewhere": self.project_controller.save_elsewhere,
            "open-project": self.project_controller.ask_open,
            "colours": self.colours.open,
            "networks": self.dialogs.networks,
            "bare": FullView(self).turn,
            "tray": self.panels.turn_tray,
            "panel": self.panels.turn_panels,
            "help": self.dialogs.help,
            "what": self.dialogs.what,
            "preferences": self.dialogs.preferences,
            "about": self.dialogs.about,
            "quit": self.close,
        }
        return actions | {f"step-{index + 1}": partial(self.open_step, index) for index in range(len(STEPS))}

    def _connect(self) -> None:
        self.dialogs.networks_changed.connect(self.trial_step.refresh)
        self.dialogs.looks_changed.connect(lambda: self.rail.show_step(self.rail.step))
        self.dialogs.unit_chosen.connect(self.size_step.panel.use_unit)
        self.dialogs.memory_chosen.connect(self.store.keep_up_to)
        self.dialogs.colours_asked.connect(self.colours.open)
        self.rail.chosen.connect(self.open_step)
        self.tray_view.add_asked.connect(self.choose_files)
        self.developing.measuring_asked.connect(self.workers.loader.measure_again)
        self.project.changed.connect(self._show_place)
        self.deliver_step.panel.changed.connect(self.project.touch)
        self.tray.selected.connect(lambda _number: self._show_summary())
        self.tray.changed.connect(self._entry_changed)
        self.tray.reordered.connect(self._order_changed)
        self.tray_view.find_asked.connect(self.files.find_file)
        self.tray_view.recipes_asked.connect(self.open_recipes)
        self.deliver_step.panel.recipes_asked.connect(self.open_recipes)
        self.workers.renderer.outdated.connect(lambda source: self.files.look_again(source.path))
        self.trial_step.moving.connect(partial(self._hold_measuring, TRIAL))
        self.trial_step.worked.connect(self.status.show_work)
        self.finish_step.moving.connect(partial(self._hold_measuring, FINISH))
        self.finish_step.worked.connect(self.status.show_work)
        self.finish_step.announced.connect(self._say)
        self.trial_step.announced.connect(self._say)
        self.assess_step.announced.connect(self._say)
        self.assess_step.welcome.add_asked.connect(self.choose_files)
        self.assess_step.welcome.demo_asked.connect(self.open_demo)
        self.assess_step.welcome.help_asked.connect(self.dialogs.help)
        self.automatic.announced.connect(self._say)
        self.deliver_step.announced.connect(self._say)
        self.deliver_step.further_asked.connect(self._take_further)
        self.deliver_step.trial_asked.connect(self._show_trials)
        self.lineage.announced.connect(self._say)
        self.lineage.deliver_asked.connect(lambda: self.open_step(DELIVER))
        self.tray_view.result_chosen.connect(self.lineage.look_at)
        self.tray_view.source_asked.connect(self.lineage.open_source_of)
        self.trial_step.test_asked.connect(self.open_test)
        self.trial_step.spots.differ_asked.connect(lambda request: self.workers.differ.request([request]))
        self.workers.differ.ready.connect(self.trial_step.spots.take_differing)
        self.workers.differ.worked.connect(self.status.show_work)
        self.workers.differ.failed.connect(self.notices.warn)
        self.tray_view.join_asked.connect(self.scenes.join)
        self.tray_view.separate_asked.connect(self.scenes.separate)
        self.workers.scenes.worked.connect(self.status.show_work)
        self.scenes.announced.connect(self._say)
        self.scenes.warned.connect(self.notices.warn)
        self.trial_step.take_away_asked.connect(lambda number, kind: self.take_away.ask(self.tray.entry(number), kind))
        self.take_away.progressed.connect(self.status.show_work)
        self.trial_step.bar.guest_asked.connect(self.guests.ask)
        self.guests.worked.connect(self.status.show_work)
        self.guests.ended.connect(self._say)
        self.trial_step.chosen_blindly.connect(self._tell_choice)
        self.trial_step.chosen_blindly.connect(self._choices.chosen_blindly)
        self.workers.renderer.failed.connect(self._reading_failed)
        self.workers.renderer.notices.connect(self._reading_noticed)
        self.status.cancel_asked.connect(self._cancel_work)
        self.status.colours_asked.connect(self.colours.open)

    def _show_colours(self, view: ScreenView) -> None:
        self.trial_step.set_view(view)
        self.finish_step.viewport.set_view(view)
        self.finish_step.refresh()

    def _show_summary(self) -> None:
        entry = self.tray.current
        if entry is not None and entry.size is not None:
            self.status.show_summary(size_summary(entry.size, self.size_step.panel.unit))

    def _say(self, text: str) -> None:
        if not self.jobs.open:
            self.status.show_idle(text)

    def _cancel_work(self) -> None:
        if self.jobs.open:
            self.delivery.cancel_all()
        elif self.take_away.busy:
            self.take_away.cancel()
        elif self.guests.busy:
            self.guests.cancel()
        elif self.workers.scenes.busy:
            self.workers.scenes.cancel()
        else:
            (self.finish_step if self._steps.currentIndex() == FINISH else self.trial_step).cancel()

    def _entry_changed(self, _number: int, changes: frozenset[ChangeKind]) -> None:
        if changes & {"file", "framing", "size", "sheet"}:
            self._show_summary()

    def _hold_measuring(self, step: int, moving: bool) -> None:
        """Measuring waits while a hand moves in any step; one that comes to rest says nothing of the other."""
        self._in_motion = self._in_motion | {step} if moving else self._in_motion - {step}
        self.workers.loader.pause(bool(self._in_motion))

    def _order_changed(self) -> None:
        self._show_place()
        in_use = {entry.source for entry in self.tray.usable}
        self.store.keep_only(in_use)
        self.trial_step.cache.keep_only(in_use)
        if self.tray.current is None:
            self.status.show_summary("")

    def _show_trials(self, number: int) -> None:
        self.tray.select(number)
        self.open_step(TRIAL)

    def _take_further(self, path: Path) -> None:
        """A result becomes a source."""
        self.take_in([path])
        self.tray.select(next(entry.number for entry in self.tray.entries if entry.path == path.absolute()))
        self.open_step(ASSESS)

    def _reading_failed(self, source: Source, sentence: str) -> None:
        self.tray.file_facts.unusable(source.path, sentence)
        self.trial_step.refresh()
        self.size_step.refresh()

    def _reading_noticed(self, source: Source, notices: object) -> None:
        assert isinstance(notices, tuple)
        self.tray.file_facts.notices(source, notices)
