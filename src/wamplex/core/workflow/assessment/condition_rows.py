"""Measures a picture row by row, with the evidence crop of each row."""

from __future__ import annotations

from collections.abc import Iterator

from wamplex.core.analysis.report.condition import Condition, measure_condition
from wamplex.core.analysis.report.evidence_crop import evidence_crop
from wamplex.core.analysis.report.finding import RowKey
from wamplex.core.analysis.sample import Sample
from wamplex.core.analysis.suggestion.expected_gains import with_predictions
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.development import Development
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.trial.developed_picture import develop_picture

Cutouts = dict[RowKey, Rgb8]


def measure_rows(
    store: PictureCache, source: Source, development: Development | None, progress: Progress
) -> Iterator[tuple[Condition, Cutouts]]:
    """The condition as known after each measurement, and what is new of small pictures.

    Parameters
    ----------
    development : how a raw file is to be developed first, None for as it was shot

    Raises
    ------
    UnreadablePictureError, SourceChangedError, Cancelled : as `PictureCache.get`
    """
    picture = store.get(source, progress)
    if development is not None:
        picture = develop_picture(picture, Recipe(development=development), progress)
    sample = Sample(picture)
    for condition in measure_condition(picture, progress):
        # The size needs no measurement: it comes with the first.
        keys: tuple[RowKey, ...] = condition.measured[-1:]
        if condition.complete:
            condition = with_predictions(condition)
        yield condition, _make_crops(sample, condition, keys if len(condition.measured) > 1 else (*keys, "size"))


def make_evidence_crops(store: PictureCache, source: Source, condition: Condition, progress: Progress) -> Cutouts:
    """All small pictures of a condition sheet.

    Raises
    ------
    UnreadablePictureError, SourceChangedError, Cancelled : as `PictureCache.get`
    """
    sample = Sample(store.get(source, progress))
    return _make_crops(sample, condition, (*condition.measured, "size"))


def _make_crops(sample: Sample, condition: Condition, keys: tuple[RowKey, ...]) -> Cutouts:
    crops = ((key, evidence_crop(sample, condition, key)) for key in keys)
    return {key: shown for key, shown in crops if shown is not None}
