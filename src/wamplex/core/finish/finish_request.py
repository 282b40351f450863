"""What is wanted of finishing for pictures whatever they are, and what it comes to for each."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.progress import Progress
from wamplex.core.finish.face_positions import describe_faces
from wamplex.core.finish.grey_mask import encode_grey
from wamplex.core.finish.initial_masks import face_ellipses, mask_from_file
from wamplex.core.finish.sharpen_stage import suggested_radius_mm
from wamplex.core.finish.tone_match import match_tone
from wamplex.core.intake.read import read_picture
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import (
    FaceTreatment,
    Finish,
    Grain,
    InitialMask,
    Layer,
    Mask,
    Sharpen,
    Tone,
)
from wamplex.core.model.picture import Picture
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import find_upscaler

SOURCE = "source"
_SEEN_FROM_MM = 500.0


@dataclass(frozen=True)
class LayerRequest:
    """A layer: key of an upscaler or "source", percent, and a grey picture as its mask, if any."""

    key: str
    strength: float = 100.0
    mask: Path | None = None


@dataclass(frozen=True)
class FinishRequest:
    """What is wanted; what is left out is not done.

    Attributes
    ----------
    faces : key of an upscaler and percent
    match : a reference, and percent
    radius_mm, halo_limit, size_mm : None for what is suggested, or usual
    """

    layers: tuple[LayerRequest, ...] = ()
    faces: LayerRequest | None = None
    match: tuple[Path, float] | None = None
    sharpen: float = 0.0
    radius_mm: float | None = None
    halo_limit: float | None = None
    grain: float = 0.0
    size_mm: float | None = None

    def finish_of(
        self, picture: Picture, suggested: Suggestions, density_ppi: float, progress: Progress
    ) -> tuple[Finish, tuple[str, ...]]:
        """Finish for a picture, and a sentence on each automatic choice.

        Parameters
        ----------
        picture : the decoded picture
        suggested : what the picture's measurements suggest
        density_ppi : pixels per inch of the print
        progress : receives the progress; cancelling it raises `Cancelled`

        Raises
        ------
        RecipeError : when a mask has another shape than the picture, or there is no such upscaler
        UnreadablePictureError : when a mask or the reference cannot be read
        """
        reasons: list[str] = []
        finish = Finish(
            layers=tuple(_layer(layer, picture, suggested) for layer in self.layers),
            faces=self._faces(picture, suggested, progress, reasons),
            tone=self._tone(picture, progress),
            sharpen=self._sharpen(density_ppi, reasons),
            grain=self._grain(),
        )
        return finish, tuple(reasons)

    def _faces(
        self, picture: Picture, suggested: Suggestions, progress: Progress, reasons: list[str]
    ) -> FaceTreatment | None:
        if self.faces is None:
            return None
        faces = face_ellipses(
            measure_whole_condition(picture, progress, ("faces",)).faces, picture.width, picture.height
        )
        spec = _spec(self.faces.key, suggested)
        treatment = FaceTreatment(ellipses=faces, source_trial=spec, strength=self.faces.strength)
        reasons.append(describe_faces(treatment))
        return treatment

    def _tone(self, picture: Picture, progress: Progress) -> Tone | None:
        if self.match is None:
            return None
        path, strength = self.match
        reference = read_picture(path, progress)
        return match_tone(picture, reference, colour=True, text=path.name).replace(strength=strength)

    def _sharpen(self, density_ppi: float, reasons: list[str]) -> Sharpen | None:
        if self.sharpen <= 0:
            return None
        radius = self.radius_mm
        if radius is None:
            radius, why = suggested_radius_mm(density_ppi, _SEEN_FROM_MM)
            reasons.append(f"sharpened with a radius of {radius:.2f} mm: {why}")
        usual = Sharpen(amount=self.sharpen, radius_mm=radius)
        return usual if self.halo_limit is None else usual.replace(halo_limit=self.halo_limit)

    def _grain(self) -> Grain | None:
        if self.grain <= 0:
            return None
        usual = Grain(amount=self.grain)
        return usual if self.size_mm is None else usual.replace(size_mm=self.size_mm)


def _layer(request: LayerRequest, picture: Picture, suggested: Suggestions) -> Layer:
    mask = Mask()
    if request.mask is not None:
        grey = process_assets().put(encode_grey(mask_from_file(request.mask, picture)))
        mask = Mask(initial_mask=InitialMask(kind="file", picture=grey))
    source_trial = None if request.key == SOURCE else _spec(request.key, suggested)
    return Layer(source_trial=source_trial, strength=request.strength, mask=mask)


def _spec(key: str, suggested: Suggestions) -> TrialSpec:
    upscaler = find_upscaler(key)
    return TrialSpec(upscaler=upscaler.key, values=suggested.values_for(upscaler.key, upscaler.values))
