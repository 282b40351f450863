"""A file that states that its picture was generated is believed before its pixels are examined."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from wamplex.core.analysis.content.stated_generator import stated_generator
from wamplex.core.analysis.report.condition import UPSCALING_ROWS, measure_whole_condition
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.intake.read import read_picture
from wamplex.core.provenance.source_type import COMPOSITE, GENERATED, set_source_type


def as_text(pixels: NDArray[np.uint8], path: Path) -> None:
    info = PngInfo()
    info.add_text("parameters", "a puppet theatre at dusk\nSteps: 30, Seed: 7")
    Image.fromarray(pixels).save(path.with_suffix(".png"), pnginfo=info)


def as_term(pixels: NDArray[np.uint8], path: Path) -> None:
    Image.fromarray(pixels).save(path.with_suffix(".jpg"), xmp=set_source_type(None, GENERATED[0]))


def as_manifest(pixels: NDArray[np.uint8], path: Path) -> None:
    """An APP11 segment as C2PA puts it into JPEG; its assertion names the term."""
    Image.fromarray(pixels).save(path.with_suffix(".jpg"))
    body = b"JP\x00\x01\x00\x00\x00\x01jumbc2pa.assertions" + GENERATED[0].encode()
    file = path.with_suffix(".jpg").read_bytes()
    segment = b"\xff\xeb" + (len(body) + 2).to_bytes(2, "big") + body
    path.with_suffix(".jpg").write_bytes(file[:2] + segment + file[2:])


@pytest.mark.parametrize("state", [as_text, as_term, as_manifest])
def test_what_the_file_states_is_shown(state: object, photo: NDArray[np.uint8], tmp_path: Path) -> None:
    assert callable(state)
    state(photo, tmp_path / "made")
    (path,) = tmp_path.iterdir()
    condition = measure_whole_condition(read_picture(path), rows=UPSCALING_ROWS)
    assert condition.content_type.kind == "generated"
    (medium,) = (f for f in describe_condition(condition) if f.key == "medium")
    assert medium.reason == condition.content_type.stated != ""


def test_other_files_state_nothing(photo: NDArray[np.uint8], tmp_path: Path) -> None:
    """Neither does a photograph in which this program invented texture."""
    info = PngInfo()
    info.add_text("Comment", "prompt service, seed catalogue")
    Image.fromarray(photo).save(tmp_path / "a.png", pnginfo=info)
    Image.fromarray(photo).save(tmp_path / "b.jpg", xmp=set_source_type(None, COMPOSITE))
    assert [stated_generator(read_picture(path)) for path in sorted(tmp_path.iterdir())] == ["", ""]
