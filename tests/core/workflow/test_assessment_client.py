"""Pictures measured in a process of their own: the same readings, whatever happens to it."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import psutil
import pytest

from wamplex.core.base.errors import Cancelled, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.source import Source
from wamplex.core.workflow.assessment.assessment_client import AssessmentClient, UnmeasuredError
from wamplex.core.workflow.assessment.condition_rows import make_evidence_crops, measure_rows
from wamplex.core.workflow.assessment.tray_preview import make_tray_preview
from wamplex.core.workflow.subprocess.worker_client import WORKER_ENDED


@pytest.fixture(scope="module")
def apart() -> Iterator[AssessmentClient]:
    made = AssessmentClient()
    made.warm_up()
    yield made
    made.close()
    assert not children()


def children() -> list[psutil.Process]:
    return [
        p for p in psutil.Process().children() if "wamplex.core.workflow.assessment.assessment_worker" in p.cmdline()
    ]


def test_the_readings_are_the_same_row_by_row(apart: AssessmentClient, photo_file: Path) -> None:
    source = Source.of(photo_file)
    here = list(measure_rows(PictureCache(0), source, None, Progress()))
    there = list(apart.rows(source, None, Progress()))
    assert [condition for condition, _ in there] == [condition for condition, _ in here]
    assert there[-1][0].measured[-1] == "subject"
    assert there[-1][0].predicted  # so that the window need not wait for it
    for (_, ours), (_, theirs) in zip(here, there, strict=True):
        assert ours.keys() == theirs.keys()
        assert all(np.array_equal(ours[key], theirs[key]) for key in ours)


def test_small_pictures_are_made_once_more(apart: AssessmentClient, photo_file: Path) -> None:
    source = Source.of(photo_file)
    *_, (condition, _) = apart.rows(source, None, Progress())
    made = apart.evidence_crops(source, condition, Progress())
    assert made.keys() == make_evidence_crops(PictureCache(0), source, condition, Progress()).keys()
    assert "size" in made


def test_what_cannot_be_read_is_said_elsewhere(apart: AssessmentClient, photo_file: Path) -> None:
    source = Source.of(photo_file)
    photo_file.write_bytes(b"no picture any more")
    with pytest.raises(UnmeasuredError) as caught:
        list(apart.rows(source, None, Progress()))
    assert not str(caught.value)


def test_it_waits_while_held_and_ends_when_cancelled(apart: AssessmentClient, photo_file: Path) -> None:
    progress = Progress()
    progress.pause(True)
    threading.Timer(1.0, progress.cancel).start()
    begun = time.monotonic()
    with pytest.raises(Cancelled):
        list(apart.rows(Source.of(photo_file), None, progress))
    assert time.monotonic() - begun > 0.9


def test_a_crash_costs_one_picture_and_no_more(apart: AssessmentClient, photo_file: Path) -> None:
    source = Source.of(photo_file)
    rows = apart.rows(source, None, Progress())
    next(rows)
    children()[0].kill()
    with pytest.raises(UnmeasuredError, match=r"measures pictures came to an end in the middle of"):
        list(rows)
    assert len(list(apart.rows(source, None, Progress()))) > 3


def test_a_file_is_looked_at_as_here(apart: AssessmentClient, photo_file: Path) -> None:
    here, there = make_tray_preview(photo_file), apart.small(photo_file, Progress())
    assert (there.header, there.shot_info) == (here.header, here.shot_info)
    assert np.array_equal(there.thumbnail.pixels, here.thumbnail.pixels)
    photo_file.write_bytes(b"no picture any more")
    with pytest.raises(UnreadablePictureError) as here_said:
        make_tray_preview(photo_file)
    with pytest.raises(UnreadablePictureError) as there_said:
        apart.small(photo_file, Progress())
    assert str(there_said.value) == str(here_said.value)


def test_a_file_that_brings_the_process_to_an_end_is_told_and_others_are_looked_at(
    apart: AssessmentClient, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    follow, ends = apart._worker.follow, [True]

    def ended_first(number: int, order: tuple[object, ...], progress: Progress) -> Iterator[tuple[object, ...]]:
        return iter([("begun",), (WORKER_ENDED,)]) if ends.pop() else follow(number, order, progress)

    monkeypatch.setattr(apart._worker, "follow", ended_first)
    ends[:] = [False, True]
    assert apart.small(photo_file, Progress()).header.path == photo_file
    ends[:] = [True, True]
    with pytest.raises(UnreadablePictureError, match=rf"Wamplex crashed while reading {photo_file.name}"):
        apart.small(photo_file, Progress())
