"""ONNX Runtime sessions: a pool bounded by bytes, on the chosen processor with the chosen threads."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import psutil

from wamplex.core.base.errors import UnreadablePictureError, UpscalerError
from wamplex.core.base.onnx_runtime import load_onnxruntime
from wamplex.core.base.thread_priority import lower_thread_priority
from wamplex.core.model.source import Source
from wamplex.core.upscale.networks.execution import Execution, current_execution, session_providers

_SHARE_OF_MEMORY = 0.25
_MOST_BYTES = 1_000_000_000
# A file in half precision is widened, and packed once more for the processor's own order of channels.
_SESSION_PER_FILE_BYTE = 6
_Key = tuple[str, Execution]
_session_niceness: list[int] = []  # none: as the thread that opens them


class SessionPool:
    """Sessions, the ones used last; safe to use from any thread.

    They are known by the digest of their weights: a file that is replaced under the same name is another
    network. All take the memory of their runs from one arena, so that what was tried before in the same
    program takes no more than what is tried now; `release` gives it back.

    Parameters
    ----------
    budget : bytes that sessions may take while they wait; None for a quarter of this computer's memory, at
        most 1 GB
    """

    def __init__(self, budget: int | None = None) -> None:
        limit = int(psutil.virtual_memory().total * _SHARE_OF_MEMORY)
        self._budget = min(limit, _MOST_BYTES) if budget is None else budget
        self._cached: OrderedDict[_Key, tuple[Any, int]] = OrderedDict()
        self._known: Any = None  # one of ours, whose input's shape is known
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._cached)

    def get(self, path: Path, digest: str | None = None) -> Any:
        """The session of a file under the current execution setting.

        Parameters
        ----------
        digest : SHA-256 that the file must have, None for whatever it has

        Raises
        ------
        UpscalerError : when the file is missing, damaged or no network
        """
        execution = current_execution()
        key = _checked_digest(path, digest), execution
        with self._lock:
            if key in self._cached:
                self._cached.move_to_end(key)
                return self._cached[key][0]
            session = _opened(path, execution, digest)
            if digest is not None:
                self._known = session
            self._cached[key] = session, path.stat().st_size * _SESSION_PER_FILE_BYTE
            while sum(size for _, size in self._cached.values()) > self._budget and len(self._cached) > 1:
                self._cached.popitem(last=False)
            return session

    def release(self) -> None:
        """Give the memory of past runs back to the system: for when nothing more is to be made at once.

        After every run it would cost a fifth of the time, since the next run must be given it again.
        """
        onnxruntime = load_onnxruntime()
        with self._lock:
            session = self._known
        if session is None:
            return
        options = onnxruntime.RunOptions()
        options.add_run_config_entry("memory.enable_memory_arena_shrinkage", "cpu:0")
        entry = session.get_inputs()[0]
        session.run(None, {entry.name: np.zeros((1, entry.shape[1], 8, 8), np.float32)}, options)


@cache
def _pool() -> SessionPool:
    return SessionPool()


def load_session(path: Path, digest: str | None = None) -> Any:
    """Session for a network, from the program's pool; see `SessionPool.get`.

    Returns
    -------
    An ``onnxruntime.InferenceSession``.
    """
    return _pool().get(path, digest)


def release_memory() -> None:
    """Give back what past runs took; see `SessionPool.release`."""
    _pool().release()


def _checked_digest(path: Path, expected: str | None) -> str:
    try:
        digest = Source.of(path).digest
    except (UnreadablePictureError, OSError) as error:
        raise UpscalerError(_unusable(path, "is missing", expected)) from error
    if expected is not None and digest != expected:
        raise UpscalerError(_unusable(path, "is damaged", expected))
    return digest


def _unusable(path: Path, why: str, digest: str | None) -> str:
    sentence = f"The network {path.name} {why}: this upscaler cannot be used, the others can."
    return sentence if digest is None else f"{sentence} Reinstall Wamplex to restore it."


def lower_session_priority(niceness: int) -> None:
    """Give the threads of sessions that are opened from now on a niceness, as in nice(1)."""
    _session_niceness[:] = [niceness]


def _standing_back(opened: Callable[[], Any]) -> Any:
    """A session's threads are as nice as the thread that opens it, which is one made for that."""
    if not _session_niceness:
        return opened()
    with ThreadPoolExecutor(1, initializer=lambda: lower_thread_priority(_session_niceness[0])) as opener:
        return opener.submit(opened).result()


def _opened(path: Path, execution: Execution, digest: str | None) -> Any:
    onnxruntime = load_onnxruntime()
    _use_shared_arena()
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = execution.thread_limit
    options.log_severity_level = 3
    # Planning all layers as one block takes half as much memory again, and saves no time.
    options.enable_mem_pattern = False
    # Its threads would go on turning for the next layer while ours bring the planes together.
    options.add_session_config_entry("session.force_spinning_stop", "1")
    options.add_session_config_entry("session.use_env_allocators", "1")
    providers = session_providers(execution.provider)
    try:
        return _standing_back(lambda: onnxruntime.InferenceSession(str(path), options, providers=providers))
    except Exception as error:  # the runtime has a dozen classes for this, none of them public
        raise UpscalerError(_unusable(path, "cannot be opened", digest)) from error


@cache
def _use_shared_arena() -> None:
    """Once in a process."""
    onnxruntime = load_onnxruntime()
    kind, memory = onnxruntime.OrtAllocatorType.ORT_ARENA_ALLOCATOR, onnxruntime.OrtMemType.DEFAULT
    where = onnxruntime.OrtMemoryInfo("Cpu", kind, 0, memory)
    onnxruntime.create_and_register_allocator(where, onnxruntime.OrtArenaCfg(0, 0, -1, -1))
