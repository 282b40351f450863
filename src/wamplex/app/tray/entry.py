"""One picture of the tray: information about its file, and the decisions about it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.app.tray.decisions import Decisions
from wamplex.app.tray.trials import Trial, Trials
from wamplex.core.analysis.content.spots import Spot, transform_spots
from wamplex.core.analysis.report.condition import Condition, is_dithered
from wamplex.core.analysis.report.finding import RowKey
from wamplex.core.analysis.suggestion.suggestion import suggest_trials
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.analysis.suggestion.trial_warnings import warn_of_trial
from wamplex.core.frames.concert import CONCERT
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import Size
from wamplex.core.intake.compressed_thumbnail import Thumbnail, thumbnail_pixels
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import Probe
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import FRAMES_UPSCALERS, find_upscaler, is_known
from wamplex.core.upscale.upscalers.interface import Upscaler
from wamplex.core.workflow.lineage.results import LineageResult
from wamplex.core.workflow.orders.stamp_history import LEAST_CHOICES, load_stamp_history, picture_class
from wamplex.core.workflow.recipe_transfer.similar_shots import ShotInfo

UNMEASURED_UPSCALER = "vellum"


@dataclass(frozen=True)
class PictureInfo:
    """What was found out about a file; nothing of it is decided.

    Attributes
    ----------
    header : its header, None until it was looked at
    shot_info : when and with what it was taken, where the file says
    thumbnail : small sRGB picture (h, w, 3), packed where it is not worked on; None until it is read
    error : why the file cannot be used, None when it can
    notices : what reading changed
    outdated : what is to be said when the file has changed on the disk and was read anew
    condition : the measurements up to now, None before the first one
    evidence_crops : small pictures, (h, w, 3) uint8, that show what rows of the condition sheet are about
    suggested : the upscaler and the values that its measurements suggest, None until everything is measured
    measured_s : how long measuring took
    results : files that were made of it, also in other sessions
    """

    header: Probe | None = None
    shot_info: ShotInfo | None = None
    thumbnail: Thumbnail | None = None
    error: str | None = None
    notices: tuple[str, ...] = ()
    outdated: str = ""
    condition: Condition | None = None
    evidence_crops: dict[RowKey, NDArray[np.uint8]] = field(default_factory=dict)
    suggested: Suggestions | None = None
    measured_s: float = 0.0
    results: tuple[LineageResult, ...] = ()


def default_trials(info: PictureInfo) -> Trials:
    """The trials of a picture that nothing was decided about: the usual ones, and what is suggested."""
    trials = Trials.of(load_settings().first_trials).for_pixels().without(CONCERT.key)
    if info.suggested is not None and info.condition is not None:
        for key, reason in suggest_trials(info.condition):
            trials = trials.tried(key, reason)
        suggested = [t.letter for t in trials.rows if t.upscaler_key == info.suggested.upscaler]
        trials = trials.activate(suggested[0]) if suggested else trials  # what Trial opens with
        if load_settings().remember_choices:
            trials = _as_chosen_before(trials, picture_class(info.condition, info.suggested), info.condition)
    return trials


def _as_chosen_before(trials: Trials, kind: str, condition: Condition) -> Trials:
    """With what was chosen most often for pictures of this kind, and those chosen more often first."""
    history = load_stamp_history()
    counts = history.counts(kind)
    if counts.total() < LEAST_CHOICES:
        return trials
    favourite = counts.most_common(1)[0][0]
    if is_known(favourite) and _usable(find_upscaler(favourite), condition):
        name = find_upscaler(favourite).name
        there = next((t.reason for t in trials.rows if t.upscaler_key == favourite), "")
        text = history.text(kind, favourite, name)
        trials = trials.tried(favourite, f"{there}; {text}" if there else text)
    return trials.ordered(counts)


def _usable(upscaler: Upscaler, condition: Condition) -> bool:
    """Whether it can be tried on a picture without further frames."""
    return upscaler not in FRAMES_UPSCALERS and (has_mosaic(condition) or not upscaler.sees_sensor)


def has_mosaic(condition: Condition | None) -> bool:
    """Whether Tessera can be used."""
    return condition is not None and condition.sensor is not None and condition.sensor.mosaic


class TrayEntry:
    """One picture in the tray; the tray alone changes it.

    Attributes
    ----------
    framed : the thumbnail as a framing leaves it, which is ``framed_as``
    usual : the trials while nothing is decided about them
    """

    def __init__(self, number: int, path: Path, usual: Trials) -> None:
        self.number = number
        self.path = path
        self.info = PictureInfo()
        self.decisions = Decisions()
        self.framed: Thumbnail | None = None
        self.framed_as = self.decisions.framing
        self.developed_as: Development | None = None  # what the thumbnail shows
        self.usual = usual
        self.active: str | None = None  # letter of the trial that is looked at
        self.begun = False  # whether what new pictures begin with was decided about it
        self.at_first: Decisions | None = None  # that beginning; None in an opened project
        self.saved_spots: tuple[Spot, ...] | None = None  # as an old project has them, until they are placed

    def place_saved_spots(self) -> None:
        """Spots of an old project, which lie at shares of the picture, once its size is known."""
        if self.saved_spots is not None and self.header is not None:
            place = (self.framing, Framing(), self.header.width, self.header.height)
            self.decisions = replace(self.decisions, spots=transform_spots(self.saved_spots, *place))
            self.saved_spots = None

    @property
    def header(self) -> Probe | None:
        """The file's header."""
        return self.info.header

    @property
    def thumbnail(self) -> NDArray[np.uint8] | None:
        """The picture small, (h, w, 3) sRGB, as it lies in its file."""
        return None if self.info.thumbnail is None else thumbnail_pixels(self.info.thumbnail)

    @property
    def framed_thumbnail(self) -> NDArray[np.uint8] | None:
        """The picture small, as its framing leaves it."""
        return None if self.framed is None else thumbnail_pixels(self.framed)

    @property
    def error(self) -> str | None:
        """Why the file cannot be used."""
        return self.info.error

    @property
    def condition(self) -> Condition | None:
        """The measurements up to now."""
        return self.info.condition

    @property
    def suggested(self) -> Suggestions | None:
        """Suggestions from the measurements."""
        return self.info.suggested

    @property
    def framing(self) -> Framing:
        """How it is turned, straightened and cropped."""
        return self.decisions.framing

    @property
    def sheet(self) -> Sheet | None:
        """Sheet of the print."""
        return self.decisions.sheet

    @property
    def raw(self) -> bool:
        """Whether it is a raw file."""
        return self.header is not None and self.header.kind == RAW

    @property
    def has_mosaic(self) -> bool:
        """Whether Tessera can be used; not known until the picture is measured."""
        return has_mosaic(self.condition)

    @property
    def development(self) -> Development | None:
        """How it is developed; None where it is no raw file, or as shot."""
        decided = self.decisions.development
        return decided if self.raw and decided != Development() else None

    @property
    def viewing_distance_mm(self) -> float:
        """How close one may stand."""
        return self.decisions.viewing_distance_mm

    @property
    def finish(self) -> Finish:
        """Finish after the stamped trial."""
        return self.decisions.finish

    @property
    def usable(self) -> bool:
        """Whether the picture has been read and can be enlarged."""
        return self.header is not None and self.error is None

    @property
    def source(self) -> Source:
        """The file that was read."""
        assert self.header is not None
        return self.header.source

    @property
    def size(self) -> Size | None:
        """The size that is decided; None until the picture has been read."""
        if self.header is None:
            return None
        cropped = self.framing.size(self.header.width, self.header.height)
        return Size(*cropped, self.decisions.factor, self.decisions.density_ppi)

    @property
    def pixels(self) -> tuple[int, int]:
        """Width and height of the picture as it lies in its file."""
        assert self.header is not None
        return self.header.width, self.header.height

    @property
    def all_spots(self) -> tuple[Spot, ...]:
        """The places trials are judged at, at shares of the whole picture; none until they are found."""
        if self.decisions.spots is not None:
            return self.decisions.spots
        # Until everything is measured, a spot that was found might still give way to another.
        return self.condition.spots if self.condition is not None and self.suggested is not None else ()

    @property
    def spots(self) -> tuple[Spot, ...]:
        """The same in what the framing leaves."""
        if self.header is None:
            return ()
        return transform_spots(self.all_spots, Framing(), self.framing, *self.pixels)

    @property
    def stamped(self) -> str | None:
        """Letter of the stamped trial."""
        return None if self.decisions.trials is None else self.decisions.trials.stamped

    @property
    def trials(self) -> Trials:
        """The trials, with the one that is looked at."""
        trials = self.decisions.trials or self.usual
        remaining = {trial.letter for trial in trials.remaining}
        return trials.activate(self.active) if self.active is not None and self.active in remaining else trials

    def suggested_values(self, upscaler_key: str) -> Values:
        """Suggested values of an upscaler; defaults until the picture is measured."""
        if self.suggested is None or not is_known(upscaler_key):  # a guest may be gone
            return Values()
        return self.suggested.values_for(upscaler_key, find_upscaler(upscaler_key).values)

    def fix_stamped_values(self, trials: Trials) -> Trials:
        """Give a trial that is stamped before its picture is measured the values it was judged with."""
        if trials.stamped is None or self.suggested is not None:
            return trials
        stamped = trials.find(trials.stamped)
        return trials.set_values(stamped.letter, stamped.values or self.suggested_values(stamped.upscaler_key))

    def warning(self, trial: Trial) -> str | None:
        """Warning about a trial; None without one, or before the picture is measured."""
        if self.suggested is None or self.condition is None:
            return None
        upscaler = trial.upscaler
        values = trial.values or self.suggested_values(upscaler.key)
        kind, dithered = self.condition.content_type.kind, is_dithered(self.condition)
        return warn_of_trial(upscaler.key, upscaler.kind, values, self.suggested, kind, dithered=dithered)

    @property
    def suggested_upscaler(self) -> str:
        """Key of the upscaler that the measurements suggest; a faithful one until they are there."""
        return UNMEASURED_UPSCALER if self.suggested is None else self.suggested.upscaler

    @property
    def delivered_upscaler(self) -> str:
        """Key of the stamped upscaler, or of the suggested one while none is stamped."""
        trials = self.trials
        return self.suggested_upscaler if trials.stamped is None else trials.find(trials.stamped).upscaler_key

    def trial_recipe(self, trial: Trial) -> Recipe:
        """The recipe of a trial."""
        return self.recipe(trial.upscaler_key, trial.values)

    def delivered_recipe(self) -> Recipe:
        """The recipe of the stamped trial, or of the suggested upscaler while none is stamped."""
        trials = self.trials
        values = None if trials.stamped is None else trials.find(trials.stamped).values
        plain = self.recipe(self.delivered_upscaler, values).replace(sheet=self.sheet)
        return plain.finished(self.finish)

    def recipe(self, upscaler_key: str, values: Values | None = None) -> Recipe:
        """The recipe for this picture with one upscaler; suggested values where none are given."""
        return Recipe(
            base=TrialSpec(upscaler=upscaler_key, values=values or self.suggested_values(upscaler_key)),
            development=self.development,
            frames=self.decisions.frames,
            factor=self.decisions.factor,
            framing=self.framing,
            density_ppi=self.decisions.density_ppi,
        )
