"""Networks of the user's: fed rightly when they work, refused with the reason when they do not."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnx
import pytest
from onnx import TensorProto, helper

from wamplex.core.errors import RecipeError, UpscalerError
from wamplex.core.picture import Picture
from wamplex.core.recipe import Recipe, TrialSpec
from wamplex.core.render import render
from wamplex.core.upscale.own.shelf import add_own, own_upscalers, remove_own, try_out
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.window import Window

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
    numbers = [helper.make_tensor(n, TensorProto.FLOAT, [], [v]) for n, v in (constants or {}).items()]
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
    ("options", "found"),
    [
        ({}, ("NCHW", 1.0, None, 2)),
        ({"shape": ["N", "H", "W", 3], "scales": (1, 3, 3, 1)}, ("NHWC", 1.0, None, 3)),
        ({"shape": [1, 3, 64, 48]}, ("NCHW", 1.0, (64, 48), 2)),
        ({"kind": TensorProto.UINT8}, ("NCHW", 255.0, None, 2)),
    ],
)
def test_how_to_feed_it_is_found_out(options: dict, found: tuple, tmp_path: Path) -> None:
    findings = try_out(network(tmp_path / "net.onnx", **options))
    assert (findings.layout, findings.top, findings.side, findings.factor) == found


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
def test_what_does_not_fit_is_refused_with_the_reason(options: dict, reason: str, tmp_path: Path) -> None:
    with pytest.raises(UpscalerError, match=reason):
        add_own(network(tmp_path / "net.onnx", **options))
    assert own_upscalers() == ()


def test_a_hanging_network_is_given_up(tmp_path: Path) -> None:
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
    loop = helper.make_node("Loop", ["", "", "in"], ["middle"], body=body)
    with pytest.raises(UpscalerError, match="did not finish"):
        try_out(network(tmp_path / "net.onnx", before=[loop]), seconds=4)


def test_too_much_memory_is_given_up(tmp_path: Path) -> None:
    with pytest.raises(UpscalerError, match=r"crashed, or needed more|Running it failed"):
        try_out(network(tmp_path / "net.onnx", scales=(1, 1, 300, 300)), memory=1_200_000_000)


def test_no_network_at_all(tmp_path: Path) -> None:
    path = tmp_path / "net.onnx"
    path.write_bytes(b"not a network")
    with pytest.raises(UpscalerError, match="cannot be opened"):
        try_out(path)
    with pytest.raises(UpscalerError, match="no file"):
        add_own(tmp_path / "none.onnx")


def test_added_listed_used_and_removed(tmp_path: Path) -> None:
    file = network(tmp_path / "net.onnx", shape=[1, 3, 64, 48])
    added = add_own(file, "My Copyist")
    assert (added.key, added.name) == ("my-copyist", "My Copyist")
    assert find_upscaler("my-copyist") == own_upscalers()[0]
    with pytest.raises(UpscalerError, match="already"):
        add_own(file, "my copyist", taken=("my-copyist",))
    pixels = np.random.default_rng(1).random((131, 97, 3), dtype=np.float32)
    alpha = np.ones((131, 97), np.float32)
    recipe = Recipe(base=TrialSpec(upscaler="my-copyist"), factor=4)
    whole = render(Picture(pixels, alpha), recipe, Window(0, 0, 388, 524))
    assert np.array_equal(whole[..., :3], pixels.repeat(4, axis=0).repeat(4, axis=1))
    part = render(Picture(pixels, alpha), recipe, Window(200, 333, 90, 70))
    assert np.array_equal(part, whole[333:403, 200:290])
    assert "2× then 2×" in added.steps(4)
    remove_own("my-copyist")
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
    own = add_own(network(tmp_path / "odd.onnx", **none_at(1.0)))  # type: ignore[arg-type]
    pixels = np.full((40, 40, 3), 0.5, np.float32)
    recipe = Recipe(base=TrialSpec(upscaler=own.key), factor=2)
    assert np.isfinite(render(Picture(pixels), recipe, Window(0, 0, 80, 80))).all()
    pixels[20, 20] = 1.0
    with pytest.raises(UpscalerError, match="odd made values that are no picture"):
        render(Picture(pixels), recipe, Window(0, 0, 80, 80))


@pytest.mark.parametrize("note", [b"\xff\xfe", b"[]", b"3", b'{"name": "a"}', b'{"name": "a", "side": {}}'])
def test_a_damaged_note_hides_one_network_and_no_more(tmp_path: Path, note: bytes) -> None:
    good = add_own(network(tmp_path / "good.onnx"))
    other = add_own(network(tmp_path / "other.onnx"))
    other.path.with_suffix(".json").write_bytes(note)
    assert [own.key for own in own_upscalers()] == [good.key]
