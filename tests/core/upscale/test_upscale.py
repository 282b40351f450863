"""Interpolation against Pillow and against what its kernels promise; exactness of windows."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.readings.full_reference import luma, psnr
from wamplex.core.render.render import render
from wamplex.core.trial.registry import UPSCALERS, find_upscaler
from wamplex.core.upscale.networks import manifest as manifest_module
from wamplex.core.upscale.stages.stage import SourceStage
from wamplex.core.upscale.stages.tiling import tile_shape
from wamplex.core.upscale.upscalers.burin import BURIN
from wamplex.core.upscale.upscalers.interpolation import Interpolation
from wamplex.core.upscale.upscalers.learned import Learned, Network
from wamplex.core.upscale.upscalers.mender import MENDER
from wamplex.core.upscale.upscalers.thicket import THICKET
from wamplex.core.upscale.upscalers.vellum import VELLUM

KEYS = [u.key for u in UPSCALERS]


def whole(picture: Picture, key: str, width: int, height: int) -> np.ndarray:
    stage = find_upscaler(key).chain(SourceStage(picture), width, height, Values())
    return stage.render(Window(0, 0, width, height), Progress())


def noise_picture(height: int, width: int, channels: int = 3, alpha: bool = False) -> Picture:
    random = np.random.default_rng(height * 1000 + width)
    pixels = random.random((height, width, channels), dtype=np.float32)
    return Picture(pixels, random.random((height, width), dtype=np.float32) if alpha else None)


# The reference is Pillow's resize in mode F, which filters in floating point.
@pytest.mark.parametrize(
    ("key", "pillow"),
    [
        ("nearest", Image.Resampling.NEAREST),
        ("bilinear", Image.Resampling.BILINEAR),
        ("bicubic", Image.Resampling.BICUBIC),
        ("lanczos", Image.Resampling.LANCZOS),
    ],
)
@pytest.mark.parametrize("size", [(248, 136), (93, 51), (25, 13), (62, 34), (400, 7)])
def test_interpolation_agrees_with_pillow(key: str, pillow: Image.Resampling, size: tuple[int, int]) -> None:
    if key == "nearest" and size == (93, 51):
        pytest.skip("at 1.5x every third centre lies between two pixels, and either is right")
    picture = noise_picture(34, 62)
    expected = np.stack(
        [np.asarray(Image.fromarray(picture.pixels[..., c]).resize(size, pillow)) for c in range(3)], axis=-1
    )
    assert np.abs(whole(picture, key, *size) - expected).max() < 1e-4


@pytest.mark.parametrize("key", KEYS)
@pytest.mark.parametrize(("width", "height"), [(100, 90), (70, 64), (256, 199)])
def test_constants_stay_constant(key: str, width: int, height: int) -> None:
    picture = Picture(np.full((60, 64, 3), 0.3, np.float32))
    # Networks are trained, not derived: they may miss by a level of 8 bits, interpolation may not.
    tolerance = 1e-6 if isinstance(find_upscaler(key), Interpolation) else 1 / 255
    assert np.abs(whole(picture, key, width, height)[24:-24, 24:-24] - 0.3).max(initial=0) < tolerance


# All cubics of the Mitchell-Netravali family reproduce first-degree polynomials, as the triangle does.
@pytest.mark.parametrize("key", ["bilinear", "bicubic", "mitchell"])
def test_ramps_stay_straight(key: str) -> None:
    ramp = np.tile(np.linspace(0.1, 0.9, 40, dtype=np.float32)[None, :, None], (12, 1, 1))
    made = whole(Picture(ramp), key, 160, 48)[24, 16:-16, 0]
    assert np.abs(np.diff(made, 2)).max() < 1e-6


# Beside every upscaler as it is usually: the networks and stages that only values bring in.
TOLD: list[tuple[str, dict[str, Any]]] = [(key, {}) for key in KEYS] + [
    ("mender", {"noise": 20, "compression": 50}),
    ("mender", {"noise": 5, "blur": -60, "codec": "webp", "compression": 30}),
    ("vellum", {"blur": 50}),
    ("mender", {"blur": 80}),
    ("burin", {"blur": -40}),
    ("burin", {"noise": 25, "compression": 20}),
    ("thicket", {"texture_strength": 100, "blur": 30}),
    ("vellum-quick", {"motion_blur_px": 4, "motion_blur_deg": 30}),
]


@pytest.mark.parametrize(("key", "values"), TOLD)
@pytest.mark.parametrize("alpha", [False, True])
def test_every_window_equals_the_same_window_of_the_whole(key: str, values: dict[str, Any], alpha: bool) -> None:
    picture = noise_picture(31, 37, alpha=alpha)
    recipe = Recipe(base=TrialSpec(upscaler=key, values=Values(**values)), factor=3.3)
    size = recipe.size(37, 31)
    full = render(picture, recipe, Window(0, 0, size.width_px, size.height_px))
    for window in (Window(0, 0, 5, 7), Window(60, 40, 33, 21), Window(121, 101, 1, 1), Window(0, 50, 122, 1)):
        part = render(picture, recipe, window)
        same = full[window.y : window.bottom, window.x : window.right]
        assert np.abs(part - same).max() <= 1 / 65535


@pytest.mark.parametrize("side", [12, 20, 33])
@pytest.mark.parametrize("factor", [2, 4])
def test_tiled_network_equals_untiled(side: int, factor: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Also where the picture ends within a cell of those that Mender works on."""
    source = SourceStage(noise_picture(43, 35))
    values = Values(texture_strength=60, noise=20, compression=50)
    place = (35 * factor, 43 * factor)

    def made(upscaler: Learned, network: Network) -> Pixels:
        stage = upscaler.chain_through((network,), source, *place, values)
        return stage.render(Window(0, 0, *place), Progress())

    for upscaler in (VELLUM, THICKET, MENDER):
        network = next(n for n in upscaler.networks if n.factor == factor)
        untiled = made(upscaler, network)
        with monkeypatch.context() as patch:
            patch.setattr(manifest_module, "_MOST_PX", (side + 2 * network.widest(values).halo) ** 2)
            tiled = made(upscaler, network)
        assert np.abs(tiled - untiled).max() < 1e-4


@pytest.mark.parametrize("key", KEYS)
@pytest.mark.parametrize(("width", "height"), [(1, 1), (1, 29), (31, 1), (13, 7)])
@pytest.mark.parametrize("factor", [0.25, 1.0, 2.5, 6.0, 8.0])
def test_odd_sizes_work_at_any_factor(key: str, width: int, height: int, factor: float) -> None:
    picture = noise_picture(height, width, channels=1)
    recipe = Recipe(base=TrialSpec(upscaler=key), factor=factor)
    size = recipe.size(width, height)
    made = render(picture, recipe, Window(0, 0, size.width_px, size.height_px))
    assert made.shape == (size.height_px, size.width_px, 1)
    assert np.isfinite(made).all()


def test_factor_one_keeps_a_16_bit_ramp() -> None:
    ramp = (np.arange(65536, dtype=np.float32) / np.float32(65535)).reshape(256, 256, 1)
    for key in KEYS:
        made = render(
            Picture(ramp, depth=16),
            Recipe(base=TrialSpec(upscaler=key), factor=1.0),
            Window(0, 0, 256, 256),
        )
        assert np.abs(made - ramp).max() <= 1 / 65535


def test_transparent_colour_does_not_bleed() -> None:
    """Straight alpha would mix the hidden green into the edge; premultiplied it cannot."""
    pixels = np.zeros((8, 8, 3), np.float32)
    pixels[:, :4] = (1, 0, 0)
    pixels[:, 4:] = (0, 1, 0)
    alpha = np.zeros((8, 8), np.float32)
    alpha[:, :4] = 1
    made = render(Picture(pixels, alpha), Recipe(base=TrialSpec(upscaler="bilinear"), factor=4), Window(0, 0, 32, 32))
    seen = made[made[..., 3] > 0.01]
    assert seen[:, 1].max() < 1e-3
    assert seen[:, 0].min() > 0.99


def test_vellum_beats_bicubic_on_a_photograph() -> None:
    """On a picture that was never trained on: scikit-image's coffee (Rachel Michetti, CC0)."""
    from skimage import data
    from skimage.metrics import peak_signal_noise_ratio

    truth = np.ascontiguousarray(data.coffee()[:400, :600])
    image = Image.fromarray(truth)
    for factor, least_gain in ((2, 1.5), (4, 1.0)):
        small = image.resize((600 // factor, 400 // factor), Image.Resampling.BICUBIC)
        picture = Picture(np.asarray(small).astype(np.float32) / np.float32(255))
        results = [
            render(picture, Recipe(base=TrialSpec(upscaler=k), factor=factor), Window(0, 0, 600, 400))
            for k in ("vellum", "bicubic")
        ]
        vellum, bicubic = (peak_signal_noise_ratio(truth / 255, r, data_range=1) for r in results)
        assert vellum > bicubic + least_gain


def test_chains_reach_any_factor() -> None:
    for factor in np.linspace(1.01, 8, 200):
        reached = np.prod([n.factor for n in VELLUM.passes(float(factor))])
        assert factor <= reached <= 9
    assert [n.factor for n in VELLUM.passes(6.0)] == [3, 2]


@pytest.mark.parametrize("size", [(1500, 1000), (6000, 4000), (1, 90000), (31, 7)])
def test_tiles_stay_within_their_area(size: tuple[int, int]) -> None:
    width, height = tile_shape(*size, halo=14, area=780_000)
    assert 1 <= width <= size[0]
    assert 1 <= height <= size[1]
    assert (width + 28) * (height + 28) <= 780_000


def slanted_edge(degrees: float) -> np.ndarray:
    """A straight edge from 40 to 210, each pixel the mean of the area it covers, (48, 48, 3) uint8."""
    fine = np.mgrid[0 : 48 * 16, 0 : 48 * 16] / 16 - 24 + 1 / 32
    angle = np.deg2rad(degrees)
    inside = fine[1] * np.cos(angle) + fine[0] * np.sin(angle) > 0.13
    cover = inside.reshape(48, 16, 48, 16).mean(axis=(1, 3))
    return np.repeat((40 + 170 * cover).round().astype(np.uint8)[..., None], 3, axis=2)


def stair_steps(made: np.ndarray, degrees: float, factor: int) -> float:
    """How far the edge strays from the straight line through it, in source pixels, root mean square."""
    plane = made[..., 0] if degrees <= 45 else made[..., 0].T
    rows = range(10 * factor, plane.shape[0] - 10 * factor)
    places = []
    for row in plane[rows]:
        i = int(np.flatnonzero((row[:-1] < 125 / 255) & (row[1:] >= 125 / 255))[0])
        places.append(i + (125 / 255 - row[i]) / (row[i + 1] - row[i]))
    line = np.polyfit(rows, places, 1)
    return float(np.std(np.array(places) - np.polyval(line, rows)) / factor)


@pytest.mark.parametrize("degrees", [5, 10, 15, 20, 26, 30, 35, 40, 50, 63, 75, 82])
@pytest.mark.parametrize("factor", [2, 4])
def test_contour_has_fewer_stair_steps_than_bicubic_and_no_halo(degrees: float, factor: int) -> None:
    edge = slanted_edge(degrees)
    picture = Picture(edge.astype(np.float32) / np.float32(255))
    window = Window(0, 0, 48 * factor, 48 * factor)
    contour, bicubic = (
        render(picture, Recipe(base=TrialSpec(upscaler=k), factor=factor), window) for k in ("contour", "bicubic")
    )
    assert stair_steps(contour, degrees, factor) < 0.85 * stair_steps(bicubic, degrees, factor)
    assert contour.min() > picture.pixels.min() - 1e-6
    assert contour.max() < picture.pixels.max() + 1e-6


@pytest.mark.parametrize(("factor", "least_gain"), [(2, 0.3), (3, 0.2), (4, 0.1)])
def test_contour_is_nearer_to_the_truth_than_bicubic(factor: int, least_gain: float) -> None:
    """Luma PSNR on scikit-image's astronaut, coffee and chelsea after Pillow's bicubic shrinking."""
    from skimage import data

    gains = []
    for truth in (data.astronaut(), data.coffee(), data.chelsea()):
        height, width = (n // 12 * 12 for n in truth.shape[:2])
        truth = truth[:height, :width]
        size = (width // factor, height // factor)
        small = np.asarray(Image.fromarray(truth).resize(size, Image.Resampling.BICUBIC))
        picture = Picture(small.astype(np.float32) / np.float32(255))
        window = Window(0, 0, width, height)
        known = luma(truth.astype(np.float32) / np.float32(255))
        values = [
            psnr(luma(render(picture, Recipe(base=TrialSpec(upscaler=k), factor=factor), window)), known)
            for k in ("contour", "bicubic")
        ]
        gains.append(values[0] - values[1])
    assert np.mean(gains) > least_gain


def coffee(factor: int) -> tuple[np.ndarray, np.ndarray]:
    """scikit-image's coffee, which no network was trained on, and its bicubic reduction."""
    from skimage import data

    truth = np.ascontiguousarray(data.coffee()[:396, :600])
    size = (600 // factor, 396 // factor)
    return truth, np.asarray(Image.fromarray(truth).resize(size, Image.Resampling.BICUBIC))


def gain(key: str, small: np.ndarray, truth: np.ndarray, **values: Any) -> float:
    """Luma PSNR over that of bicubic, in dB."""
    factor = truth.shape[1] // small.shape[1]
    window = Window(0, 0, truth.shape[1], truth.shape[0])
    known = luma(truth.astype(np.float32) / np.float32(255))
    recipes = (
        Recipe(base=TrialSpec(upscaler=key, values=Values(**values)), factor=factor),
        Recipe(base=TrialSpec(upscaler="bicubic"), factor=factor),
    )
    made = [luma(render(Picture(small.astype(np.float32) / np.float32(255)), r, window)) for r in recipes]
    return psnr(made[0], known) - psnr(made[1], known)


@pytest.mark.parametrize("factor", [2, 3, 4])
def test_mender_cleans_what_it_is_told(factor: int) -> None:
    truth, small = coffee(factor)
    noisy = np.clip(np.rint(small + np.random.default_rng(7).normal(0, 15, small.shape)), 0, 255)
    told = gain("mender", noisy.astype(np.uint8), truth, noise=30)
    assert told > 1.0
    assert told > gain("mender", noisy.astype(np.uint8), truth) + 0.5
    file = io.BytesIO()
    Image.fromarray(small).save(file, "JPEG", quality=30)
    assert gain("mender", np.asarray(Image.open(file)), truth, compression=70) > 0.3
    # A clean picture is enlarged about as Vellum would.
    assert gain("mender", small, truth) > gain("vellum", small, truth) - 0.35


def test_mender_leaves_a_clean_picture_to_vellum(photo: np.ndarray) -> None:
    picture = Picture(photo[:60, :70].astype(np.float32) / np.float32(255))
    whole = Window(0, 0, 140, 120)

    def made(upscaler: str, noise: float) -> np.ndarray:
        return render(picture, Recipe(base=TrialSpec(upscaler=upscaler, values=Values(noise=noise)), factor=2), whole)

    vellum = made("vellum", 0)
    assert np.array_equal(made("mender", 0), vellum)
    # A little cleanup lies between the two, so that the slider makes no jump.
    steps = [np.abs(made("mender", noise) - vellum).mean() for noise in (1, 3, 10)]
    assert steps == sorted(steps)


@pytest.mark.parametrize("colour", [(0.85, 0.1, 0.15), (0.05, 0.2, 0.6), (0.98, 0.9, 0.2), (0.5, 0.5, 0.5)])
def test_a_flat_colour_stays_what_it_is_whatever_is_told(colour: tuple[float, float, float]) -> None:
    picture = Picture(np.full((32, 32, 3), colour, np.float32))
    told = Values(noise=40, compression=20)
    for upscaler in ("mender", "burin"):
        recipe = Recipe(base=TrialSpec(upscaler=upscaler, values=told), factor=4)
        made = render(picture, recipe, Window(32, 32, 64, 64))
        assert np.abs(255 * (made - picture.pixels[0, 0])).max() < 1.5, upscaler


def test_burin_is_for_lettering() -> None:
    from PIL import ImageDraw, ImageFont

    image = Image.new("RGB", (480, 240), (250, 245, 230))
    for line in range(4):
        font = ImageFont.load_default(18 + 12 * line)
        ImageDraw.Draw(image).text((8, 4 + line * line * 14 + line * 26), "Hollowmere 1986", (20, 20, 60), font)
    truth = np.asarray(image)
    small = np.asarray(image.resize((240, 120), Image.Resampling.BICUBIC))
    assert gain("burin", small, truth) > gain("vellum", small, truth) + 0.5
    assert gain("burin", small, truth) > 4


def test_burin_mends_compressed_lettering() -> None:
    """With what it is told, more than without, and more than Mender does."""
    from PIL import ImageDraw, ImageFont

    image = Image.new("RGB", (480, 240), (240, 236, 220))
    for line in range(6):
        font = ImageFont.load_default(20 + 4 * line)
        ImageDraw.Draw(image).text((8, 4 + line * 36), "Hollowmere Puppet Theatre 1986", (140, 20, 30), font)
    truth = np.asarray(image)
    file = io.BytesIO()
    image.resize((240, 120), Image.Resampling.BICUBIC).save(file, "JPEG", quality=50)
    small = np.asarray(Image.open(file))
    told = gain("burin", small, truth, compression=50)
    assert told > gain("burin", small, truth) + 0.3
    assert told > gain("mender", small, truth, compression=50) + 0.3


def test_burin_calms_paper_under_strong_noise() -> None:
    """A page behind noise of 20 levels and JPEG 80: what is left between the lines, light and colour."""
    from PIL import ImageDraw, ImageFont

    paper = np.array((214, 198, 184))
    image = Image.new("RGB", (640, 480), tuple(paper))
    for line in range(3):
        font = ImageFont.load_default(48)
        ImageDraw.Draw(image).text((8, 10 + line * 160), "Hollowmere 1986", (20, 20, 60), font)
    small = np.asarray(image.resize((160, 120), Image.Resampling.BICUBIC))
    noisy = small + np.random.default_rng(4).normal(0, 20, small.shape)
    file = io.BytesIO()
    Image.fromarray(np.clip(np.rint(noisy), 0, 255).astype(np.uint8)).save(file, "JPEG", quality=80)
    picture = Picture(np.asarray(Image.open(file)).astype(np.float32) / np.float32(255))
    recipe = Recipe(base=TrialSpec(upscaler="burin", values=Values(noise=40, compression=20)), factor=4)
    left = 255 * render(picture, recipe, Window(20, 90, 600, 60)) - paper
    light = left @ np.array([0.299, 0.587, 0.114])
    assert light.std() < 2.5
    assert (left - light[..., None]).std() < 1.5
    assert left.mean() == pytest.approx(0, abs=1.5)


def test_what_knows_much_noise_comes_in_by_degrees() -> None:
    network = BURIN.networks[-1]
    assert [network.denoising_weight(Values(noise=noise)) for noise in (0, 20, 25, 30, 100)] == [0, 0, 0.5, 1, 1]
