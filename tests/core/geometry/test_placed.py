"""Where below a folder files go, and how they are called."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from wamplex.core.base.errors import DeliveryError, RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

RECIPE = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2, density_ppi=150)


def made(source: Path, **delivery: object) -> Path:
    wanted = Delivery.model_validate({"format": "png", "depth": 8, **delivery})
    return deliver(read_picture(source), RECIPE, wanted, Progress()).path


def test_names_can_say_the_print_and_the_day(photo_file: Path) -> None:
    path = made(photo_file, name_pattern="{name} {print} {ppi} {date}")
    # 300 x 240 px at 150 ppi are 5.08 x 4.06 cm.
    assert path.name == f"photo 5x4cm 150 {date.today().isoformat()}.png"


def test_the_source_goes_along_once_and_replaces_nothing(photo_file: Path) -> None:
    first = made(photo_file, subfolder="prints", copy_source=True)
    made(photo_file, subfolder="prints", copy_source=True)
    names = ["photo-2x-2.png", "photo-2x.png", "photo.png"]
    assert sorted(path.name for path in first.parent.iterdir()) == names
    (first.parent / "photo.png").write_bytes(b"another")
    made(photo_file, subfolder="prints", copy_source=True)
    assert (first.parent / "photo.png").read_bytes() == b"another"
    assert (first.parent / "photo-2.png").read_bytes() == photo_file.read_bytes()
    beside = made(photo_file, copy_source=True)
    assert sorted(p.name for p in beside.parent.iterdir()) == ["photo-2x.png", "photo.png", "prints"]


@pytest.mark.parametrize("name", ["a/b", "", "x" * 101])
def test_a_subfolder_is_one_name(name: str) -> None:
    with pytest.raises(RecipeError):
        Delivery().replace(subfolder=name)


def test_a_subfolder_is_no_way_up(photo_file: Path) -> None:
    with pytest.raises(DeliveryError, match="not a folder name"):
        made(photo_file, subfolder="..")
