"""Passes files to the window that is already open, through a socket of this user."""

from __future__ import annotations

import fcntl
import json
import os
import socket
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_state_path

if TYPE_CHECKING:
    from PySide6.QtCore import QObject
    from PySide6.QtNetwork import QLocalSocket

_TAKEN = b"taken\n"
_WAIT_S = 2.0
_LARGEST_BYTES = 4_000_000  # ten thousand long paths


def socket_path() -> Path:
    """Path of the socket of the running window."""
    runtime_dir = os.environ.get("XDG_RUNTIME_DIR")  # sessions without one have no place of their own for sockets
    folder = (
        Path(runtime_dir)
        if runtime_dir and os.path.isdir(runtime_dir)
        else user_state_path("wamplex", ensure_exists=True)
    )
    return folder / f"wamplex-{os.getuid()}.socket"


def hand_to_running(paths: Sequence[Path]) -> bool:
    """Give files to the window that runs already; False where none does, or it does not answer."""
    text = json.dumps([str(path.absolute()) for path in paths]).encode()
    if len(text) > _LARGEST_BYTES:
        return False
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as line:
            line.settimeout(_WAIT_S)
            line.connect(str(socket_path()))
            line.sendall(text + b"\n")
            return line.recv(len(_TAKEN)) == _TAKEN
    except (OSError, UnicodeEncodeError):
        return False


def listen(parent: QObject, take: Callable[[list[Path]], None]) -> None:
    """Take files from programs that are started later, as long as this one runs.

    Parameters
    ----------
    take : called with the files, on the UI thread
    """
    from PySide6.QtNetwork import QLocalServer

    lock = _lock_socket()
    if lock is None:
        return  # a window that is busy or stopped has the socket, and keeps it
    server = QLocalServer(parent)
    server.destroyed.connect(lambda: os.close(lock))
    server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
    path = str(socket_path())
    with suppress(OSError):
        os.unlink(path)  # of a window that was killed: one that runs has the lock
    if not server.listen(path):
        return  # then every start opens a window of its own

    def came() -> None:
        line = server.nextPendingConnection()
        if line is not None:
            line.readyRead.connect(lambda: _read(line, take))
            line.disconnected.connect(line.deleteLater)

    server.newConnection.connect(came)


def _lock_socket() -> int | None:
    """Lock the socket until this process ends, however it ends; None where another process has the lock."""
    try:
        lock = os.open(socket_path().with_suffix(".lock"), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    except OSError:
        return None
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(lock)
        return None
    return lock


def _read(line: QLocalSocket, take: Callable[[list[Path]], None]) -> None:
    if line.bytesAvailable() > _LARGEST_BYTES:
        line.abort()
        return
    if not line.canReadLine():
        return
    from wamplex.core.base.bounded_parsing import parse_json  # a second start must not wait for it

    try:
        listed = parse_json(bytes(line.readLine().data()))
        paths = [Path(name) for name in listed if isinstance(name, str)]
    except (ValueError, TypeError):
        line.abort()
        return
    line.write(_TAKEN)
    line.flush()
    take(paths)
