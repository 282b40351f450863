"""Runs a user's network in a separate process, within limits on time and memory."""

from __future__ import annotations

import atexit
import json
import os
import selectors
import subprocess
import sys
import threading
import time
from collections import OrderedDict
from functools import cache
from pathlib import Path
from typing import Any

from wamplex.core.base.errors import UpscalerError
from wamplex.core.base.progress import Progress
from wamplex.core.model.picture import Pixels
from wamplex.core.model.source import Source
from wamplex.core.upscale.networks.execution import current_execution
from wamplex.core.upscale.user_networks.inspection import NetworkInterface
from wamplex.core.upscale.user_networks.shared_buffer import SharedBuffer

LIMIT_BYTES = 6_000_000_000
LEAST_SECONDS = 60.0
_TIMES_THE_TRIAL = 50
_LOOK_S = 0.05
# A network may be in the middle of a picture; what was cancelled is waited for so long before it is ended.
_PATIENCE_S = 0.15
_MOST_PROCESSES = 2


class NetworkProcess:
    """A network at work elsewhere; one picture at a time, safe to use from any thread.

    Parameters
    ----------
    path : ONNX file
    threads : of the processor, 0 for one per core
    memory : bytes that it may take
    """

    def __init__(self, path: Path, threads: int = 0, memory: int = LIMIT_BYTES) -> None:
        self._path, self._threads, self._memory = path, threads, memory
        self._lock = threading.Lock()
        self._shared = os.memfd_create("wamplex-network")
        self._buffer = SharedBuffer(self._shared)
        self._child: subprocess.Popen[str] | None = None

    def run(self, picture: Pixels, findings: NetworkInterface, progress: Progress) -> Pixels:
        """Its result for a picture.

        Parameters
        ----------
        picture : (H, W, 3) float32 in 0..1

        Returns
        -------
        (H', W', C) float32, about 0..1

        Raises
        ------
        UpscalerError : when it fails, crashes, or exceeds its limits
        Cancelled : when ``progress`` is cancelled
        """
        with self._lock:
            progress.check()
            self._buffer.put(picture)
            asked = {
                "shape": picture.shape,
                "layout": findings.layout,
                "top": findings.top,
                "type": findings.type,
            }
            megapixels = picture.shape[0] * picture.shape[1] * findings.factor**2 / 1e6
            limit = max(LEAST_SECONDS, _TIMES_THE_TRIAL * findings.seconds_per_megapixel * megapixels)
            result = self._read_result(self._ask(asked, limit, progress))
            return result.transpose(1, 2, 0) if findings.layout == "NCHW" else result

    def close(self) -> None:
        """End it, also in the middle of a picture."""
        child = self._child
        if child is not None:
            child.kill()
        with self._lock:
            self._end()
            if self._shared >= 0:
                os.close(self._shared)
                self._shared = -1

    def _read_result(self, answer: dict[str, Any]) -> Pixels:
        if "refused" in answer:
            raise UpscalerError(f"The network {self._path.stem} failed: {answer['refused']}.")
        shape = tuple(int(side) for side in answer["shape"])
        return self._buffer.take(shape)

    def _ask(self, asked: dict[str, Any], limit: float, progress: Progress) -> dict[str, Any]:
        child = self._running()
        assert child.stdin is not None
        try:
            child.stdin.write(json.dumps(asked) + "\n")
            child.stdin.flush()
            line = self._answer(child, limit, progress)
            return dict(json.loads(line))
        except (OSError, ValueError) as error:
            self._end()
            raise UpscalerError(
                f"The network {self._path.stem} crashed, or needed more than {self._memory / 1e9:.1f} GB. "
                "Nothing was written; choose another upscaler."
            ) from error
        except BaseException:
            self._end()
            raise

    def _answer(self, child: subprocess.Popen[str], limit: float, progress: Progress) -> str:
        assert child.stdout is not None
        begun = time.monotonic()
        with selectors.DefaultSelector() as ready:
            ready.register(child.stdout, selectors.EVENT_READ)
            while not ready.select(_LOOK_S):
                waited = time.monotonic() - begun
                if waited > limit:
                    raise UpscalerError(
                        f"The network {self._path.stem} did not finish a part of the picture in {limit:.0f} "
                        "seconds. Nothing was written; choose another upscaler."
                    )
                if waited > _PATIENCE_S:
                    progress.check()
        return child.stdout.readline()

    def _running(self) -> subprocess.Popen[str]:
        if self._child is None or self._child.poll() is not None:
            numbers = (os.getpid(), self._memory, self._threads, self._shared)
            text = [str(self._path), *(str(number) for number in numbers)]
            self._child = subprocess.Popen(
                [sys.executable, "-m", "wamplex.core.upscale.user_networks.network_worker", *text],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                text=True,
                pass_fds=(self._shared,),
                process_group=0,  # Ctrl+C is for the program, which then ends it
            )
        return self._child

    def _end(self) -> None:
        child, self._child = self._child, None
        if child is None:
            return
        child.kill()
        child.wait()
        for pipe in (child.stdin, child.stdout):
            if pipe is not None:
                try:
                    pipe.close()
                except OSError:
                    continue  # what was not yet written has nobody to read it


class _Processes:
    """The ones used last."""

    def __init__(self) -> None:
        self._cached: OrderedDict[tuple[Source, int], NetworkProcess] = OrderedDict()
        self._lock = threading.Lock()
        atexit.register(self.close)

    def get(self, path: Path) -> NetworkProcess:
        key = Source.of(path), current_execution().thread_limit
        with self._lock:
            if key not in self._cached:
                self._cached[key] = NetworkProcess(path, key[1])
                while len(self._cached) > _MOST_PROCESSES:
                    self._cached.popitem(last=False)[1].close()
            self._cached.move_to_end(key)
            return self._cached[key]

    def close(self) -> None:
        with self._lock:
            while self._cached:
                self._cached.popitem()[1].close()


@cache
def _processes() -> _Processes:
    return _Processes()


def run_user_network(path: Path, findings: NetworkInterface, picture: Pixels, progress: Progress) -> Pixels:
    """A network's result for a picture, made in a process of its own; see `NetworkProcess.run`.

    Returns
    -------
    (H', W', C) float32, about 0..1.
    """
    return _processes().get(path).run(picture, findings, progress)
