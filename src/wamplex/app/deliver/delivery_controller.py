"""Connects the job list, the delivery thread and the messages about it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject

from wamplex.app.deliver.deliver_step import DeliverStep
from wamplex.app.deliver.jobs import JobRowData, Jobs
from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.shared.status_line import StatusLine
from wamplex.app.workers.output.delivery import DeliveryOrder, DeliveryThread
from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import WamplexError
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.job_report import check_report_name, write_job_report
from wamplex.core.workflow.queue.run_job import CANCELLED_WORDS
from wamplex.core.workflow.queue.throughput import duration_text


class DeliveryController(QObject):
    """Starts the ordered jobs and shows their progress."""

    def __init__(
        self,
        parent: QObject,
        jobs: Jobs,
        thread: DeliveryThread,
        step: DeliverStep,
        status: StatusLine,
        notices: NoticeBar,
    ) -> None:
        super().__init__(parent)
        self._jobs, self._thread, self._status, self._notices = jobs, thread, status, notices
        jobs.ordered.connect(self._order)
        step.cancel_asked.connect(thread.cancel)
        step.pause_asked.connect(thread.pause)
        step.first_asked.connect(thread.put_first)
        step.report_asked.connect(self._write_report)
        thread.started_job.connect(lambda number: self._next_state(number, State.RUNNING, "reading"))
        thread.progressed.connect(self._progressed)
        thread.delivered.connect(self._delivered)
        thread.failed.connect(lambda number, words: self._next_state(number, State.FAILED, words))
        thread.cancelled.connect(lambda number: self._next_state(number, State.CANCELLED, CANCELLED_WORDS))

    def take_up(self) -> None:
        """Go on with the files of a program that ended in the middle of its work, and say so."""
        rows = self._jobs.take_up()
        self._tell_notices()
        if rows:
            files = "1 file" if len(rows) == 1 else f"{len(rows)} files"
            self._notices.say(f"Wamplex was interrupted. {files} resumed.")
            self._order(rows)

    def cancel_all(self) -> None:
        """Cancel all jobs. Finished files stay."""
        self._thread.cancel({job.number for job in self._jobs.open})

    def end(self, *, keep_orders: bool) -> None:
        """Stop the thread; see `DeliveryThread.end`."""
        self._thread.end(keep_orders=keep_orders)

    def _order(self, rows: list[JobRowData]) -> None:
        self._tell_notices()
        self._thread.put(*(DeliveryOrder(row.number, row.job) for row in rows if row.job is not None))

    def _tell_notices(self) -> None:
        for text in self._jobs.journal.take_notices():
            self._notices.warn(text)

    def _write_report(self, path: Path) -> None:
        """Write what became of all jobs that have ended."""
        try:
            check_report_name(path)
            write_atomically(path, write_job_report(self._jobs.report_rows(), path))
        except WamplexError as error:
            self._notices.warn(str(error))
        except OSError as error:
            self._notices.warn(f"{path.name} cannot be written: {(error.strerror or str(error)).lower()}.")
        else:
            self._status.show_idle(f"{path.name} is written")

    def _next_state(self, number: int, state: State, text: str) -> None:
        self._jobs.update(number, state=state, text=text)
        self._tell_end()

    def _progressed(self, number: int, fraction: float, text: str) -> None:
        self._jobs.update(number, state=State.RUNNING, fraction=fraction, text=text)
        name = self._jobs.rows[number].name.name
        total, ended = len(self._jobs.rows), self._jobs.ended
        left = self._jobs.seconds_left
        time = "" if left is None else f" · about {duration_text(left)} left"
        done = ended + sum(job.fraction for job in self._jobs.open if job.state is State.RUNNING)
        self._status.show_work(done / total, f"{ended + 1} of {total} · {name} · {text}{time}")

    def _delivered(self, number: int, done: Delivered) -> None:
        self._jobs.update(
            number,
            state=State.DONE,
            fraction=1.0,
            text=done.text,
            done=done,
        )
        self._tell_end()

    def _tell_end(self) -> None:
        if not self._jobs.open:
            self._status.show_idle("All jobs are done")
