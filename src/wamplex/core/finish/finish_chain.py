"""What is done after the stamped trial, in its order: layers, faces, tone, sharpening, grain."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.finish.grain_stage import GrainStage
from wamplex.core.finish.layers_stage import LayerInput, LayersStage
from wamplex.core.finish.mask_stage import FacesStage, mask_stage
from wamplex.core.finish.sharpen_stage import SharpenStage
from wamplex.core.finish.stage_cache import CachedStage, StageCache
from wamplex.core.finish.tone_stage import ToneStage
from wamplex.core.model.assets import Assets
from wamplex.core.model.finish_values import FaceTreatment, Mask, TreatedFace
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.trial_stage import enlarged_stage, trial_stage
from wamplex.core.upscale.stages.stage import FollowingStage, Stage
from wamplex.core.upscale.upscalers.interpolation import BICUBIC


def finished_stage(picture: Picture, recipe: Recipe, assets: Assets, memory: StageCache | None = None) -> Stage:
    """The result with everything that the recipe asks for, the sheet around it left out.

    Parameters
    ----------
    memory : of what its trials look like, for who asks again and again while masks change

    Raises
    ------
    RecipeError : when there is no such upscaler, or a mask is damaged
    ProjectError : when a mask is missing
    """
    stage = _trial(picture, recipe, recipe.base, memory)
    layer_inputs = (*_layers(picture, recipe, assets, memory), *_faces(picture, recipe, memory))
    if layer_inputs:
        stage = LayersStage(stage, layer_inputs)
    if recipe.tone is not None and recipe.tone.strength > 0:
        stage = ToneStage(stage, recipe.tone, _mask_weight(picture, recipe, recipe.tone.mask, assets))
    attenuation = _attenuation(picture, recipe)
    if recipe.sharpen is not None and recipe.sharpen.amount > 0:
        weight = _both(_mask_weight(picture, recipe, recipe.sharpen.mask, assets), attenuation)
        stage = SharpenStage(stage, recipe.sharpen, recipe.density_ppi, weight)
    if recipe.grain is not None and recipe.grain.amount > 0:
        weight = _both(_mask_weight(picture, recipe, recipe.grain.mask, assets), attenuation)
        stage = GrainStage(stage, recipe.grain, recipe.density_ppi, weight)
    return stage


def _trial(picture: Picture, recipe: Recipe, source_trial: TrialSpec, memory: StageCache | None) -> Stage:
    stage = trial_stage(picture, recipe, source_trial)
    if memory is None or picture.source is None or not recipe.layers:
        return stage
    alone = recipe.unfinished.replace(base=source_trial, sheet=None)
    return CachedStage(stage, memory, (picture.source, alone))


def _layers(picture: Picture, recipe: Recipe, assets: Assets, memory: StageCache | None) -> tuple[LayerInput, ...]:
    return tuple(
        LayerInput(
            enlarged_stage(picture, recipe, BICUBIC, Values())
            if layer.source_trial is None
            else _trial(picture, recipe, layer.source_trial, memory),
            mask_stage(picture, recipe, layer.mask, assets),
            layer.strength / 100,
        )
        for layer in recipe.layers
        if layer.on and layer.strength > 0 and not layer.mask.empty
    )


def _faces(picture: Picture, recipe: Recipe, memory: StageCache | None) -> tuple[LayerInput, ...]:
    """Faces that are made with the same are one layer."""
    if recipe.faces is None:
        return ()
    groups: dict[str, list[tuple[TreatedFace, float, TrialSpec]]] = {}
    for face in recipe.faces.ellipses:
        source_trial = face.source_trial or recipe.faces.source_trial
        strength = recipe.faces.strength if face.strength is None else face.strength
        if face.on and source_trial is not None and strength > 0:
            groups.setdefault(source_trial.model_dump_json(), []).append((face, strength / 100, source_trial))
    return tuple(
        LayerInput(
            _trial(picture, recipe, some[0][2], memory),
            FacesStage(picture, recipe, tuple(f for f, _, _ in some), tuple(s for _, s, _ in some)),
            1.0,
        )
        for some in groups.values()
    )


def _attenuation(picture: Picture, recipe: Recipe) -> Stage | None:
    """How much of sharpening and grain is left where faces are."""
    faces: FaceTreatment | None = recipe.faces
    if faces is None or faces.attenuation == 0 or not any(face.on for face in faces.ellipses):
        return None
    ellipses = tuple(face for face in faces.ellipses if face.on)
    return _Rest(FacesStage(picture, recipe, ellipses, (faces.attenuation / 100,) * len(ellipses)))


def _mask_weight(picture: Picture, recipe: Recipe, mask: Mask, assets: Assets) -> Stage | None:
    return None if mask == Mask() else mask_stage(picture, recipe, mask, assets)


def _both(one: Stage | None, other: Stage | None) -> Stage | None:
    return _Product(one, other) if one is not None and other is not None else one or other


class _Rest(FollowingStage):
    """1 less a mask."""

    def __init__(self, before: Stage) -> None:
        self.width, self.height, self._before = before.width, before.height, before

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The mask of the window."""
        return np.float32(1) - self._before.render(window, progress)


class _Product(FollowingStage):
    """One mask times another."""

    def __init__(self, before: Stage, other: Stage) -> None:
        self.width, self.height, self._before = before.width, before.height, before
        self._other = other

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The mask of the window."""
        return self._before.render(window, progress) * self._other.render(window, progress)
