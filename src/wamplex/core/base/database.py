"""A small SQLite database that survives its own damage, full disks and other programs."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wamplex.core.base.atomic_files import set_aside

_BUSY_S = 20.0
_MOST_STEPS = 20_000  # of looking for rows that can still be read


@dataclass(frozen=True)
class Schema:
    """What a database holds.

    Attributes
    ----------
    title : what the user calls it, such as "list of jobs"
    version : of the tables; a database of a later version is left alone
    statements : make the tables where they are missing
    tables : names of the tables, in the order in which rows are recovered
    in_memory : run on the tables in memory that stand in for a file that fails
    """

    title: str
    version: int
    statements: str
    tables: tuple[str, ...]
    in_memory: str = ""


class Database:
    """One file; safe to use from any thread, and by several programs at once.

    Each change is on the disk when its method returns. Where the file cannot be used or written to, the
    work goes on in memory, and `take_notices` says so once.

    Parameters
    ----------
    path : of the file, created where it is missing
    schema : what it holds
    """

    def __init__(self, path: Path, schema: Schema) -> None:
        self.path = path
        self._schema = schema
        self._lock = threading.RLock()
        self._notices: list[str] = []
        self.in_memory = False
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._connection = self._open_or_recover()
        except (OSError, sqlite3.Error) as error:
            self._connection = self._fall_back(error)

    def take_notices(self) -> list[str]:
        """Sentences for the user about the file; each is given once.

        Returns
        -------
        None, most of the time.
        """
        with self._lock:
            notices, self._notices = self._notices, []
        return notices

    def execute(self, statement: str, row: Sequence[Any] = ()) -> list[tuple[Any, ...]]:
        """Run a statement.

        Parameters
        ----------
        statement : SQL
        row : its values

        Returns
        -------
        The rows that it gives.
        """
        rows: list[tuple[Any, ...]] = self.transact(lambda connection: connection.execute(statement, row).fetchall())
        return rows

    def read(self, statement: str, row: Sequence[Any] = ()) -> list[tuple[Any, ...]]:
        """Run a statement that changes nothing.

        Parameters
        ----------
        statement : SQL
        row : its values

        Returns
        -------
        The rows that it gives.
        """
        with self._lock:
            try:
                return self._connection.execute(statement, row).fetchall()
            except sqlite3.Error:
                return self.execute(statement, row)

    def transact(self, work: Callable[[sqlite3.Connection], Any]) -> Any:
        """Do several things, all or none; in memory where the file fails.

        Parameters
        ----------
        work : given the connection; it may run twice

        Returns
        -------
        What ``work`` returns.
        """
        with self._lock:
            try:
                return self._attempt(work)
            except sqlite3.Error as error:
                if self.in_memory:
                    raise
                with contextlib.suppress(sqlite3.Error):
                    self._connection.close()
                self._connection = self._fall_back(error)
                return self._attempt(work)

    def trace(self, see: Callable[[str], object]) -> None:
        """Have each statement seen as it runs.

        Parameters
        ----------
        see : called with SQL
        """
        self._connection.set_trace_callback(see)

    def close(self) -> None:
        """Close the file."""
        self._connection.close()

    def _attempt(self, work: Callable[[sqlite3.Connection], Any]) -> Any:
        connection = self._connection
        connection.execute("BEGIN IMMEDIATE")
        try:
            result = work(connection)
            connection.execute("COMMIT")
        except BaseException:
            with contextlib.suppress(sqlite3.Error):
                connection.execute("ROLLBACK")
            raise
        return result

    def _fall_back(self, error: Exception) -> sqlite3.Connection:
        self.in_memory = True
        reason = str(error).lower()
        self._notices.append(
            f"The {self._schema.title} cannot be written to {self.path} ({reason}). Work goes on, but would be lost "
            "in a crash."
        )
        connection = _connect(":memory:")
        connection.executescript(f"{self._schema.statements};{self._schema.in_memory}")
        return connection

    def _open_or_recover(self) -> sqlite3.Connection:
        try:
            return self._open()
        except _DamagedError as damage:
            aside = set_aside(self.path)
            for suffix in ("-wal", "-shm"):
                with contextlib.suppress(OSError):
                    Path(f"{self.path}{suffix}").rename(f"{aside}{suffix}")
            connection = self._open()
            count = _insert(connection, damage.rows)
            self._notices.append(
                f"The {self._schema.title} was damaged. {count} entries were recovered; the damaged file was kept "
                f"as {aside}."
            )
            return connection

    def _open(self) -> sqlite3.Connection:
        connection = _connect(str(self.path))
        try:
            (version,) = connection.execute("PRAGMA user_version").fetchone()
            if version > self._schema.version:
                raise sqlite3.OperationalError(f"written by a newer version, {version}")  # no damage
            connection.execute("PRAGMA journal_mode = WAL")  # stays as it is where the file system knows no WAL
            connection.execute("PRAGMA synchronous = FULL")
            problems = [text for (text,) in connection.execute("PRAGMA quick_check(1)").fetchall() if text != "ok"]
            if problems:
                raise _DamagedError(_readable_rows(connection, self._schema.tables))
            connection.executescript(self._schema.statements)
            connection.execute(f"PRAGMA user_version = {self._schema.version}")
        except sqlite3.DatabaseError as error:
            if isinstance(error, sqlite3.OperationalError):
                connection.close()
                raise
            rows = _readable_rows(connection, self._schema.tables)
            connection.close()
            raise _DamagedError(rows) from error
        except _DamagedError:
            connection.close()
            raise
        return connection


class _DamagedError(Exception):
    """The file is damaged; ``rows`` could be read, by table."""

    def __init__(self, rows: dict[str, list[dict[str, Any]]]) -> None:
        super().__init__("damaged")
        self.rows = rows


def _connect(name: str) -> sqlite3.Connection:
    return sqlite3.connect(name, timeout=_BUSY_S, check_same_thread=False, isolation_level=None)


def _readable_rows(connection: sqlite3.Connection, tables: tuple[str, ...]) -> dict[str, list[dict[str, Any]]]:
    """Read the rows that can still be read."""
    return {table: list(_rows_of(connection, table)) for table in tables}


def _rows_of(connection: sqlite3.Connection, table: str) -> Iterator[dict[str, Any]]:
    last, misses = 0, 0
    for _ in range(_MOST_STEPS):
        try:
            statement = f"SELECT rowid, * FROM {table} WHERE rowid > ? ORDER BY rowid LIMIT 1"
            cursor = connection.execute(statement, (last,))
            row = cursor.fetchone()
            if row is None:
                return
            last, misses = row[0], 0
            yield dict(zip([column[0] for column in cursor.description][1:], row[1:], strict=True))
        except sqlite3.Error:
            last, misses = last + 1, misses + 1
            if misses > 1000:
                return


def _insert(connection: sqlite3.Connection, rows: dict[str, list[dict[str, Any]]]) -> int:
    """Put recovered rows back; those that do not fit the tables are left out."""
    count = 0
    for table, table_rows in rows.items():
        for row in table_rows:
            marks = ", ".join("?" * len(row))
            with contextlib.suppress(sqlite3.Error):
                connection.execute(f"INSERT INTO {table} ({', '.join(row)}) VALUES ({marks})", tuple(row.values()))
                count += table == next(iter(rows))
    return count
