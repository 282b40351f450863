"""One trial of a picture as a chain of stages: framed, enlarged, straightened."""

from __future__ import annotations

from wamplex.core.frames.concert import Concert
from wamplex.core.geometry.framing import Framing
from wamplex.core.guests.guest import Guest
from wamplex.core.guests.guest_stage import guest_stage
from wamplex.core.model.picture import Picture
from wamplex.core.model.protected_places import framed_places
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.framed_picture import frame_picture, orient_pixels
from wamplex.core.trial.frames_stage import frames_source_stage
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.trial.sensor_stage import sensor_source_stage
from wamplex.core.upscale.stages.back_projection import BackProjectionStage
from wamplex.core.upscale.stages.crispness import CrispnessStage
from wamplex.core.upscale.stages.deconvolution import Deconvolution, DeconvolutionStage
from wamplex.core.upscale.stages.kernels import LANCZOS3, without_antialiasing
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.rotation import RotationStage, rotation_placement
from wamplex.core.upscale.stages.source_blend import SourceBlendStage
from wamplex.core.upscale.stages.stage import Stage
from wamplex.core.upscale.upscalers.interface import Upscaler
from wamplex.core.upscale.upscalers.interpolation import BICUBIC


def trial_stage(picture: Picture, recipe: Recipe, trial: TrialSpec) -> Stage:
    """A trial of a picture: its upscaler with its values, framed and at the recipe's size.

    Raises
    ------
    RecipeError : when there is no such upscaler
    """
    upscaler, values = find_upscaler(trial.upscaler), trial.values
    stage: Stage
    if isinstance(upscaler, Guest):
        stage = guest_stage(picture, recipe, upscaler)
    else:
        stage = _enlarge(picture, recipe, upscaler, values)
    if values.keep_source > 0:
        plain = enlarged_stage(picture, recipe, BICUBIC, values)
        stage = SourceBlendStage(stage, plain, values.keep_source / 100)
    return stage


def _enlarge(picture: Picture, recipe: Recipe, upscaler: Upscaler, values: Values) -> Stage:
    anchored = values.back_projection_levels is not None and recipe.factor > 1
    return enlarged_stage(picture, recipe, upscaler, values, anchored=anchored)


def enlarged_stage(
    picture: Picture, recipe: Recipe, upscaler: Upscaler, values: Values, *, anchored: bool = False
) -> Stage:
    """One upscaler's result for the framing, straightened in the same resampling that sets the size."""
    framing, size = recipe.framing, recipe.size(picture.width, picture.height)
    width, height = size.width_px, size.height_px
    level = framing.straighten_deg == 0
    framed = frame_picture(picture, framing) if level else orient_pixels(picture, framing)
    crop = framing.window(picture.width, picture.height)
    joins = isinstance(upscaler, Concert)
    # What sees the sensor, or several frames, sees all of it: nothing was enlarged before.
    shrink_first = 1.0 if upscaler.sees_sensor or joins else framing.shrink_first
    if joins and recipe.frames is not None:
        source: Stage = frames_source_stage(picture, framed, recipe, recipe.frames)
    else:
        source = _shrunk(sensor_source_stage(picture, framed, framing), shrink_first)
    factor = shrink_first * max(width, height) / max(size.source_width, size.source_height)
    # An anchor compares with the source pixel by pixel, so the result must lie as the source does.
    scale = factor if anchored and not level else upscaler.reach(factor, values)
    unrotated = (max(1, round(source.width * scale)), max(1, round(source.height * scale)))
    large = (width, height) if level else unrotated
    if values.protected:
        shown = framing if level else Framing(turns=framing.turns, flipped=framing.flipped)
        protected = framed_places(values.protected, shown, picture.width, picture.height)
        values = values.replace(protected=protected)
    stage = upscaler.chain(source, *large, values)
    if values.crispness > 0 and "crispness" in upscaler.values:
        stage = CrispnessStage(stage, values.crispness, stage.width / source.width)
    if anchored and values.back_projection_levels is not None:
        stage = BackProjectionStage(
            stage, _back_projection_reference(source, upscaler, values), values.back_projection_levels
        )
    if level:
        return stage
    sizes = ((stage.width, stage.height), (width, height))
    place = rotation_placement((framed.width, framed.height), framing.straighten_deg, crop, *sizes)
    return RotationStage(stage, place, width, height, upscaler.kernel)


def _back_projection_reference(source: Stage, upscaler: Upscaler, values: Values) -> Stage:
    """Reference for back-projection: the source after deblurring."""
    deconvolution = Deconvolution.of(values) if "blur" in upscaler.values else None
    return source if deconvolution is None else DeconvolutionStage(source, deconvolution)


def _shrunk(source: Stage, by: float) -> Stage:
    if by <= 1:
        return source
    width, height = (max(1, round(n / by)) for n in (source.width, source.height))
    return ResampleStage(source, width, height, without_antialiasing(LANCZOS3, by))
