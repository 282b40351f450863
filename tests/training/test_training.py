"""The training tools from prepared pictures to ONNX, on a set so small that two minutes are enough."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

torch = pytest.importorskip("torch", reason="training has an environment of its own: make train-test")
from torch.nn import functional  # noqa: E402
from training.average import average  # noqa: E402
from training.condition import _row  # noqa: E402
from training.damage import jpeg  # noqa: E402
from training.evaluate import Known, _rows_in  # noqa: E402
from training.export import export  # noqa: E402
from training.families import FAMILIES  # noqa: E402
from training.flat_colour import _flat, flat_answers  # noqa: E402
from training.history import (  # noqa: E402
    History,
    balance,
    damage_photograph,
    kernel_variance,
    noise_after,
    sharpened,
)
from training.network import Enlarger  # noqa: E402
from training.objectives import Exact, ExactEverywhere, band_energies, edges  # noqa: E402
from training.patches import PatchSource  # noqa: E402
from training.places import MODELS, checkpoint_path  # noqa: E402
from training.prepare import _Index  # noqa: E402
from training.sensor import Sensor, SensorSource  # noqa: E402
from training.shipped import shipped_weights  # noqa: E402
from training.texture import Texture  # noqa: E402

from training import train as training_train  # noqa: E402
from wamplex.core.model.sensor_noise import SensorNoise  # noqa: E402

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def work(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Prepared pictures of overlapping coloured discs, in all collections."""
    folder = tmp_path_factory.mktemp("work")
    index, random = _Index(folder), np.random.default_rng(8)
    y, x = np.mgrid[0:320, 0:320]
    for collection in ("photographs", "drawings", "lettering", "paintings"):
        for number in range(2):
            picture = np.full((320, 320, 3), 128, np.uint8)
            for cy, cx, radius in random.integers(5, 320, (60, 3)):
                inside = (y - cy) ** 2 + (x - cx) ** 2 < (radius / 4) ** 2
                picture[inside] = random.integers(0, 256, 3)
            assert index.add(collection, "discs", str(number), picture, None)
    index.write()
    return folder


def test_patches_keep_their_shapes_and_ranges(work: Path) -> None:
    drawings = (("burin", 4), ("burin-mending", 3), ("burin-noisy", 2))
    for name, factor in (("vellum-quick", 3), ("mender", 2), *drawings):
        small, large = PatchSource(work, FAMILIES[name], seed=1).batch(factor, 5)
        side = FAMILIES[name].patch_px
        assert small.shape == (5, FAMILIES[name].planes(factor), side, side)
        assert large.shape == (5, 3, side * factor, side * factor)
        assert 0 <= float(small[:, :8].min()) <= float(small.max()) <= 1
        assert float(small.min()) >= -1  # what is told of sharpness goes both ways
    grained, _ = PatchSource(work, FAMILIES["thicket"], seed=1).batch(4, 5)
    assert grained.shape == (5, 3 + 16, 32, 32)
    assert float(grained[:, 3:].std()) == pytest.approx(1, abs=0.02)


def test_damage_is_told(work: Path) -> None:
    random, picture = np.random.default_rng(4), np.full((96, 96, 3), 90, np.uint8)
    told = [damage_photograph(picture, 48, random) for _ in range(300)]
    clean = [d for d in told if d.noise_plane == d.blocks_plane == 0]
    assert 0.1 < len(clean) / len(told) < 0.4
    assert all(np.abs(d.pixels.astype(int) - 90).max() <= 1 for d in clean)
    assert np.abs(jpeg(picture, 95).astype(int) - 90).max() <= 1
    assert {d.webp for d in told} == {True, False}
    assert min(d.blur for d in told) < -0.3 < 0.3 < max(d.blur for d in told)


def test_blur_and_mask_are_weighed_against_each_other() -> None:
    assert balance(History(blur_px=0.6)) == (pytest.approx(0.6), 0)
    assert balance(History(amount=0.9)) == (0, pytest.approx(0.9, abs=0.01))
    assert balance(History(blur_px=0.5, amount=0.4)) < balance(History(blur_px=0.5))
    # The kernels' own softness, by their Fourier transforms: a box has more than the bicubic, Lanczos less.
    assert kernel_variance("bilinear") > kernel_variance("box") > 0 > kernel_variance("lanczos")


def test_noise_is_made_stronger_by_a_mask() -> None:
    """Against the standard deviation of sharpened noise itself."""
    noise = np.random.default_rng(3).normal(0, 5, (400, 400)).astype(np.float32)
    measured = float(sharpened(noise, 1.0, 0.8).std())
    assert noise_after(History(noise=5, amount=1.0))[0] == pytest.approx(measured, rel=0.02)


def test_exactness_counts_every_patch_alike() -> None:
    """Halving the difference of one patch gains 6 dB of luma and colour each, however small it was."""
    truth = torch.rand(2, 3, 32, 32)
    off = torch.stack([torch.full((3, 32, 32), 0.2), torch.full((3, 32, 32), 0.02)])
    objective, decibels = Exact(), 20 * np.log10(2)
    before = float(objective.loss(truth + off, truth, 2))
    for patch in (0, 1):
        better = off.clone()
        better[patch] /= 2
        gain = before - float(objective.loss(truth + better, truth, 2))
        assert gain == pytest.approx(Exact.WEIGHT * 2 * decibels / 2, rel=0.15)


def test_exactness_everywhere_counts_paper_beside_strokes() -> None:
    """What is left on a flat half counts, however much is missed in the other; far off it keeps its pull."""
    truth = torch.rand(1, 3, 64, 64)
    off = torch.full((1, 3, 64, 64), 0.3)
    off[..., 32:] = 0.02
    cleaner = off.clone()
    cleaner[..., 32:] = 0.005

    def gained(objective: Exact) -> float:
        return float(objective.loss(truth + off, truth, 2) - objective.loss(truth + cleaner, truth, 2))

    assert gained(ExactEverywhere()) > 20 * gained(Exact())
    pulls = []
    for far in (0.05, 0.2):
        moved = torch.full((1, 3, 64, 64), far, requires_grad=True)
        ExactEverywhere().loss(truth + moved, truth, 2).backward()
        pulls.append(float(moved.grad.norm()))
    assert pulls[1] > 0.8 * pulls[0]  # a decibel's would be a quarter


@pytest.mark.parametrize("name", ["burin", "mender"])
def test_ripple_is_that_of_the_midst_of_a_large_flat_picture(name: str) -> None:
    torch.manual_seed(3)
    family, colours = FAMILIES[name], torch.rand(2, 3)
    network = Enlarger(family)
    with torch.no_grad():
        torch.manual_seed(4)  # of what is told besides
        tile = flat_answers(network, family, colours, 2)
        torch.manual_seed(4)
        large = network(_flat(family, colours, 4 * (family.halo(2) // 2)), 2)
    middle = slice(4 * (family.halo(2) // 2), 4 * (family.halo(2) // 2) + 4)
    assert float((large[..., middle, middle] - tile).abs().max()) < 1e-5


def test_an_average_lies_between_the_checkpoint_and_what_ships(tmp_path: Path) -> None:
    family = FAMILIES["vellum-quick"]
    shipped = shipped_weights(family, MODELS)[0].state_dict()
    torch.save({"network": {key: w + 1 for key, w in shipped.items()}}, _checkpoint(tmp_path, family.name))
    average(tmp_path, family, share=0.25)
    made = torch.load(checkpoint_path(tmp_path, family.name), weights_only=True)["network"]
    assert all(torch.allclose(made[key], shipped[key] + 0.25, atol=1e-5) for key in shipped)


def _checkpoint(work: Path, name: str) -> Path:
    path = checkpoint_path(work, name)
    path.parent.mkdir(parents=True)
    return path


def test_texture_must_be_where_texture_is_and_faint_texture_counts() -> None:
    torch.manual_seed(4)
    for strength in (1.0, 0.1):
        texture = torch.full((1, 3, 64, 64), 0.5)
        texture[..., :32] += strength * (torch.rand(1, 3, 64, 32) - 0.5)
        another = torch.roll(texture[..., :32], (7, 0), dims=(2, 3))
        same_place = torch.cat([another, texture[..., 32:]], dim=3)
        none = torch.full_like(texture, 0.5)
        least = 0.25 if strength == 1 else 0.4
        for wrong in (texture.flip(3), none):
            found = float(band_energies(same_place, texture, 4)) / float(band_energies(wrong, texture, 4))
            assert found < least


def test_edges_are_told_from_texture() -> None:
    torch.manual_seed(6)
    flat = torch.full((1, 3, 64, 64), 0.4)
    step = flat.clone()
    step[..., 32:] = 1.0
    texture = flat + 0.3 * (torch.rand(flat.shape) - 0.5)  # which shrinking averages away
    assert float(edges(flat, 4).max()) == 0
    assert float(edges(step, 4)[..., 28:36].min()) > 0.4
    assert float(edges(texture, 4).max()) < 0.1


@pytest.mark.parametrize("factor", [2, 4])
def test_texture_is_filtered_alike_at_every_pixel(factor: int) -> None:
    """Planes of the shuffle under their taps give what plain filters give on the large picture."""
    torch.manual_seed(5)
    texture = Texture(factor, 48)
    features, numbers = torch.randn(2, 48, 10, 12), torch.randn(2, 1, 10 * factor, 12 * factor)
    made = functional.pixel_shuffle(texture(features, functional.pixel_unshuffle(numbers, factor)), factor)
    strength = texture.second(functional.relu(texture.first(features)))
    filters = texture.filters - texture.filters.mean((1, 2), keepdim=True)
    filters = filters / filters.flatten(1).norm(dim=1)[:, None, None]
    loud = functional.interpolate(strength, scale_factor=factor, mode="nearest") * numbers
    assert torch.allclose(made, functional.conv2d(loud, filters[None], padding=4), atol=1e-5)


def test_what_was_measured_is_not_measured_again(tmp_path: Path) -> None:
    path, calls = tmp_path / "measured.json", []

    def measure() -> tuple[float, float, float, float]:
        calls.append(1)
        return 30.0, 0.9, 0.05, 1.0

    for _ in range(2):
        known = Known(path)
        assert known.measured("bicubic", "Clean 2x one", measure) == (30.0, 0.9, 0.05, 1.0)
        known.save()
    assert len(calls) == 1
    known.measured("bicubic", "Clean 3x one", measure)
    known.measured("lanczos", "Clean 2x one", measure)
    assert len(calls) == 3


def test_rows_of_other_upscalers_stay_as_they_were_written() -> None:
    written = "## Clean\n\n### 2x\n\n| upscaler | PSNR dB |\n|---|---|\n| Vellum, quick | 1 |\n| Burin | 2 |\n"
    rows = _rows_in(written + "\n### 3x\n\n| Burin | 3 |\n")
    assert rows["Clean", 2]["burin"] == "| Burin | 2 |"
    assert rows["Clean", 3] == {"burin": "| Burin | 3 |"}


def test_condition_rows_count_what_lies_within_the_bound() -> None:
    row = _row("2.0", [2.1, 1.9, None, 4.0], lambda value, _i: abs(value - 2) <= 0.2, "10 %")
    assert row == "| 2.0 | 2.10 | 2 of 4 | 10 % |"


@pytest.mark.parametrize("name", ["vellum-quick", "mender", "thicket"])
def test_a_run_learns_is_resumed_and_exported(
    name: str, work: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from skimage import data

    monkeypatch.setattr(training_train, "held_out_photographs", lambda _: {"one": data.coffee()[:96, :96]})
    family = FAMILIES[name]
    training_train.train(work, family, minutes=0.15, seed=1)
    first = torch.load(checkpoint_path(work, name), weights_only=True)
    training_train.train(work, family, minutes=0.3, seed=1)
    second = torch.load(checkpoint_path(work, name), weights_only=True)
    assert second["steps"] > first["steps"]
    assert second["used_s"] >= 18
    export(work, family, out_dir=tmp_path)
    again, steps, _ = shipped_weights(family, tmp_path)
    assert steps == second["steps"]
    # Files hold weights in half precision.
    assert all(torch.equal(a, second["network"][k].half().float()) for k, a in again.state_dict().items())


def test_mosaics_keep_their_shapes_and_what_is_told_fits(work: Path) -> None:
    for factor in (1, 2, 4):
        small, large = SensorSource(work, FAMILIES["tessera"], seed=1).batch(factor, 6)
        side = FAMILIES["tessera"].patch_px
        assert small.shape == (6, 10, side // 2, side // 2)
        assert large.shape == (6, 3, side * factor, side * factor)
        assert bool((small[:, 4:] == small[:, 4:, :1, :1]).all())  # the noise is told as planes


def test_the_sensor_of_training_has_the_noise_that_is_told() -> None:
    sensor = Sensor(np.eye(3), (2.0, 1.0, 1.5), SensorNoise(2e-3, 4e-5))
    mosaic = sensor.seen_by(np.full((400, 400, 3), 0.4, np.float32), np.random.default_rng(1))
    for place, channel in (((0, 0), 0), ((0, 1), 1), ((1, 1), 2)):
        plane = mosaic[place[0] :: 2, place[1] :: 2]
        expected = sensor.balanced_noise[channel]
        assert plane.mean() == pytest.approx(0.4, rel=0.01)
        assert plane.var() == pytest.approx(expected.shot * 0.4 + expected.read, rel=0.05)


def test_an_untrained_tessera_already_gives_the_colours_of_the_cells() -> None:
    network = Enlarger(FAMILIES["tessera"])
    tensor = torch.rand(1, 10, 8, 12)
    for factor in (1, 3):
        made = network(tensor, factor)
        assert made.shape == (1, 3, 16 * factor, 24 * factor)
        plain = functional.interpolate(tensor[:, :1], scale_factor=2 * factor, mode="nearest")
        assert float((made[:, :1] - plain).detach().abs().mean()) < 0.2


def test_tesseras_halo_reaches_as_far_as_its_convolutions() -> None:
    """A changed pixel changes nothing further away than that."""
    family = FAMILIES["tessera"]
    network = Enlarger(family)
    tensor = torch.rand(1, 10, 80, 80)
    other = tensor.clone()
    other[0, :4, 40, 40] += 1.0
    changed = (network(other, 1) - network(tensor, 1)).abs().amax(dim=(0, 1)) > 0
    rows = torch.nonzero(changed.any(dim=1)).flatten()
    assert 80 - int(rows[0]) <= family.halo(1)
    assert int(rows[-1]) - 81 <= family.halo(1)
