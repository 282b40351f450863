"""Pictures decoded in a process of their own: the same pixels, and a crash of a decoder costs one picture."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import psutil
import pytest
from PIL import Image
from tests.cameras import chart, raw_file

from wamplex.core.base.errors import Cancelled, SourceChangedError, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.intake.decoder_choice import use_decoder
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_part, read_picture, read_small
from wamplex.core.model.picture import Picture
from wamplex.core.model.source import Source
from wamplex.core.workflow.decoding.decoding_client import DecodingClient, decode_in_worker

# Loaded by every Python that starts with it on its path: a decoder that crashes over one name.
_CRASHING = """
import sys
if "wamplex.core.workflow.decoding.decoding_worker" in sys.orig_argv:
    import os, signal
    from wamplex.core.intake import read
    open_file = read.open_image_file
    def crash(opened):
        if opened.name == "crashes.png":
            os.kill(os.getpid(), signal.SIGBUS)
        return open_file(opened)
    read.open_image_file = crash
"""


@pytest.fixture(scope="module")
def elsewhere() -> Iterator[DecodingClient]:
    with decode_in_worker() as client:
        yield client
    assert not [p for p in psutil.Process().children() if "decoding_worker" in " ".join(p.cmdline())]


@pytest.fixture
def crashing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "shim").mkdir()
    (tmp_path / "shim" / "sitecustomize.py").write_text(_CRASHING)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path / "shim"), prepend=":")


def here_and_elsewhere(path: Path, client: DecodingClient) -> tuple[Picture, Picture]:
    use_decoder(None)
    here = read_picture(path)
    use_decoder(client.run)
    return here, read_picture(path)


@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA", "I;16", "CMYK"])
def test_the_picture_is_the_same(elsewhere: DecodingClient, tmp_path: Path, photo_file: Path, mode: str) -> None:
    path = tmp_path / "picture.tif"
    Image.open(photo_file).convert("L" if mode == "I;16" else mode).convert(mode).save(path, dpi=(300, 300))
    here, there = here_and_elsewhere(path, elsewhere)
    assert np.array_equal(here.pixels, there.pixels)
    assert (here.alpha is None) == (there.alpha is None)
    for name in ("depth", "density_ppi", "profile", "metadata", "notices", "source", "file_start"):
        assert getattr(here, name) == getattr(there, name)


def test_a_raw_file_is_the_same(elsewhere: DecodingClient, tmp_path: Path) -> None:
    here, there = here_and_elsewhere(raw_file(tmp_path / "raw.dng", chart()), elsewhere)
    assert np.array_equal(here.pixels, there.pixels)
    assert here.raw is not None
    assert there.raw is not None
    assert here.raw.mosaic is not None
    assert there.raw.mosaic is not None
    assert np.array_equal(here.raw.mosaic.values, there.raw.mosaic.values)


def test_errors_are_those_of_here(elsewhere: DecodingClient, photo_file: Path) -> None:
    source = Source.of(photo_file)
    photo_file.write_bytes(photo_file.read_bytes()[:2000])
    with pytest.raises(SourceChangedError):
        PictureCache().get(source)
    with pytest.raises(UnreadablePictureError, match="the rest is missing"):
        here_and_elsewhere(photo_file, elsewhere)
    with pytest.raises(UnreadablePictureError, match="the rest is missing"):
        read_picture(photo_file)


def test_it_can_be_cancelled(elsewhere: DecodingClient, photo_file: Path) -> None:
    use_decoder(elsewhere.run)
    progress = Progress()
    progress.cancel()
    with pytest.raises(Cancelled):
        read_picture(photo_file, progress)


@pytest.mark.usefixtures("crashing")
def test_a_crash_costs_one_picture_and_no_more(tmp_path: Path, photo_file: Path) -> None:
    crashes = tmp_path / "crashes.png"
    crashes.write_bytes(photo_file.read_bytes())
    with decode_in_worker():
        for read in (
            read_picture,
            lambda path: read_small(path, 100),
            lambda path: read_part(path, Window(0, 0, 9, 9)),
        ):
            with pytest.raises(UnreadablePictureError, match=r"Wamplex crashed while reading crashes\.png"):
                read(crashes)
        assert read_picture(photo_file).width == 150
        assert read_small(photo_file, 100)[0].shape == (80, 100, 3)
        assert read_part(photo_file, Window(10, 20, 30, 40)).pixels.shape == (40, 30, 3)


@pytest.mark.usefixtures("crashing")
def test_the_other_pictures_of_a_command_are_made(tmp_path: Path, photo_file: Path) -> None:
    crashes = tmp_path / "crashes.png"
    crashes.write_bytes(photo_file.read_bytes())
    options = ["--factor", "2", "--upscaler", "bicubic", "--out", f"{tmp_path}/made/"]
    command = [sys.executable, "-m", "wamplex", "enlarge", str(crashes), str(photo_file), *options]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert "Wamplex crashed while reading crashes.png" in done.stdout + done.stderr
    assert len(list((tmp_path / "made").iterdir())) == 1
