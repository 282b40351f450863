"""Recipes that go from one picture to others."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import pytest
from PIL import Image

from wamplex.core.base.errors import RecipeError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.probe import probe
from wamplex.core.model.assets import AssetRef
from wamplex.core.model.finish_values import (
    FaceTreatment,
    Finish,
    Grain,
    InitialMask,
    Layer,
    Mask,
    Sharpen,
    TreatedFace,
)
from wamplex.core.model.protected_places import ProtectedPlaces
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.recipe_transfer.named_recipe import name_recipe
from wamplex.core.workflow.recipe_transfer.recipe_store import (
    forget_recipe,
    load_recipe,
    recipes_dir,
    store_recipe,
    stored_recipes,
)
from wamplex.core.workflow.recipe_transfer.similar_shots import ShotInfo, group_similar_shots, read_shot_info
from wamplex.core.workflow.recipe_transfer.transfer import transfer_recipe

PAINTED = Mask(initial_mask=InitialMask(kind="subject", picture=AssetRef(digest="0" * 64)))
FINISH = Finish(
    layers=(Layer(strength=30), Layer(mask=PAINTED)),
    faces=FaceTreatment(ellipses=(TreatedFace(x=0.5, y=0.5, width=20, height=30),), strength=40),
    sharpen=Sharpen(amount=70, mask=PAINTED),
    grain=Grain(amount=3),
)
SAVED = Recipe(base=TrialSpec(upscaler="mender"), factor=3, density_ppi=240).finished(FINISH)


def test_what_lies_on_places_of_one_picture_stays_behind_and_is_named(photo_file: Path) -> None:
    made, notes = transfer_recipe(SAVED, Recipe(), frozenset({"finish"}), probe(photo_file))
    assert [layer.strength for layer in made.layers] == [30]
    assert made.sharpen is not None
    assert made.sharpen.mask == Mask()
    assert made.faces is not None
    assert (made.faces.strength, made.faces.ellipses) == (40, ())
    assert made.grain == FINISH.grain
    assert made.base == TrialSpec()
    assert len(notes) == 2
    assert "layer of the source" in notes[0]


def test_only_what_is_asked_for_is_taken_over(photo_file: Path) -> None:
    own = Recipe(framing=Framing(crop=Crop(x=0, y=0, width=100, height=100)), factor=2)
    found = probe(photo_file)
    size, _ = transfer_recipe(SAVED, own, frozenset({"size"}), found)
    assert (size.factor, size.density_ppi, size.upscaler) == (3, 240, own.upscaler)
    assert size.framing == own.framing
    trial, _ = transfer_recipe(SAVED, own, frozenset({"trial"}), found)
    assert (trial.factor, trial.upscaler) == (2, "mender")


def test_a_sheet_lies_as_the_picture_does(photo_file: Path) -> None:
    a4 = Sheet(name="A4", width_mm=210, height_mm=297, place="fit")
    lying, _ = transfer_recipe(
        SAVED.replace(sheet=a4, density_ppi=96), Recipe(), frozenset({"size"}), probe(photo_file)
    )
    assert lying.sheet is not None
    assert (lying.sheet.width_mm, lying.sheet.height_mm) == (297, 210)
    # 150 x 120 px into 297 x 210 mm at 96 ppi: the height decides, 210 mm = 793.7 px.
    assert lying.size(150, 120).height_px == pytest.approx(210 / 25.4 * 96, abs=1)


def test_a_trial_on_the_sensor_needs_one(photo_file: Path) -> None:
    tessera = Recipe(base=TrialSpec(upscaler="tessera"))
    made, notes = transfer_recipe(tessera, Recipe(), frozenset({"trial"}), probe(photo_file))
    assert made == Recipe()
    assert "needs a raw file" in notes[0]


@pytest.fixture
def shelf(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    return recipes_dir()


def test_kept_recipes_come_back_as_they_were(shelf: Path) -> None:
    saved, left_out = name_recipe("  Foyer prints ", SAVED, Delivery(format="jpeg"))
    store_recipe(saved)
    store_recipe(name_recipe("Ausstellung Köln", Recipe(), None)[0])
    assert len(left_out) == 2
    assert load_recipe("foyer PRINTS") == saved
    assert [one.name for one in stored_recipes()] == ["Ausstellung Köln", "Foyer prints"]
    (shelf / "broken.json").write_text('{"name": "x", "recipe": 4}')
    assert len(stored_recipes()) == 2
    forget_recipe("Foyer prints")
    assert load_recipe("Foyer prints") is None


def test_a_kept_recipe_has_no_place_of_its_own_picture(shelf: Path) -> None:
    spared = Values(texture_strength=40, protected=(ProtectedPlaces(x=0.1, y=0.1, radius=0.2),))
    over = Layer(source_trial=TrialSpec(upscaler="thicket", values=spared))
    cropped = Recipe(
        base=TrialSpec(upscaler="thicket", values=spared),
        framing=Framing(turns=1, crop=Crop(x=0, y=0, width=90, height=50)),
    ).finished(Finish(layers=(over,)))
    saved, left_out = name_recipe("Woods", cropped, None)
    assert saved.recipe.framing == Framing()
    assert saved.recipe.values == Values(texture_strength=40)
    assert saved.recipe.layers[0].source_trial == TrialSpec(upscaler="thicket", values=Values(texture_strength=40))
    assert left_out == ("turning, straightening and crop",)


@pytest.mark.parametrize("name", ["", "   ", "...", "x" * 81])
def test_a_name_that_cannot_be_is_refused(shelf: Path, name: str) -> None:
    with pytest.raises(RecipeError):
        store_recipe(name_recipe(name, Recipe(), None)[0])
    assert not shelf.exists() or not list(shelf.iterdir())


def test_pictures_minutes_apart_are_one_group() -> None:
    def shot(minutes: float, camera: str = "A 1", sides: tuple[int, int] = (400, 600)) -> ShotInfo:
        return ShotInfo(camera, sides, datetime(2026, 5, 1, 12) + timedelta(minutes=minutes))

    pictures = [(0, shot(0)), (1, shot(9)), (2, shot(18)), (3, shot(40)), (4, shot(5, "B 2")), (5, None)]
    pictures.append((6, shot(12, sides=(300, 400))))
    assert group_similar_shots(pictures, 1) == (0, 1, 2)
    assert group_similar_shots(pictures, 3) == (3,)
    assert group_similar_shots(pictures, 5) == (5,)


def test_the_time_of_taking_is_read_from_exif(tmp_path: Path) -> None:
    exif = Image.Exif()
    exif[0x010F], exif[0x0110] = "Hollow", "One"  # Make, Model
    exif.get_ifd(0x8769)[0x9003] = "2026:05:01 19:30:05"  # DateTimeOriginal
    path = tmp_path / "shot.jpg"
    Image.new("RGB", (60, 40)).save(path, exif=exif)
    assert read_shot_info(path) == ShotInfo("Hollow One", (40, 60), datetime(2026, 5, 1, 19, 30, 5))
    plain = tmp_path / "plain.png"
    Image.new("RGB", (60, 40)).save(plain)
    assert read_shot_info(plain) is None
