"""Reads raw files with LibRaw (through rawpy)."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Matrix
from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.model.development import Method
from wamplex.core.model.raw_file import CameraColours, Exposure, Mosaic, RawFile, Triple
from wamplex.core.raw.dng_tags import DngTags, dng_tags

if TYPE_CHECKING:
    import rawpy

# Quarter turns clockwise for what LibRaw calls "flip".
TURNS = {0: 0, 3: 2, 5: 3, 6: 1}
_DAYLIGHT_K = 6504.0
# IEC 61966-2-1: linear sRGB to CIE XYZ, for cameras whose matrix LibRaw gives to sRGB alone.
_SRGB_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
_FULL = 65535.0


def read_raw(path: Path, method: Method = "ahd", name: str = "") -> RawFile:
    """Read a raw file and develop it into the camera's colours.

    Parameters
    ----------
    path : the file
    method : one of LibRaw's; a mosaic that another program of ours develops is made with AHD as well
    name : of the file in messages; by default that of the path

    Returns
    -------
    Camera colours and, where there is one, the mosaic.

    Raises
    ------
    UnreadablePictureError : when LibRaw cannot read it, with what it says
    """
    import rawpy

    name = name or path.name
    with _opened(path, name) as raw:
        try:
            return _read(raw, path, method)
        except rawpy.LibRawError as error:
            raise UnreadablePictureError(unreadable_raw_error(name, error)) from error


def _read(raw: Any, path: Path, method: Method) -> RawFile:
    tags = dng_tags(path)
    gains = _gains(raw)
    mosaic = _mosaic(raw)
    turns = TURNS.get(raw.sizes.flip, 0)  # forgotten as soon as it develops on the sensor's own sides
    developed, white = _developed(raw, method, gains)
    return RawFile(
        developed=developed,
        white=white,
        gains=gains,
        colours=_colours(raw, tags),
        mosaic=mosaic,
        turns=turns,
        noise=tags.noise,
        shot=_shot(raw, tags),
        preview=_preview(raw),
    )


def embedded_preview(path: Path) -> bytes | None:
    """The JPEG preview that the camera put into a raw file.

    Parameters
    ----------
    path : the file

    Returns
    -------
    JPEG bytes; None where there is no readable one.
    """
    import rawpy

    try:
        with rawpy.imread(str(path)) as raw:
            return _preview(raw)
    except rawpy.LibRawError:
        return None


def _preview(raw: Any) -> bytes | None:
    import rawpy

    try:
        preview = raw.extract_thumb()
    except rawpy.LibRawError:
        return None
    return bytes(preview.data) if preview.format == rawpy.ThumbFormat.JPEG else None


def read_half_size(path: Path, name: str) -> NDArray[np.uint8]:
    """Develop quickly: each cell of the mosaic becomes one pixel.

    Parameters
    ----------
    path : the file
    name : of the file in messages

    Returns
    -------
    (h, w, 3) uint8 sRGB, half the size, as the sensor lay.

    Raises
    ------
    UnreadablePictureError : when LibRaw cannot read it, with what it says
    """
    import rawpy

    with _opened(path, name) as raw:
        try:
            result: NDArray[np.uint8] = raw.postprocess(
                half_size=True, use_camera_wb=True, no_auto_bright=True, user_flip=0
            )
        except rawpy.LibRawError as error:
            raise UnreadablePictureError(unreadable_raw_error(name, error)) from error
        return result


def _opened(path: Path, name: str) -> rawpy.RawPy:
    import rawpy

    try:
        return rawpy.imread(str(path))
    except rawpy.LibRawError as error:
        raise UnreadablePictureError(unreadable_raw_error(name, error)) from error


def unreadable_raw_error(name: str, error: Exception) -> str:
    """Why LibRaw cannot read a file, for the user.

    Parameters
    ----------
    name : of the file
    error : what LibRaw raised

    Returns
    -------
    A sentence.
    """
    reason = error.args[0] if error.args else "it is damaged"
    text = reason.decode("utf-8", "replace") if isinstance(reason, bytes) else str(reason)
    return (
        f"{name} is a raw file that cannot be read: {text[:1].lower()}{text[1:].rstrip('.')}. "
        "Save it as DNG with the camera maker's program."
    )


def _gains(raw: Any) -> Triple:
    """White balance as shot, else for daylight; green is 1."""
    for balance in (raw.camera_whitebalance, raw.daylight_whitebalance):
        red, green, blue = (float(value) for value in balance[:3])
        if min(red, green, blue) > 0:
            return red / green, 1.0, blue / green
    return 1.0, 1.0, 1.0


def _developed(raw: Any, method: Method, gains: Triple) -> tuple[NDArray[np.uint16], float]:
    """The camera's colours, none cut off that the sensor has not cut off."""
    import rawpy

    algorithm = rawpy.DemosaicAlgorithm[method.upper() if method != "tessera" else "AHD"]
    pixels = raw.postprocess(
        demosaic_algorithm=algorithm,
        output_color=rawpy.ColorSpace.raw,
        user_wb=[gains[0], gains[1], gains[2], gains[1]],
        # Without cutting off: white of the strongest channel comes to full scale.
        highlight_mode=rawpy.HighlightMode.Ignore,
        gamma=(1, 1),
        no_auto_bright=True,
        adjust_maximum_thr=0.0,
        output_bps=16,
        user_flip=0,
    )
    if pixels.ndim != 3 or pixels.shape[2] != 3:
        raise rawpy.LibRawDataError("it holds other colours than red, green and blue")
    return pixels, _FULL / max(gains)


def _mosaic(raw: Any) -> Mosaic | None:
    """The Bayer mosaic; None for other filters, and for files of developed colours."""
    import rawpy

    pattern = raw.raw_pattern
    bayer = raw.raw_type == rawpy.RawType.Flat and pattern is not None and pattern.shape == (2, 2)
    if not bayer or raw.color_desc not in (b"RGBG", b"RGB"):
        return None
    places = [int(place) for place in pattern.ravel()]
    channels = [1 if place == 3 else place for place in places]
    if sorted(channels) != [0, 1, 1, 2]:
        return None
    # The visible area may begin within a cell.
    size = raw.sizes
    odd_row, odd_column = size.top_margin % 2, size.left_margin % 2
    order = [2 * ((row + odd_row) % 2) + (column + odd_column) % 2 for row in (0, 1) for column in (0, 1)]
    blacks = [float(raw.black_level_per_channel[places[i]]) for i in order]
    if raw.white_level <= max(blacks):
        return None
    first, second, third, fourth = (channels[i] for i in order)
    return Mosaic(
        values=raw.raw_image_visible.copy(),
        pattern=(first, second, third, fourth),
        black=(blacks[0], blacks[1], blacks[2], blacks[3]),
        white=float(raw.white_level),
    )


def _colours(raw: Any, tags: DngTags) -> CameraColours:
    """The file's own matrices, else LibRaw's for the camera, else what its colours come to in sRGB."""
    if tags.matrices:
        return CameraColours(tags.matrices)
    matrix: Matrix = np.asarray(raw.rgb_xyz_matrix[:3], np.float64)
    if np.abs(np.linalg.det(matrix)) > 1e-9:
        return CameraColours(((_DAYLIGHT_K, matrix),))
    to_srgb = np.asarray(raw.color_matrix[:3, :3], np.float64)
    if np.abs(np.linalg.det(to_srgb)) < 1e-9:
        to_srgb = np.eye(3)
    # What is balanced is white in sRGB, and what is not comes before by the gains of daylight.
    daylight = np.asarray(raw.daylight_whitebalance[:3], np.float64)
    balance = np.diag(daylight if daylight.min() > 0 else np.ones(3))
    from_xyz = np.asarray(np.linalg.inv(_SRGB_TO_XYZ @ to_srgb @ balance), np.float64)
    return CameraColours(((_DAYLIGHT_K, from_xyz),))


def _shot(raw: Any, tags: DngTags) -> Exposure:
    other = raw.other
    return Exposure(
        camera=tags.camera,
        lens=" ".join(word for word in (raw.lens.make, raw.lens.model) if word).strip(),
        iso=float(other.iso_speed) or tags.iso,
        exposure_s=float(other.shutter_speed),
        aperture=float(other.aperture),
        focal_mm=float(other.focal_length),
    )
