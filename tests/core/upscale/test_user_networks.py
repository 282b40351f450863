"""Networks of the user's: fed rightly when they work, refused with the reason when they do not."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import onnx
import psutil
import pytest
from onnx import TensorProto, helper, numpy_helper

from wamplex.core.base.errors import Cancelled, RecipeError, UpscalerError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.user_networks import network_client
from wamplex.core.upscale.user_networks.external_weights import external_weight_files
from wamplex.core.upscale.user_networks.network_store import (
    add_user_network,
    remove_user_network,
    try_out,
    user_upscalers,
)

FREE = ["N", 3, "H", "W"]


@pytest.fixture(autouse=True)
def own_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    return tmp_path


def network(
    path: Path,
    scales: tuple[float, ...] = (1, 1, 2, 2),
    shape: list[object] = FREE,
    before: list[onnx.NodeProto] | None = None,
    constants: dict[str, object] | None = None,
    kind: int = TensorProto.FLOAT,
) -> Path:
    """A network that copies each pixel, after the nodes ``before``, which lead from "in" to "middle"."""
    nodes = before or [helper.make_node("Identity", ["in"], ["middle"])]
    scale = helper.make_tensor("scales", TensorProto.FLOAT, [4], scales)
    resize = helper.make_node("Resize", ["middle", "", "scales"], ["out"], mode="nearest")
    numbers = [numpy_helper.from_array(np.array(v, np.float32), n) for n, v in (constants or {}).items()]
    graph = helper.make_graph(
        [*nodes, resize],
        "copy",
        [helper.make_tensor_value_info("in", kind, shape)],
        [helper.make_tensor_value_info("out", kind, None)],
        [scale, *numbers],
    )
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=8)
    onnx.save(model, path)
    return path


def clip_above(limit: float) -> dict[str, object]:
    """Nodes that only a network fed with values up to ``limit`` survives."""
    return {
        "before": [helper.make_node("Clip", ["in", "low", "high"], ["middle"])],
        "constants": {"low": 0.0, "high": limit},
    }


@pytest.mark.parametrize(
    ("options", "expected"),
    [
        ({}, ("NCHW", 1.0, None, 2)),
        ({"shape": ["N", "H", "W", 3], "scales": (1, 3, 3, 1)}, ("NHWC", 1.0, None, 3)),
        ({"shape": [1, 3, 64, 48]}, ("NCHW", 1.0, (64, 48), 2)),
        ({"kind": TensorProto.UINT8}, ("NCHW", 255.0, None, 2)),
    ],
)
def test_input_layout_is_detected(options: dict[str, Any], expected: tuple[Any, ...], tmp_path: Path) -> None:
    findings = try_out(network(tmp_path / "net.onnx", **options))
    assert (findings.layout, findings.top, findings.side, findings.factor) == expected


def test_a_network_that_counts_to_255_is_fed_so(tmp_path: Path) -> None:
    rounding = [helper.make_node("Round", ["in"], ["middle"])]  # 0..1 would come back in black and white
    assert try_out(network(tmp_path / "net.onnx", before=rounding)).top == 255


@pytest.mark.parametrize(
    ("options", "reason"),
    [
        ({"scales": (1, 1, 2, 3)}, "same whole factor"),
        ({"scales": (1, 1, 1.5, 1.5)}, "same whole factor"),
        ({"shape": ["N", 1, "H", "W"]}, "three colours"),
        ({"shape": [8, 3, "H", "W"]}, "8 pictures at a time"),
        (clip_above(0.0), "does not resemble"),
        (
            {"before": [helper.make_node("Log", ["in"], ["x"]), helper.make_node("Sqrt", ["x"], ["middle"])]},
            "NaN",
        ),
    ],
)
def test_what_does_not_fit_is_refused_with_the_reason(options: dict[str, Any], reason: str, tmp_path: Path) -> None:
    with pytest.raises(UpscalerError, match=reason):
        add_user_network(network(tmp_path / "net.onnx", **options))
    assert user_upscalers() == ()


def wait_until(done: Callable[[], bool], seconds: float = 20.0) -> None:
    ends = time.monotonic() + seconds
    while not done():
        assert time.monotonic() < ends
        time.sleep(0.05)


def endless(start: str = "") -> onnx.NodeProto:
    """A loop that never ends, once the value named ``start`` says that it should begin."""
    body = helper.make_graph(
        [helper.make_node("Identity", ["go"], ["go_on"]), helper.make_node("Tanh", ["x"], ["x_on"])],
        "body",
        [
            helper.make_tensor_value_info("i", TensorProto.INT64, []),
            helper.make_tensor_value_info("go", TensorProto.BOOL, []),
            helper.make_tensor_value_info("x", TensorProto.FLOAT, FREE),
        ],
        [
            helper.make_tensor_value_info("go_on", TensorProto.BOOL, []),
            helper.make_tensor_value_info("x_on", TensorProto.FLOAT, FREE),
        ],
    )
    return helper.make_node("Loop", ["", start, "in"], ["middle"], body=body)


def test_a_hanging_network_is_given_up(tmp_path: Path) -> None:
    with pytest.raises(UpscalerError, match="did not finish"):
        try_out(network(tmp_path / "net.onnx", before=[endless()]), seconds=4)


def test_a_network_that_hangs_only_in_use_is_given_up_and_can_be_cancelled(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its trial has no flat picture; skies are."""
    nodes = [
        helper.make_node("ReduceMax", ["in"], ["most"], keepdims=0),
        helper.make_node("ReduceMin", ["in"], ["least"], keepdims=0),
        helper.make_node("Sub", ["most", "least"], ["range"]),
        helper.make_node("Less", ["range", "limit"], ["flat"]),
        endless("flat"),
    ]
    options = {"before": nodes, "constants": {"limit": 0.01}}
    own = add_user_network(network(tmp_path / "late.onnx", **options))  # type: ignore[arg-type]
    recipe = Recipe(base=TrialSpec(upscaler=own.key), factor=2)
    picture, whole = Picture(np.ones((40, 40, 3), np.float32)), Window(0, 0, 80, 80)
    monkeypatch.setattr(network_client, "LEAST_SECONDS", 2.0)
    monkeypatch.setattr(network_client, "_TIMES_THE_TRIAL", 0)
    with pytest.raises(UpscalerError, match="did not finish a part of the picture in 2 seconds"):
        render(picture, recipe, whole)
    noise = np.random.default_rng(3).random((40, 40, 3), np.float32)
    made = render(Picture(noise), recipe, whole)  # a new process goes on
    assert np.array_equal(made, noise.repeat(2, axis=0).repeat(2, axis=1))
    progress = Progress()
    # Given up for its time it would raise another error, a minute later.
    monkeypatch.setattr(network_client, "LEAST_SECONDS", 60.0)
    threading.Timer(0.5, progress.cancel).start()
    with pytest.raises(Cancelled):
        render(picture, recipe, whole, progress)


def test_the_process_of_a_network_ends_with_the_program(tmp_path: Path) -> None:
    """Killed, so that nothing could tidy up; the network is in the middle of a picture."""
    file = network(tmp_path / "net.onnx", before=[endless()])
    script = f"from wamplex.core.upscale.user_networks import network_store as s; s.try_out(s.Path({str(file)!r}))"
    parent = subprocess.Popen([sys.executable, "-c", script])
    try:
        wait_until(lambda: bool(psutil.Process(parent.pid).children()))
        (child,) = psutil.Process(parent.pid).children()
    finally:
        parent.kill()
        parent.wait()
    wait_until(lambda: not child.is_running() or child.status() == psutil.STATUS_ZOMBIE)


def test_weights_beside_a_network_come_along_and_elsewhere_are_refused(tmp_path: Path) -> None:
    added = helper.make_node("Add", ["in", "nothing"], ["middle"])
    file = network(tmp_path / "net.onnx", before=[added], constants={"nothing": 0.0})
    model = onnx.load(file)
    onnx.save(model, file, save_as_external_data=True, location="net.weights", size_threshold=0)
    (tmp_path / "net.weights").rename(tmp_path / "elsewhere")
    with pytest.raises(UpscalerError, match=r"net\.weights, are not in the same folder"):
        add_user_network(file)
    (tmp_path / "odd.onnx").write_bytes(b"\x0a\x08location\x12\x7f" + b"\xff" * 127)  # a name too long
    with pytest.raises(UpscalerError, match="not in the same folder"):
        external_weight_files(tmp_path / "odd.onnx")
    (tmp_path / "elsewhere").rename(tmp_path / "net.weights")
    own = add_user_network(file)
    file.unlink()
    (tmp_path / "net.weights").unlink()
    recipe = Recipe(base=TrialSpec(upscaler=own.key), factor=2)
    pixels = np.random.default_rng(2).random((40, 40, 3), np.float32)
    made = render(Picture(pixels), recipe, Window(0, 0, 80, 80))
    assert np.array_equal(made, pixels.repeat(2, axis=0).repeat(2, axis=1))
    assert user_upscalers() == (own,)
    remove_user_network(own.key)
    assert list(own.path.parent.parent.iterdir()) == []


def test_a_network_for_a_single_size_that_says_otherwise_is_refused(tmp_path: Path) -> None:
    """It adds a constant of 96 x 96 pixels, as networks do that were traced carelessly."""
    plane = helper.make_tensor("plane", TensorProto.FLOAT, [1, 1, 96, 96], np.zeros(96 * 96))
    constant = helper.make_node("Constant", [], ["zeros"], value=plane)
    added = helper.make_node("Add", ["in", "zeros"], ["middle"])
    with pytest.raises(UpscalerError, match="fails at 83 × 64 px, though not at 96 × 96 px"):
        try_out(network(tmp_path / "net.onnx", before=[constant, added]))


def test_too_much_memory_is_given_up(tmp_path: Path) -> None:
    with pytest.raises(UpscalerError, match=r"crashed, or needed more|Running it failed"):
        try_out(network(tmp_path / "net.onnx", scales=(1, 1, 300, 300)), memory=1_200_000_000)


def test_no_network_at_all(tmp_path: Path) -> None:
    path = tmp_path / "net.onnx"
    path.write_bytes(b"not a network")
    with pytest.raises(UpscalerError, match="cannot be opened"):
        try_out(path)
    with pytest.raises(UpscalerError, match="file not found"):
        add_user_network(tmp_path / "none.onnx")


def test_added_listed_used_and_removed(tmp_path: Path) -> None:
    file = network(tmp_path / "net.onnx", shape=[1, 3, 64, 48])
    added = add_user_network(file, "My Copyist")
    assert (added.key, added.name) == ("my-copyist", "My Copyist")
    assert find_upscaler("my-copyist") == user_upscalers()[0]
    with pytest.raises(UpscalerError, match="already"):
        add_user_network(file, "my copyist", used_keys=("my-copyist",))
    pixels = np.random.default_rng(1).random((131, 97, 3), dtype=np.float32)
    alpha = np.ones((131, 97), np.float32)
    recipe = Recipe(base=TrialSpec(upscaler="my-copyist"), factor=4)
    whole = render(Picture(pixels, alpha), recipe, Window(0, 0, 388, 524))
    assert np.array_equal(whole[..., :3], pixels.repeat(4, axis=0).repeat(4, axis=1))
    part = render(Picture(pixels, alpha), recipe, Window(200, 333, 90, 70))
    assert np.array_equal(part, whole[333:403, 200:290])
    assert "2× then 2×" in added.steps(4)
    remove_user_network("my-copyist")
    with pytest.raises(RecipeError):
        find_upscaler("my-copyist")


def none_at(value: float) -> dict[str, object]:
    """Nodes that divide zero by zero wherever there is this very value."""
    return {
        "before": [
            helper.make_node("Equal", ["in", "value"], ["there"]),
            helper.make_node("Sub", ["in", "in"], ["zero"]),
            helper.make_node("Div", ["zero", "zero"], ["none"]),
            helper.make_node("Where", ["there", "none", "in"], ["middle"]),
        ],
        "constants": {"value": value},
    }


def test_values_that_are_no_numbers_never_reach_a_file(tmp_path: Path, photo_file: Path) -> None:
    """It passes its trial, whose picture has no white, and fails on white."""
    own = add_user_network(network(tmp_path / "odd.onnx", **none_at(1.0)))  # type: ignore[arg-type]
    pixels = np.full((40, 40, 3), 0.5, np.float32)
    recipe = Recipe(base=TrialSpec(upscaler=own.key), factor=2)
    assert np.isfinite(render(Picture(pixels), recipe, Window(0, 0, 80, 80))).all()
    pixels[20, 20] = 1.0
    with pytest.raises(UpscalerError, match="odd returned invalid values"):
        render(Picture(pixels), recipe, Window(0, 0, 80, 80))


@pytest.mark.parametrize("note", [b"\xff\xfe", b"[]", b"3", b'{"name": "a"}', b'{"name": "a", "side": {}}'])
def test_a_damaged_note_hides_one_network_and_no_more(tmp_path: Path, note: bytes) -> None:
    good = add_user_network(network(tmp_path / "good.onnx"))
    other = add_user_network(network(tmp_path / "other.onnx"))
    other.path.with_suffix(".json").write_bytes(note)
    assert [own.key for own in user_upscalers()] == [good.key]
