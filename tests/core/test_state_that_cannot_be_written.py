"""The folders of settings, networks and notes cannot be written to: a sentence or nothing, and the work goes on."""

from __future__ import annotations

import errno
import os
from pathlib import Path

import numpy as np
import pytest
from tests.core.upscale.test_user_networks import network

from wamplex.core.base.errors import FolderError, RecipeError, SettingsError, UpscalerError
from wamplex.core.guests.guest_store import add_guest
from wamplex.core.intake.read import read_picture, read_tray_thumbnail
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings, save_settings, settings_path, user_networks_dir
from wamplex.core.upscale.user_networks.network_store import add_user_network, user_upscalers
from wamplex.core.workflow.lineage.result_folders import remember_folder
from wamplex.core.workflow.recipe_transfer.named_recipe import name_recipe
from wamplex.core.workflow.recipe_transfer.recipe_store import store_recipe


@pytest.fixture
def full_disk(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every small file meets a full disk."""

    for name in ("fsync", "replace"):
        monkeypatch.setattr(os, name, full)


def full(*_args: object) -> None:
    raise OSError(errno.ENOSPC, "No space left on device")


@pytest.mark.usefixtures("full_disk")
def test_settings_count_for_the_session() -> None:
    with pytest.raises(SettingsError, match=r"cannot be saved: no space left on device. They count until"):
        save_settings(load_settings().replace(unit="in"))
    assert load_settings().unit == "in"
    assert not settings_path().exists()


def test_settings_that_can_be_saved_again_are(monkeypatch: pytest.MonkeyPatch) -> None:
    with monkeypatch.context() as disk:
        disk.setattr(os, "replace", full)
        with pytest.raises(SettingsError):
            save_settings(load_settings().replace(unit="in"))
    save_settings(load_settings().replace(dimmed=True))
    assert "in" in settings_path().read_text()


@pytest.mark.usefixtures("full_disk")
def test_a_network_is_stored_completely_or_not_at_all(tmp_path: Path) -> None:
    path = network(tmp_path / "net.onnx")
    with pytest.raises(UpscalerError, match=r"cannot be stored in .*: no space left on device"):
        add_user_network(path)
    assert user_upscalers() == ()
    assert not list(user_networks_dir().rglob("*.*"))


@pytest.mark.usefixtures("full_disk")
def test_a_recipe_and_a_guest_are_refused_in_words(photo_file: Path) -> None:
    saved, _ = name_recipe("mine", Recipe(factor=2), None)
    with pytest.raises(RecipeError, match="cannot be stored: no space left"):
        store_recipe(saved)
    with pytest.raises(FolderError, match=r"cannot be stored in .*: no space left"):
        add_guest(photo_file, read_picture(photo_file))


@pytest.mark.usefixtures("full_disk")
def test_thumbnails_and_notes_are_left_out(photo_file: Path) -> None:
    pixels, header = read_tray_thumbnail(photo_file)
    assert np.asarray(pixels).shape == (120, 150, 3)
    assert header.width == 150
    remember_folder(photo_file.parent)
