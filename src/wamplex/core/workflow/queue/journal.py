"""The durable list of files to be made: no crash loses the queue."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from itertools import chain
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.database import Database, Schema
from wamplex.core.base.errors import WamplexError
from wamplex.core.base.process_identity import process_identity
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.assets import process_assets
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.job import ENDED, Job, State

_TABLES = """
CREATE TABLE IF NOT EXISTS jobs (
    number INTEGER PRIMARY KEY,
    owner INTEGER NOT NULL,
    source TEXT NOT NULL,
    recipe TEXT NOT NULL,
    delivery TEXT NOT NULL,
    planned TEXT NOT NULL,
    expected_bytes INTEGER NOT NULL,
    state TEXT NOT NULL,
    words TEXT NOT NULL,
    result TEXT,
    file_bytes INTEGER NOT NULL
);
CREATE TABLE IF NOT EXISTS partials (path TEXT PRIMARY KEY, job INTEGER NOT NULL);
CREATE TABLE IF NOT EXISTS whole (device INTEGER, inode INTEGER, folder TEXT NOT NULL, job INTEGER NOT NULL);
CREATE TABLE IF NOT EXISTS assets (digest TEXT PRIMARY KEY, data BLOB NOT NULL);
"""
# Numbers go on from here where the file fails: none may be given twice.
_IN_MEMORY = "INSERT INTO jobs VALUES (1000000000, '', '', '', '', '', 0, '', '', NULL, 0)"
_SCHEMA = Schema("list of jobs", 2, _TABLES, ("jobs", "partials", "whole", "assets"), _IN_MEMORY)
# Rows of one statement. Each statement lets go of Python's lock, and the window then waits for its turn.
_TOGETHER = 100


def journal_path() -> Path:
    """Path of this user's journal.

    Returns
    -------
    Path; the file may not exist.
    """
    return user_state_path("wamplex") / "jobs.sqlite"


class Journal:
    """All jobs that have not ended, of every program that runs or ran; safe to use from any thread.

    Each change is on the disk when its method returns.

    Parameters
    ----------
    path : of the file, made where it is missing; where it cannot be used, jobs are kept in memory alone
    owner : identity of the process whose jobs are added; None for this process

    Attributes
    ----------
    paused : whether what is cancelled stays written down
    """

    def __init__(self, path: Path, owner: str | None = None) -> None:
        self.path = path
        self.owner = process_identity() if owner is None else owner
        self.paused = False
        self._database = Database(path, _SCHEMA)
        self._damaged: list[str] = []  # file names of jobs that cannot be read
        self._notices: list[str] = []

    def take_notices(self) -> list[str]:
        """Sentences for the user about the journal's file; each is given once.

        Returns
        -------
        None, most of the time.
        """
        notices, self._notices = [*self._database.take_notices(), *self._notices], []
        return notices

    def add(self, orders: Sequence[Order]) -> list[Job]:
        """Write some more down, at the end, all or none.

        Parameters
        ----------
        orders : files to be written
        """
        rows = [(self.owner, *_texts(one)) for one in orders]
        numbers: list[int] = self._database.transact(lambda base: self._insert(base, orders, rows))
        return [Job(number, *one) for number, one in zip(numbers, orders, strict=True)]

    def _insert(self, base: sqlite3.Connection, orders: Sequence[Order], rows: Sequence[tuple[Any, ...]]) -> list[int]:
        for one in orders:
            _keep_parts(base, one.recipe)
        numbers: list[int] = []
        for first in range(0, len(rows), _TOGETHER):
            some = rows[first : first + _TOGETHER]
            last = base.execute(_adding(len(some)), list(chain(*some))).lastrowid
            assert last is not None
            numbers += range(last - len(some) + 1, last + 1)
        return numbers

    def update(self, number: int, state: State, text: str, result: Path | None = None, file_bytes: int = 0) -> None:
        """A job moved on; what has ended is no longer kept.

        Parameters
        ----------
        number : number of the job in the journal
        state : the new state
        text : a sentence for the user
        result : the written file
        file_bytes : its size
        """
        if self.paused and state is not State.DONE:
            return
        if state in ENDED:
            self._forget([number])
        else:
            row = (state.value, text, str(result) if result else None, file_bytes, number)
            self._database.execute(
                "UPDATE jobs SET state = ?, words = ?, result = ?, file_bytes = ? WHERE number = ?", row
            )

    def give_up(self, numbers: Sequence[int]) -> None:
        """Jobs that waited were taken back, all or none.

        Parameters
        ----------
        numbers : of jobs
        """
        if not self.paused:
            self._forget(numbers)

    def _forget(self, numbers: Sequence[int]) -> None:
        """All of a job at once: its number is given to another, to whom nothing of it may be left."""
        rows = [(number,) for number in numbers]

        def forget(base: sqlite3.Connection) -> None:
            base.executemany("DELETE FROM jobs WHERE number = ?", rows)
            base.executemany("DELETE FROM partials WHERE job = ?", rows)
            base.executemany("DELETE FROM whole WHERE job = ?", rows)
            base.execute("DELETE FROM assets WHERE NOT EXISTS (SELECT 1 FROM jobs WHERE source != '')")

        self._database.transact(forget)

    def pause(self) -> None:
        """The program is ending unasked: what is not done by now stays written down for the next start."""
        self.paused = True

    def note_partial(self, number: int, path: Path) -> None:
        """A file is about to be begun under a temporary name; whoever recovers the job takes it away.

        Parameters
        ----------
        number : number of the job in the journal
        path : temporary file
        """
        self._database.execute("INSERT OR REPLACE INTO partials (path, job) VALUES (?, ?)", (str(path), number))

    def partials(self, number: int) -> list[Path]:
        """Temporary files that a job had begun.

        Parameters
        ----------
        number : number of the job in the journal
        """
        rows = self._database.read("SELECT path FROM partials WHERE job = ?", (number,))
        return [Path(path) for (path,) in rows]

    def record_complete(self, number: int, paths: Sequence[Path]) -> None:
        """Files are written and checked, and are about to get their names; known by their inodes.

        Parameters
        ----------
        number : number of the job in the journal
        paths : temporary files, verified
        """
        for path in paths:
            status = path.stat()
            row = (status.st_dev, status.st_ino, str(path.parent), number)
            self._database.execute("INSERT INTO whole (device, inode, folder, job) VALUES (?, ?, ?, ?)", row)

    def completed_files(self, number: int) -> list[tuple[int, int, Path]]:
        """Device, inode and folder of the files that were about to get their names.

        Parameters
        ----------
        number : number of the job in the journal
        """
        row = self._database.read("SELECT device, inode, folder FROM whole WHERE job = ?", (number,))
        return [(device, inode, Path(folder)) for device, inode, folder in row]

    def forget_partials(self, number: int) -> None:
        """Forget the temporary files of a job.

        Parameters
        ----------
        number : number of the job in the journal
        """
        self._database.execute("DELETE FROM partials WHERE job = ?", (number,))
        self._database.execute("DELETE FROM whole WHERE job = ?", (number,))

    def jobs(self) -> list[tuple[str, Job]]:
        """All that are written down, in their order, each with the process that it belongs to."""
        columns = "number, owner, source, recipe, delivery, planned, expected_bytes, state, words"
        rows = self._database.read(f"SELECT {columns} FROM jobs WHERE source != '' ORDER BY number")
        for (data,) in self._database.read("SELECT data FROM assets"):
            process_assets().put(data)
        jobs, damaged = [], []
        for row in rows:
            try:
                jobs.append((str(row[1]), _job(row)))
            except (ValueError, TypeError, WamplexError):
                damaged.append(str(row[5]))
        self._note_damaged(damaged)
        return jobs

    def _note_damaged(self, planned: list[str]) -> None:
        new = [name for name in planned if name not in self._damaged]
        self._damaged += new
        self._notices += [f"A job for {Path(name).name or 'a file'} cannot be read and is left out." for name in new]

    def take(self, number: int, owner: str) -> bool:
        """Make a job of another process, which has ended, one of this; False when another was quicker.

        Parameters
        ----------
        number : number of the job in the journal
        owner : identity of the process that had the job until now
        """
        statement = "UPDATE jobs SET owner = ?, state = ?, words = ? WHERE number = ? AND owner = ?"
        row = (self.owner, State.WAITING.value, "waiting", number, owner)
        return bool(self._database.transact(lambda base: base.execute(statement, row).rowcount == 1))

    def close(self) -> None:
        """Close the file."""
        self._database.close()


def _keep_parts(base: sqlite3.Connection, recipe: Recipe) -> None:
    """Masks are written down with the job: the program that takes it up never saw them."""
    for ref in recipe.finish.parts:
        row = (ref.digest, process_assets().get(ref))
        base.execute("INSERT OR IGNORE INTO assets (digest, data) VALUES (?, ?)", row)


def _adding(count: int) -> str:
    """Adds so many jobs, whose numbers follow one another."""
    columns = "owner, source, recipe, delivery, planned, expected_bytes, state, words, file_bytes"
    return f"INSERT INTO jobs ({columns}) VALUES " + ", ".join(["(?, ?, ?, ?, ?, ?, 'waiting', 'waiting', 0)"] * count)


def _texts(one: Order) -> tuple[str, str, str, str, int]:
    about = json.dumps([str(one.source.path), one.source.file_bytes, one.source.mtime_ns])
    texts = (about, one.recipe.model_dump_json(), one.delivery.model_dump_json(), str(one.planned))
    return (*texts, one.expected_bytes)


def _job(row: tuple[Any, ...]) -> Job:
    number, _, source, recipe, delivery, planned, expected_bytes, state, text = row
    path, file_bytes, mtime_ns = parse_json(source)
    return Job(
        number,
        Source(Path(path), file_bytes, mtime_ns),
        Recipe.from_json(recipe),
        Delivery.model_validate_json(delivery),
        Path(planned),
        expected_bytes,
        State(state),
        text,
    )
