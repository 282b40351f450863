"""Networks at hand, what is known of them, and what happens when one is damaged."""

from __future__ import annotations

import hashlib
import os
import shutil
import threading
from pathlib import Path

import numpy as np
import psutil
import pytest

from wamplex.core.base.errors import UpscalerError
from wamplex.core.base.resources import MODELS_DIR
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.networks import manifest as manifest_module
from wamplex.core.upscale.networks import sessions as sessions_module
from wamplex.core.upscale.networks.execution import Execution
from wamplex.core.upscale.networks.manifest import network_file
from wamplex.core.upscale.networks.sessions import SessionPool, release_memory

NETWORKS = sorted(path for path in MODELS_DIR.glob("*-[1234]x.onnx"))
PICTURE = Picture(np.random.default_rng(5).random((24, 28, 3), np.float32))


def as_given(path: Path) -> tuple[int, int, int]:
    """Factor, halo and cells in what a network is given: a pixel of Tessera's is a cell of the mosaic."""
    known = network_file(path.name)
    cell = 2 if path.name.startswith("tessera") else 1
    return known.factor * cell, known.halo // cell, known.cells // cell


@pytest.mark.parametrize("path", NETWORKS, ids=lambda path: path.name)
def test_the_manifest_tells_of_every_network(path: Path) -> None:
    known = network_file(path.name)
    assert known.digest == hashlib.sha256(path.read_bytes()).hexdigest()
    session = SessionPool().get(path, known.digest)
    assert session.get_inputs()[0].shape[1] == known.inputs
    small = np.zeros((1, known.inputs, 8, 12), np.float32)
    factor, _, _ = as_given(path)
    assert session.run(None, {"source": small})[0].shape == (1, 3, 8 * factor, 12 * factor)


@pytest.mark.parametrize("path", NETWORKS, ids=lambda path: path.name)
def test_nothing_beyond_the_halo_counts(path: Path) -> None:
    """Within it something does, so that no halo is larger than it need be by more than a cell."""
    known = network_file(path.name)
    session = SessionPool().get(path)
    f, halo, cells = as_given(path)
    side, middle = 2 * halo + 16 - 2 * halo % 4, halo + 4
    plain = np.random.default_rng(1).random((1, known.inputs, 8, side), np.float32)
    made = session.run(None, {"source": plain})[0]
    away = np.abs(np.arange(side) - middle)

    def changes_the_middle(columns: np.ndarray) -> bool:
        other = np.where(columns, 1 - plain, plain)
        change = np.abs(session.run(None, {"source": other})[0] - made)
        return bool(change[..., middle * f : (middle + 1) * f].max() > 0)

    assert not changes_the_middle(away > halo)
    assert any(changes_the_middle(away == x) for x in range(halo - cells, halo + 1))


def test_every_file_of_the_product_is_below_four_megabytes() -> None:
    root = MODELS_DIR.parent
    assert max(path.stat().st_size for path in root.rglob("*") if path.is_file()) < 4_000_000


def test_a_network_that_is_replaced_under_its_name_is_another(tmp_path: Path) -> None:
    path, pool = tmp_path / "mine.onnx", SessionPool()
    shutil.copy(NETWORKS[0], path)
    first = pool.get(path)
    assert pool.get(path) is first
    shutil.copy(NETWORKS[1], path)
    assert pool.get(path) is not first


def test_sessions_stay_within_their_budget() -> None:
    pool = SessionPool(budget=20_000_000)
    for path in NETWORKS:
        pool.get(path)
    assert 1 <= len(pool) < len(NETWORKS)
    one = SessionPool(budget=1)
    assert one.get(NETWORKS[0]) is one.get(NETWORKS[0])  # the last stays, however large


@pytest.mark.parametrize("damage", ["missing", "pointer", "cut off"])
def test_a_damaged_network_is_told_in_words_and_the_others_go_on(
    damage: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for path in NETWORKS:
        shutil.copy(path, tmp_path)
    broken = tmp_path / "vellum-standard-2x.onnx"
    if damage == "missing":
        broken.unlink()
    elif damage == "pointer":
        broken.write_text("version 1\noid sha256:0\nsize 1\n")
    else:
        broken.write_bytes(broken.read_bytes()[:-1000])
    monkeypatch.setattr(manifest_module, "MODELS_DIR", tmp_path)
    manifest_module._manifest.cache_clear()
    shutil.copy(MODELS_DIR / "manifest.json", tmp_path)
    with pytest.raises(UpscalerError, match=r"vellum-standard-2x\.onnx is .*the others can"):
        render(PICTURE, Recipe(factor=2.0), Window(0, 0, 56, 48))
    made = render(PICTURE, Recipe(base=TrialSpec(upscaler="burin"), factor=2.0), Window(0, 0, 56, 48))
    assert made.shape == (48, 56, 3)


def test_what_was_tried_before_takes_no_memory() -> None:
    """Arenas of their own grew the process by 250 MB for each network."""
    picture = Picture(np.zeros((240, 320, 3), np.float32))
    sessions_module._pool.cache_clear()

    def try_all(factor: float) -> int:
        window = Window(0, 0, 640, 480)
        for key in ("vellum", "burin", "mender", "thicket"):
            noise = 20 if "noise" in find_upscaler(key).values else 0
            spec = TrialSpec(upscaler=key, values=Values(noise=noise))
            render(picture, Recipe(base=spec, factor=factor), window)
        return int(psutil.Process().memory_info().rss)

    start = int(psutil.Process().memory_info().rss)
    assert try_all(2.0) - start < 1_000_000_000
    assert try_all(4.0) - start < 1_000_000_000
    release_memory()
    assert int(psutil.Process().memory_info().rss) - start < 400_000_000


def test_threads_of_sessions_stand_back_where_they_are_told_to(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sessions_module, "_session_niceness", [])
    before = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())
    sessions_module.lower_session_priority(17)
    pool = SessionPool()
    monkeypatch.setattr(sessions_module, "current_execution", lambda: Execution(threads=2))
    pool.get(NETWORKS[0])
    tasks = Path("/proc/self/task").iterdir()
    assert 17 in {os.getpriority(os.PRIO_PROCESS, int(task.name)) for task in tasks}
    assert os.getpriority(os.PRIO_PROCESS, threading.get_native_id()) == before
