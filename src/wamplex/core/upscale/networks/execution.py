"""Where networks run: the processor by default; other ONNX Runtime providers where they exist and agree."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from dataclasses import dataclass
from functools import lru_cache

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.onnx_runtime import load_onnxruntime
from wamplex.core.base.resources import MODELS_DIR
from wamplex.core.model.settings import load_settings

CPU = "CPUExecutionProvider"
_SUFFIX = "ExecutionProvider"
# Providers that need a service elsewhere, or an engine built for minutes at the first run.
_LEFT_OUT = ("AzureExecutionProvider", "TensorrtExecutionProvider", "NvTensorRTRTXExecutionProvider")
MOST_THREADS = 256
_CHECK_SECONDS = 60
# Whichever provider runs, what is seen is what is written: the same promise as between windows.
LARGEST_DIFFERENCE = 1 / 65535
# Products rounded to ten bits would miss it.
_OPTIONS = {"CUDAExecutionProvider": {"use_tf32": "0"}}


@dataclass(frozen=True)
class Execution:
    """A provider by its ONNX Runtime name, and how many threads it may use, 0 for as many as is usual."""

    provider: str = CPU
    threads: int = 0

    @property
    def thread_limit(self) -> int:
        """Threads of a network: the setting, else ``OMP_NUM_THREADS`` as other programs heed it, else 0 for all."""
        usual = os.environ.get("OMP_NUM_THREADS", "")
        return self.threads or (int(usual) if usual.isdecimal() and int(usual) <= MOST_THREADS else 0)

    @property
    def text(self) -> str:
        """For the user."""
        limit = self.thread_limit
        some = "1 thread" if limit == 1 else f"{limit} threads"
        threads = "one thread per core" if limit == 0 else some
        return f"{provider_label(self.provider)}, {threads}"


def session_providers(provider: str) -> list[tuple[str, dict[str, str]]]:
    """What ONNX Runtime is asked for: a provider with its options, then the processor for the rest."""
    names = [provider] if provider == CPU else [provider, CPU]
    return [(name, _OPTIONS.get(name, {})) for name in names]


def provider_label(provider: str) -> str:
    """A provider's name for the user."""
    return provider.removesuffix(_SUFFIX)


_chosen: list[Execution] = []


def current_execution() -> Execution:
    """The setting in force: what `use_execution` was told, else what is saved."""
    if not _chosen:
        saved = load_settings()
        _chosen.append(Execution(saved.provider, saved.threads))
    return _chosen[0]


def make_execution(*, provider: str | None = None, threads: int | None = None) -> Execution:
    """The setting in force, with one or both parts changed; the provider by its short name.

    Raises
    ------
    RecipeError : when the number of threads is impossible
    """
    now = current_execution()
    if threads is not None and not 0 <= threads <= MOST_THREADS:
        raise RecipeError(f"{threads} threads are outside 0 to {MOST_THREADS}.")
    name = now.provider if provider is None else provider.removesuffix(_SUFFIX) + _SUFFIX
    return Execution(name, now.threads if threads is None else threads)


def use_execution(execution: Execution) -> None:
    """Put a setting in force for this run.

    Raises
    ------
    RecipeError : when the provider is not there or failed its check
    """
    if execution.provider != CPU and execution.provider not in usable_providers():
        here = ", ".join(provider_label(name) for name in usable_providers())
        raise RecipeError(f"Networks cannot run on {provider_label(execution.provider)} here. Choose one of: {here}.")
    _chosen[:] = [execution]


@lru_cache(maxsize=1)
def usable_providers() -> tuple[str, ...]:
    """The processor, and every other provider that is there and gives the processor's result.

    Each is tried in a process of its own, since a broken driver may end the process it is used in.
    """
    onnxruntime = load_onnxruntime()
    others = [p for p in onnxruntime.get_available_providers() if p != CPU and p not in _LEFT_OUT]
    return (CPU, *(p for p in others if _agrees(p)))


def _agrees(provider: str) -> bool:
    try:
        done = subprocess.run(
            [sys.executable, "-m", __name__, provider],
            capture_output=True,
            text=True,
            timeout=_CHECK_SECONDS,
            check=True,
        )
        return bool(json.loads(done.stdout)["difference"] <= LARGEST_DIFFERENCE)
    except (OSError, subprocess.SubprocessError, ValueError, KeyError):
        return False


def _largest_difference(provider: str) -> float:
    """Between a provider's and the processor's result on the same random pixels."""
    import numpy as np

    onnxruntime = load_onnxruntime()
    path = str(MODELS_DIR / "vellum-standard-2x.onnx")
    tensor = np.random.default_rng(2).random((1, 3, 64, 80), dtype=np.float32)
    results = []
    for name in (CPU, provider):
        session = onnxruntime.InferenceSession(path, providers=session_providers(name))
        if session.get_providers()[0] != name:
            return float("inf")  # the runtime fell back without a word
        results.append(session.run(None, {"source": tensor})[0])
    return float(np.abs(results[0] - results[1]).max())


if __name__ == "__main__":
    print(json.dumps({"difference": _largest_difference(sys.argv[1])}))
