"""Mixing, masks, sharpening and grain: exact in every window, and what the formulas say."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from skimage import data

from wamplex.core.analysis.faces.face import Face as DetectedFace
from wamplex.core.base.errors import ProjectError, RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.difference import ciede2000, srgb_to_lab
from wamplex.core.colour.lab import lab_to_srgb, srgb_to_lab32
from wamplex.core.finish.grain_stage import GrainStage
from wamplex.core.finish.grey_mask import encode_grey
from wamplex.core.finish.initial_masks import (
    face_ellipses,
    mask_from_areas,
    mask_from_colour,
    mask_from_file,
    mask_from_tones,
    pick_colour,
)
from wamplex.core.finish.layers_stage import LayerInput, LayersStage
from wamplex.core.finish.mask_stage import mask_stage
from wamplex.core.finish.sharpen_stage import SharpenStage, suggested_radius_mm
from wamplex.core.finish.stage_cache import StageCache
from wamplex.core.finish.strokes import Stroke, decode_points, encode_points
from wamplex.core.finish.tone_match import match_tone
from wamplex.core.finish.tone_stage import apply_tone
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import (
    FaceTreatment,
    Grain,
    InitialMask,
    Layer,
    Mask,
    Sharpen,
    Tone,
    TreatedFace,
)
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render
from wamplex.core.upscale.stages.stage import SourceStage

RANDOM = np.random.default_rng(4)
SIDE = 60
STROKE = Stroke(((3.0, 3.0, 1.0),), radius=4)
FACE = TreatedFace(x=0.5, y=0.4, width=20, height=30, angle_deg=20)


def picture(channels: int = 3) -> Picture:
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    base = 0.5 + 0.3 * np.sin(9 * x + 4 * y)[..., None] + 0.1 * RANDOM.random((SIDE, SIDE, channels))
    return Picture(np.clip(base, 0, 1).astype(np.float32))


def mask_with_everything() -> Mask:
    grey = np.tile(np.linspace(0, 1, SIDE, dtype=np.float32), (SIDE, 1))
    strokes = (
        Stroke(((10.0, 10.0, 1.0), (40.0, 30.0, 0.4)), radius=6, hardness=0.2, opacity=0.8),
        Stroke(((30.0, 50.0, 1.0),), radius=9, hardness=1.0, adds=False),
    )
    return Mask(
        initial_mask=InitialMask(kind="file", picture=process_assets().put(encode_grey(grey))),
        strokes=process_assets().put(encode_points(strokes)),
        feather_px=1.5,
        inverted=True,
    )


def finished(**changes: object) -> Recipe:
    """Every part of Finish at once."""
    soft = TrialSpec(upscaler="bilinear")
    everything = {
        "base": TrialSpec(upscaler="lanczos"),
        "factor": 3.0,
        "layers": (
            Layer(source_trial=soft, strength=70, mask=mask_with_everything()),
            Layer(mask=Mask(feather_px=20), strength=30),
        ),
        "faces": FaceTreatment(ellipses=(FACE,), source_trial=soft, attenuation=60),
        "tone": Tone(curve=(0.0, 40.0, 100.0), matrix=(0.9, 0.0, 0.0, 0.9), shift=(2.0, -1.0), strength=50),
        "sharpen": Sharpen(amount=150, radius_mm=0.15, floor=0.5),
        "grain": Grain(amount=5, colour=True),
    }
    return Recipe.model_validate(everything | changes)


@pytest.mark.parametrize(
    "changes",
    [
        {},
        {"framing": Framing(turns=1, flipped=True, crop=Crop(x=7, y=3, width=40, height=44))},
        {"framing": Framing(straighten_deg=4.0, crop=Crop(x=8, y=8, width=40, height=44)), "factor": 2.5},
        {"base": TrialSpec(upscaler="mender", values=Values(noise=30, compression=20)), "factor": 2.0},
        {
            "layers": (Layer(source_trial=TrialSpec(upscaler="thicket", values=Values(texture_strength=80))),),
            "factor": 4.0,
        },
    ],
    ids=["plain", "turned and cropped", "straightened", "Mender below", "Thicket above"],
)
@pytest.mark.parametrize("channels", [1, 3])
def test_any_window_equals_that_window_of_the_whole(changes: dict[str, object], channels: int) -> None:
    recipe, source = finished(**changes), picture(channels)
    size = recipe.size(SIDE, SIDE)
    whole = render(source, recipe, Window(0, 0, size.width_px, size.height_px))
    for window in (Window(0, 0, 31, 17), Window(41, 22, 50, 63), Window(size.width_px - 29, 57, 29, 40)):
        part = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(render(source, recipe, window) - part).max() <= 1 / 65535


def test_transparency_goes_through_all_of_it() -> None:
    source = picture()
    alpha = np.zeros((SIDE, SIDE), np.float32)
    alpha[:, SIDE // 2 :] = 1
    recipe = finished(layers=(), faces=None)  # whose own transparency would be mixed in
    made = render(Picture(source.pixels, alpha), recipe, Window(0, 0, 180, 180))
    plain = render(Picture(source.pixels, alpha), recipe.unfinished, Window(0, 0, 180, 180))
    assert np.allclose(made[..., 3], plain[..., 3], atol=1e-6)


class Refusing:
    """A layer that must not be asked for."""

    layout, origin, scale, width, height = "rgb", (0.0, 0.0), 1.0, SIDE, SIDE

    def render(self, window: Window, progress: Progress) -> np.ndarray:
        raise AssertionError(f"asked for {window}")


def test_a_layer_costs_nothing_where_its_mask_is_0_nor_what_lies_hidden_below() -> None:
    base = SourceStage(picture())
    nowhere, everywhere = (SourceStage(Picture(np.full((SIDE, SIDE, 1), v, np.float32))) for v in (0, 1))
    window = Window(5, 6, 20, 20)
    below = LayersStage(base, (LayerInput(Refusing(), nowhere, 1.0),))  # type: ignore[arg-type]
    assert np.array_equal(below.render(window, Progress()), base.render(window, Progress()))
    above = LayersStage(Refusing(), (LayerInput(base, everywhere, 1.0),))  # type: ignore[arg-type]
    assert np.array_equal(above.render(window, Progress()), base.render(window, Progress()))


def test_a_layer_at_half_strength_is_the_mean() -> None:
    recipe = finished(faces=None, tone=None, sharpen=None, grain=None, layers=(Layer(strength=50),))
    window = Window(0, 0, 180, 180)
    made = render(picture_ := picture(), recipe, window)
    below = render(picture_, recipe.replace(layers=()), window)
    above = render(picture_, recipe.replace(layers=(), base=TrialSpec(upscaler="bicubic")), window)
    assert np.abs(made - np.clip((below + above) / 2, 0, 1)).max() < 0.02  # clipped after mixing, not before
    middle = (below > 0.05) & (below < 0.95) & (above > 0.05) & (above < 0.95)
    assert np.abs(made - (below + above) / 2)[middle].max() < 1e-5


def masked_area(mask: Mask, factor: float = 4.0, framing: Framing | None = None) -> np.ndarray:
    """The mask itself: a white layer over black."""
    black = Picture(np.zeros((SIDE, SIDE, 1), np.float32))
    white = TrialSpec(upscaler="nearest", values=Values())
    recipe = Recipe(base=white, factor=factor, framing=framing or Framing())
    size = recipe.size(SIDE, SIDE)
    stage = mask_stage(black, recipe, mask, process_assets())
    return stage.render(Window(0, 0, size.width_px, size.height_px), Progress())[..., 0]


def test_strokes_lie_where_they_were_painted_at_every_size_and_framing() -> None:
    """A disc of radius r covers pi r squared; its middle stays on its place."""
    stroke = Stroke(((20.0, 30.0, 1.0),), radius=8, hardness=1.0)
    mask = Mask(initial_mask=InitialMask(kind="nowhere"), strokes=process_assets().put(encode_points((stroke,))))
    for factor in (0.5, 1.0, 4.0):
        area = masked_area(mask, factor)
        assert area.sum() == pytest.approx(math.pi * (8 * factor) ** 2, rel=0.02)
        y, x = np.mgrid[0 : area.shape[0], 0 : area.shape[1]] + 0.5
        middle = ((x * area).sum() / area.sum(), (y * area).sum() / area.sum())
        assert middle == pytest.approx((20 * factor, 30 * factor), abs=0.01)
    turned = masked_area(mask, 2.0, Framing(turns=1))
    assert turned.sum() == pytest.approx(math.pi * 16**2, rel=0.02)
    y, x = np.mgrid[0:120, 0:120] + 0.5
    middle = ((x * turned).sum() / turned.sum(), (y * turned).sum() / turned.sum())
    assert middle == pytest.approx((60, 40), abs=0.01)


def test_strokes_add_and_take_away_in_their_order_and_inverting_turns_all_round() -> None:
    add = Stroke(((30.0, 30.0, 1.0),), radius=10, hardness=1.0, opacity=0.5)
    take = Stroke(((30.0, 30.0, 1.0),), radius=5, hardness=1.0, adds=False)
    begins = InitialMask(kind="nowhere")
    for strokes, expected in (((add,), 0.5), ((add, add), 0.75), ((add, take), 0.0), ((take, add), 0.5)):
        mask = Mask(initial_mask=begins, strokes=process_assets().put(encode_points(strokes)))
        assert masked_area(mask)[120, 120] == pytest.approx(expected)
        assert masked_area(mask.replace(inverted=True))[120, 120] == pytest.approx(1 - expected)
    assert decode_points(encode_points((add, take))) == (add, take)


def test_feather_softens_an_edge_as_a_normal_distribution_does() -> None:
    """The integral of the normal distribution (Abramowitz and Stegun 1964, 26.2): 0.841 at one deviation."""
    grey = np.zeros((SIDE, SIDE), np.float32)
    grey[:, SIDE // 2 :] = 1
    begins = InitialMask(kind="file", picture=process_assets().put(encode_grey(grey)))
    for feather in (2.0, 5.0):
        row = masked_area(Mask(initial_mask=begins, feather_px=feather), 8.0)[240]
        places = (np.arange(480) + 0.5) / 8 - 30
        assert np.interp(0, places, row) == pytest.approx(0.5, abs=0.01)
        assert np.interp(feather, places, row) == pytest.approx(0.8413, abs=0.012)


def test_what_is_missing_or_damaged_is_said() -> None:
    lost = InitialMask(kind="file", picture={"digest": "0" * 64})  # type: ignore[arg-type]
    with pytest.raises(ProjectError, match="missing"):
        masked_area(Mask(initial_mask=lost))
    odd = process_assets().put(b"nothing")
    with pytest.raises(RecipeError, match="damaged"):
        masked_area(Mask(initial_mask=InitialMask(kind="file", picture=odd)))
    with pytest.raises(RecipeError, match="damaged"):
        masked_area(Mask(strokes=odd))


def sharpened(luma: np.ndarray, values: Sharpen, ppi: float = 254.0) -> np.ndarray:
    stage = SourceStage(Picture(luma[..., None].astype(np.float32)))
    made = SharpenStage(stage, values, ppi, None)
    return made.render(Window(0, 0, luma.shape[1], luma.shape[0]), Progress())[..., 0]


def test_sharpening_leaves_constants_and_ramps_alone() -> None:
    flat, ramp = np.full((50, 200), 0.4), np.tile(np.linspace(0.1, 0.9, 200), (50, 1))
    values = Sharpen(amount=300, radius_mm=0.2, halo_limit=255)
    assert np.abs(sharpened(flat, values) - flat).max() < 1e-6
    inside = slice(20, -20)  # beyond the border the edge goes on, which is no ramp
    assert np.abs(sharpened(ramp, values) - ramp)[:, inside].max() < 1e-5


def test_an_edge_gets_steeper_by_what_the_formula_says_and_never_overshoots_further_than_allowed() -> None:
    """Softening adds variances, so the slope in the middle grows by 1 + a (1 - s / sqrt(s^2 + r^2))."""
    s, r, a = 2.0, 3.0, 1.5  # of the edge and the radius in pixels; 0.3 mm at 254 ppi
    x = np.arange(120) - 59.5
    edge = np.array([0.3 + 0.4 * 0.5 * (1 + math.erf(v / (s * math.sqrt(2)))) for v in x])
    picture_ = np.tile(edge, (60, 1))
    free = sharpened(picture_, Sharpen(amount=100 * a, radius_mm=0.3, halo_limit=255))[30]
    steeper = (free[60] - free[59]) / (edge[60] - edge[59])
    assert steeper == pytest.approx(1 + a * (1 - s / math.hypot(s, r)), rel=0.01)
    assert free.max() > 0.72
    for limit in (0.0, 2.0, 5.0):
        held = sharpened(picture_, Sharpen(amount=100 * a, radius_mm=0.3, halo_limit=limit))[30]
        assert held.max() <= 0.7 + limit / 255 + 1e-6
        assert held.min() >= 0.3 - limit / 255 - 1e-6


def test_the_floor_leaves_faint_noise_alone() -> None:
    noise = 0.5 + RANDOM.normal(0, 0.5 / 255, (80, 80))
    made = sharpened(noise, Sharpen(amount=200, radius_mm=0.2, floor=3))
    assert np.abs(made - noise).max() < 0.2 / 255


def test_the_suggested_radius_follows_the_viewing_distance() -> None:
    """A minute of arc at 50 cm is 0.145 mm: 500 tan(1/60 degree)."""
    assert suggested_radius_mm(300, 500)[0] == pytest.approx(0.145 / 2, abs=0.001)
    assert suggested_radius_mm(300, 2000)[0] == pytest.approx(0.29, abs=0.002)
    assert suggested_radius_mm(150, 100)[0] == pytest.approx(25.4 / 150 / 2, abs=0.001)
    assert "50 cm" in suggested_radius_mm(300, 500)[1]


def grain_on(level: float, values: Grain) -> np.ndarray:
    """In levels, at 10 pixels a millimetre."""
    stage = SourceStage(Picture(np.full((512, 512, 3), level, np.float32)))
    made = GrainStage(stage, values, 254, None).render(Window(0, 0, 512, 512), Progress())
    return (made - np.float32(level)) * 255


@pytest.mark.parametrize("size_mm", [0.1, 0.25, 0.6])
@pytest.mark.parametrize("roughness", [0.0, 50.0])
def test_grain_has_the_asked_strength_and_spectrum(size_mm: float, roughness: float) -> None:
    """Softening multiplies amplitudes by exp(-2 (pi f s)^2) in each direction, s its deviation in pixels.

    Sampling adds those of the frequencies a whole cycle apart (Poisson's summation formula).
    """
    values = Grain(amount=6, size_mm=size_mm, roughness=roughness, shadows=100, midtones=100, lights=100)
    noise = grain_on(0.5, values)[..., 0]
    assert noise.std() == pytest.approx(6, rel=0.05)
    assert abs(noise.mean()) < 0.5
    power = np.abs(np.fft.fft2(noise)) ** 2 / noise.size
    across = np.fft.fftfreq(512)
    f = np.hypot(across[:, None], across)
    s = size_mm * 10 / 2.3548

    def share(sigma: float) -> np.ndarray:
        amplitude = sum(np.exp(-2 * (np.pi * (across + k) * sigma) ** 2) for k in (-2, -1, 0, 1, 2))
        shape = np.multiply.outer(amplitude**2, amplitude**2)
        return shape / shape.mean()

    expected = 36 * ((1 - roughness / 100) * share(s) + roughness / 100 * share(s / 2))
    strong = expected > 0.1 * expected.max()
    for low, high in ((0.0, 0.5), (0.5, 1.0)):
        ring = strong & (f >= low * f[strong].max()) & (f < high * f[strong].max())
        assert power[ring].mean() == pytest.approx(expected[ring].mean(), rel=0.08)


def test_grain_follows_the_tones_and_may_have_colour() -> None:
    values = Grain(amount=8, shadows=0, midtones=100, lights=25)
    for level, expected in ((0.1, 0.0), (0.5, 8.0), (0.9, 2.0)):
        assert grain_on(level, values).std() == pytest.approx(expected, rel=0.06, abs=0.01)
    one, three = (grain_on(0.5, Grain(amount=8, colour=colour)) for colour in (False, True))
    assert np.array_equal(one[..., 0], one[..., 1])
    assert abs(np.corrcoef(three[..., 0].ravel(), three[..., 1].ravel())[0, 1]) < 0.05


def test_tone_of_itself_changes_nothing_and_a_known_cast_is_taken_back() -> None:
    """CIEDE2000 (Sharma et al. 2005) of at most 1; the cast is a curve over L* and a map of a* and b*."""
    for name in ("coffee", "chelsea", "astronaut"):
        true = (getattr(data, name)() / 255).astype(np.float32)
        same = match_tone(Picture(true), Picture(true), colour=True)
        assert np.abs(apply_tone(true, same) - true).max() <= 1 / 255
        lab = srgb_to_lab32(true)
        cast = (100 * (lab[..., 0] / 100) ** 1.3, 0.8 * lab[..., 1] + 5, 0.8 * lab[..., 2] - 6)
        seen = np.clip(lab_to_srgb(np.stack(cast, axis=-1)), 0, 1)
        back = apply_tone(seen, match_tone(Picture(seen), Picture(true), colour=True))
        assert ciede2000(srgb_to_lab(back), srgb_to_lab(true)).mean() < 1
        light = apply_tone(seen, match_tone(Picture(seen), Picture(true), colour=False))
        assert np.abs(srgb_to_lab(light)[..., 0].mean() - lab[..., 0].mean()) < 1


def test_masks_begin_where_the_picture_says() -> None:
    pixels = np.zeros((80, 90, 3), np.float32)
    pixels[:, 45:] = (0.9, 0.1, 0.1)
    source = Picture(pixels)
    red = mask_from_colour(source, pick_colour(source, 70, 40), 30)
    assert (red[:, :44] == 0).all()
    assert (red[:, 46:] == 1).all()
    dark = mask_from_tones(source, 0, 20, 5)
    assert (dark[:, :44] == 1).all()
    assert (dark[:, 46:] == 0).all()
    rough = np.zeros((8, 9), np.float32)
    rough[:, 5:] = 1  # a coarse mask whose edge lies 5 pixels off the picture's
    fine = mask_from_areas(source, rough)
    assert fine[40, 47] > 0.5 > fine[40, 42]


def test_a_mask_of_another_shape_is_refused(tmp_path: Path) -> None:
    Image.fromarray(np.full((40, 45), 255, np.uint8)).save(tmp_path / "half.png")
    Image.fromarray(np.full((40, 60), 255, np.uint8)).save(tmp_path / "other.png")
    source = Picture(np.zeros((80, 90, 3), np.float32))
    assert mask_from_file(tmp_path / "half.png", source).shape == (40, 45)
    with pytest.raises(RecipeError, match="another shape"):
        mask_from_file(tmp_path / "other.png", source)


def test_ovals_follow_the_eyes() -> None:
    tilted = DetectedFace(100, 100, 60, 60, 0.9, ((110.0, 110.0), (140.0, 140.0)))
    small = DetectedFace(10, 10, 12, 12, 0.9, ((13.0, 13.0), (19.0, 13.0)))
    first, second, third = face_ellipses((tilted, small, replace(tilted, sure=False)), 400, 300)
    assert (first.angle_deg, second.angle_deg) == (45, 0)
    # Faces below 16 pixels, or that one finder saw alone, are offered, not taken.
    assert (first.on, second.on, third.on) == (True, False, False)
    assert (first.x * 400, first.y * 300) == pytest.approx((124, 129), abs=3)  # around the eyes, and a little below


def test_what_is_remembered_of_a_trial_stays_as_it_was_made() -> None:
    """Neither clipping nor laying nor grain may reach it: the next mask is laid over the same pixels."""
    bars = np.tile((np.arange(SIDE) // 3 % 2).astype(np.float32), (SIDE, 1))  # rings beyond 0 and 1
    shown = Picture(np.dstack([bars] * 3), source=Source(Path("made-up.png"), 1, 1))
    memory, window = StageCache(), Window(120, 120, 60, 60)
    elsewhere = Mask(initial_mask=InitialMask(kind="nowhere"), strokes=process_assets().put(encode_points((STROKE,))))
    recipe = Recipe(base=TrialSpec(upscaler="lanczos"), factor=3.0)
    for mask in (elsewhere, Mask(), elsewhere, Mask()):
        for grain in (None, Grain(amount=9)):
            layer = Layer(source_trial=TrialSpec(upscaler="bilinear"), mask=mask, strength=50)
            asked = recipe.replace(layers=(layer,), grain=grain)
            np.testing.assert_array_equal(
                plan(shown, asked, memory=memory).render(window), render(shown, asked, window)
            )
