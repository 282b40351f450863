"""Where networks run: what may be chosen, and what is refused."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterator

import onnxruntime
import pytest

from wamplex.core.base.errors import RecipeError
from wamplex.core.model.settings import Settings, save_settings
from wamplex.core.upscale.networks import execution as execution_module
from wamplex.core.upscale.networks.execution import (
    CPU,
    LARGEST_DIFFERENCE,
    Execution,
    current_execution,
    make_execution,
    session_providers,
    usable_providers,
    use_execution,
)


@pytest.fixture(autouse=True)
def afresh(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    monkeypatch.setattr(execution_module, "_chosen", [])
    usable_providers.cache_clear()
    yield
    usable_providers.cache_clear()


def test_the_saved_setting_counts_until_another_is_put_in_force() -> None:
    save_settings(Settings(threads=3))
    assert current_execution() == Execution(CPU, 3)
    use_execution(make_execution(threads=1))
    assert current_execution() == Execution(CPU, 1)
    assert current_execution().text == "CPU, 1 thread"


@pytest.mark.parametrize(("usual", "limit"), [("3", 3), ("", 0), ("many", 0), ("999", 0)])
def test_the_usual_limit_of_threads_counts_where_nothing_is_set(
    monkeypatch: pytest.MonkeyPatch, usual: str, limit: int
) -> None:
    monkeypatch.setenv("OMP_NUM_THREADS", usual)
    assert Execution().thread_limit == limit
    assert Execution(threads=2).thread_limit == 2


@pytest.mark.parametrize("threads", [-1, 257])
def test_impossible_threads_are_refused(threads: int) -> None:
    with pytest.raises(RecipeError, match="outside 0 to 256"):
        make_execution(threads=threads)


def test_a_provider_that_is_not_there_is_refused_in_words() -> None:
    with pytest.raises(RecipeError, match=r"cannot run on Magic here. Choose one of: CPU"):
        use_execution(make_execution(provider="Magic"))


@pytest.mark.parametrize(("difference", "usable"), [(LARGEST_DIFFERENCE, True), (1e-4, False)])
def test_only_providers_that_keep_the_promise_are_offered(
    difference: float, usable: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The promise is that every window equals the whole to 1/65535."""
    there = ["CUDAExecutionProvider", "TensorrtExecutionProvider", CPU]
    monkeypatch.setattr(onnxruntime, "get_available_providers", lambda: there)

    def answers(command: list[str], **_how: object) -> subprocess.CompletedProcess[str]:
        assert command[-1] == "CUDAExecutionProvider"
        return subprocess.CompletedProcess(command, 0, json.dumps({"difference": difference}), "")

    monkeypatch.setattr(subprocess, "run", answers)
    assert usable_providers() == ((CPU, "CUDAExecutionProvider") if usable else (CPU,))


def test_a_provider_that_crashes_is_left_out(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(onnxruntime, "get_available_providers", lambda: ["ROCMExecutionProvider", CPU])

    def crashes(command: list[str], **_how: object) -> subprocess.CompletedProcess[str]:
        raise subprocess.CalledProcessError(-11, command)

    monkeypatch.setattr(subprocess, "run", crashes)
    assert usable_providers() == (CPU,)


def test_graphics_processors_are_asked_for_whole_products() -> None:
    assert session_providers(CPU) == [(CPU, {})]
    assert session_providers("CUDAExecutionProvider")[0][1] == {"use_tf32": "0"}


def test_the_check_itself_runs_in_a_process_of_its_own() -> None:
    command = [sys.executable, "-m", "wamplex.core.upscale.networks.execution", CPU]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert json.loads(done.stdout)["difference"] == 0
