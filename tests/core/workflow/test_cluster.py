"""Tiles made by a cluster of two processes: the same bytes as here, also when one of them is killed."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from distributed import Client, LocalCluster
from PIL import Image

from wamplex.core.base.errors import Cancelled, ClusterError, DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.finish.grey_mask import encode_grey
from wamplex.core.finish.initial_masks import mask_from_file
from wamplex.core.intake.read import read_picture
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import Finish, Grain, InitialMask, Layer, Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.cluster import cluster as cluster_module
from wamplex.core.workflow.cluster.cluster import Cluster
from wamplex.core.workflow.cluster.tile_task import TileTask

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def local() -> Iterator[LocalCluster]:
    with LocalCluster(n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None) as made:
        yield made


@pytest.fixture
def workers(local: LocalCluster) -> Iterator[Cluster]:
    made = Cluster(local.scheduler_address)
    yield made
    made.close()


def large(tmp_path: Path) -> Path:
    path = tmp_path / "large.png"
    noise = np.random.default_rng(3).integers(0, 255, (500, 700, 3), np.uint8)
    Image.fromarray(noise).save(path)
    return path


def made(source: Path, recipe: Recipe, folder: Path, workers: Cluster | None, **how: object) -> bytes:
    wanted = Delivery.model_validate({"format": "tiff", "depth": 16, "folder": folder, **how})
    maker = None if workers is None else workers.of(recipe)
    return deliver(read_picture(source), recipe, wanted, Progress(), maker=maker).path.read_bytes()


def test_a_finished_picture_has_the_same_bytes(
    workers: Cluster, photo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(cluster_module, "_LOOK_S", 0.001)  # as on a machine too busy to answer sooner
    grey = tmp_path / "mask.png"
    Image.linear_gradient("L").resize((150, 120)).save(grey)
    ref = process_assets().put(encode_grey(mask_from_file(grey, read_picture(photo_file))))
    over = Layer(
        source_trial=TrialSpec(upscaler="contour"), mask=Mask(initial_mask=InitialMask(kind="file", picture=ref))
    )
    recipe = Recipe(base=TrialSpec(upscaler="vellum")).finished(Finish(layers=(over,), grain=Grain()))
    for how in ({}, {"format": "png", "depth": 8}, {"format": "dng"}):
        here = made(photo_file, recipe, tmp_path / "here", None, **how)
        assert made(photo_file, recipe, tmp_path / "there", workers, **how) == here


def test_a_worker_that_is_killed_in_the_middle_costs_nothing(
    local: LocalCluster, workers: Cluster, tmp_path: Path
) -> None:
    source, recipe = large(tmp_path), Recipe(base=TrialSpec(upscaler="lanczos"), factor=7)
    here = made(source, recipe, tmp_path / "here", None)
    with Client(local.scheduler_address, set_as_default=False) as client:
        pids = list(client.run(os.getpid).values())
    asked: list[object] = []
    submit = workers._client.submit

    def watched(*words: object, **how: object) -> object:
        if not asked:
            threading.Timer(0.5, lambda: os.kill(pids[0], signal.SIGKILL)).start()
        asked.append(words)
        return submit(*words, **how)

    workers._client.submit = watched
    assert made(source, recipe, tmp_path / "there", workers) == here
    assert len(asked) >= 4


@pytest.mark.parametrize(
    ("lie", "sentence"), [("shape", "not the part"), ("kind", "not the part"), ("pixels", "other pixels")]
)
def test_a_worker_that_lies_is_found_out(
    workers: Cluster, photo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, lie: str, sentence: str
) -> None:
    answers = workers._result

    def lying(future: object, progress: Progress) -> object:
        tile = answers(future, progress)
        return {"shape": tile[:1], "kind": tile.astype(np.float64), "pixels": np.roll(tile, 1, axis=1)}[lie]

    monkeypatch.setattr(workers, "_result", lying)
    with pytest.raises(DeliveryError, match=sentence):
        made(photo_file, Recipe(base=TrialSpec(upscaler="bicubic")), tmp_path / "there", workers)
    assert not (tmp_path / "there").exists()


def test_another_file_under_the_same_path_is_noticed(workers: Cluster, photo_file: Path) -> None:
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"))
    task = TileTask(str(photo_file), "0" * 64, recipe.model_dump_json(), Delivery().model_dump_json(), (0, 0, 9, 9))
    with pytest.raises(DeliveryError, match="not the same file"):
        list(workers.ordered([task], Progress()))


def test_cancelling_leaves_nothing(workers: Cluster, tmp_path: Path) -> None:
    source, recipe = large(tmp_path), Recipe(base=TrialSpec(upscaler="lanczos"), factor=8)
    progress = Progress()
    threading.Timer(0.3, progress.cancel).start()
    wanted = Delivery(folder=tmp_path / "out")
    with pytest.raises(Cancelled):
        deliver(read_picture(source), recipe, wanted, progress, maker=workers.of(recipe))
    assert not (tmp_path / "out").exists()


def test_workers_with_other_networks_and_no_scheduler_are_refused(
    local: LocalCluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(cluster_module, "_WAIT_S", 1)
    with pytest.raises(ClusterError, match="no scheduler"):
        Cluster("tcp://127.0.0.1:9")
    monkeypatch.setattr("wamplex.core.workflow.cluster.tile_task.networks_digest", lambda: "f" * 64)
    with pytest.raises(ClusterError, match=r"The worker .* has Wamplex"):
        Cluster(local.scheduler_address)


def test_the_command_makes_several_pictures_at_once(local: LocalCluster, photo_file: Path) -> None:
    other = photo_file.with_name("other.png")
    Image.open(photo_file).rotate(180).save(other)
    words = ["enlarge", str(photo_file), str(other), "--factor", "2", "--upscaler", "bicubic", "--json"]
    command = [sys.executable, "-m", "wamplex", *words, "--cluster", local.scheduler_address]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.index("photo-2x.tif") < done.stdout.index("other-2x.tif")


@pytest.mark.parametrize(
    "address", ["tcp://10.0.0.5:8786", "tcp://example:8786", "10.0.0.5:8786", "tcp://[2001:db8::1]:8786"]
)
def test_another_computer_without_tls_is_refused_unless_the_network_is_trusted(address: str) -> None:
    with pytest.raises(ClusterError, match="protected by TLS"):
        Cluster(address)


@pytest.mark.parametrize("address", ["tcp://127.0.0.1:1", "tcp://localhost:1", "tcp://[::1]:1"])
def test_this_computer_needs_no_tls(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster_module, "_WAIT_S", 0.2)
    with pytest.raises(ClusterError, match="no scheduler"):
        Cluster(address)
