"""Groups pictures of one camera and size, taken minutes apart."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.decode_errors import DecodingErrors
from wamplex.core.intake.decoders.image_file import ImageFile
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import open_image_file

APART = timedelta(minutes=10)  # common practice: a new scene begins after a longer pause
_TIME = "%Y:%m:%d %H:%M:%S"  # EXIF 2.32 (CIPA DC-008-2019), 4.6.5, tags 0x9003 and 0x0132


@dataclass(frozen=True)
class ShotInfo:
    """When and with what a picture was taken.

    Attributes
    ----------
    camera : maker and model as EXIF has them
    sides : pixels, the shorter first: turning the camera makes no other picture
    """

    camera: str
    sides: tuple[int, int]
    when: datetime


def read_shot_info(path: Path) -> ShotInfo | None:
    """Read camera and time of a picture.

    Returns
    -------
    None where it does not say, is no picture, or would have to be decoded to be asked.
    """
    try:
        header, file = open_image_file(path)
        if header.kind != RAW and not file.shrinks:
            return None
        fields = _read_tiff_fields(file) if header.kind == RAW else _read_image_fields(file.image())
    except (UnreadablePictureError, *DecodingErrors):
        return None
    sides = (min(header.width, header.height), max(header.width, header.height))
    try:
        when = datetime.strptime(fields[1].strip(" \0"), _TIME)
    except ValueError:
        return None
    return ShotInfo(fields[0].strip(" \0"), sides, when) if fields[0].strip(" \0") else None


def group_similar_shots(pictures: Iterable[tuple[int, ShotInfo | None]], of: int) -> tuple[int, ...]:
    """Numbers of the pictures that were taken as one of them was, that one included.

    From picture to picture no more than `APART`, so that a long shoot is one group.
    """
    shots = {number: one for number, one in pictures if one is not None}
    if of not in shots:
        return (of,)
    same = [n for n, one in shots.items() if (one.camera, one.sides) == (shots[of].camera, shots[of].sides)]
    same.sort(key=lambda number: shots[number].when)
    place = same.index(of)
    first = last = place
    while first > 0 and shots[same[first]].when - shots[same[first - 1]].when <= APART:
        first -= 1
    while last + 1 < len(same) and shots[same[last + 1]].when - shots[same[last]].when <= APART:
        last += 1
    return tuple(sorted(same[first : last + 1]))


def _read_image_fields(image: object) -> tuple[str, str]:
    """Camera and time of an image of libvips, which writes fields as "value (value, type, ...)"."""
    texts = []
    for name in ("exif-ifd0-Make", "exif-ifd0-Model", "exif-ifd2-DateTimeOriginal", "exif-ifd0-DateTime"):
        there = image.get_typeof(name)  # type: ignore[attr-defined]
        texts.append(str(image.get(name)).partition(" (")[0] if there else "")  # type: ignore[attr-defined]
    return f"{texts[0]} {texts[1]}", texts[2] or texts[3]


def _read_tiff_fields(file: ImageFile) -> tuple[str, str]:
    import tifffile  # takes a tenth of a second to load, which most starts need not

    try:
        assert file.opened is not None
        with file.opened.open() as handle, tifffile.TiffFile(handle) as tiff:
            tags = tiff.pages[0].tags
            exif = tags.valueof("ExifTag") or {}
            fields = [str(tags.valueof(name) or "") for name in ("Make", "Model", "DateTime")]
            return f"{fields[0]} {fields[1]}", str(exif.get("DateTimeOriginal") or fields[2])
    except Exception:  # raw files that are no TIFFs, and damaged ones
        return "", ""
