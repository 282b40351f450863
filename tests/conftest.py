"""Pictures and helpers that tests share."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest
import pyvips
from numpy.typing import NDArray
from PIL import Image
from skimage import data

if not os.environ.get("DISPLAY"):
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


@pytest.fixture(autouse=True)
def own_folders(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """Settings, added networks and unsaved work of tests stay apart from the user's."""
    home = tmp_path_factory.mktemp("home")
    for name in ("CONFIG", "DATA", "STATE", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(home / name.lower()))
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(home))


@pytest.fixture(scope="session")
def photo() -> NDArray[np.uint8]:
    """A real photograph (scikit-image's astronaut, public domain, NASA), (120, 150, 3)."""
    return np.ascontiguousarray(data.astronaut()[0:120, 150:300])


@pytest.fixture
def photo_file(tmp_path: Path, photo: NDArray[np.uint8]) -> Path:
    """The photograph as an untagged PNG."""
    path = tmp_path / "photo.png"
    Image.fromarray(photo).save(path)
    return path


@pytest.fixture
def press(tmp_path: Path) -> Path:
    """A general press profile, which libvips brings along."""
    grey = pyvips.Image.black(8, 8, bands=3).copy(interpretation="srgb")
    path = tmp_path / "press.icc"
    path.write_bytes(grey.icc_transform("cmyk", input_profile="srgb").get("icc-profile-data"))
    return path
