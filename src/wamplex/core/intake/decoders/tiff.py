"""TIFF: ordinary ones through libvips, all others through tifffile, which knows more kinds."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pyvips
from numpy.typing import NDArray

from wamplex.core.intake.decoders.image_file import (
    Colour,
    ImageFile,
    NotDecodableError,
    PixelBlocks,
    full_range,
    image_from_array,
)
from wamplex.core.intake.decoders.libvips import open_with_libvips, read_density

# TIFF 6.0 and its supplements, by the numbers in the file.
_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _PALETTE, _CMYK, _YCBCR, _LAB, _ICC_LAB = 0, 1, 2, 3, 5, 6, 8, 9
_ORDINARY_COLOURS = (_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _PALETTE, _CMYK, _YCBCR)
_NONE, _CCITT, _GROUP3, _GROUP4, _LZW, _JPEG, _DEFLATE, _PACKBITS = 1, 2, 3, 4, 5, 7, 8, 32773
_ORDINARY_CODECS = (_NONE, _CCITT, _GROUP3, _GROUP4, _LZW, _JPEG, _DEFLATE, 32946, _PACKBITS)
_UNSIGNED, _SIGNED, _FLOAT = 1, 2, 3
_PREMULTIPLIED = 1
_INCH, _CENTIMETRE = 2, 3
_PROFILE, _XMP, _IPTC, _ORIENTATION, _X_RESOLUTION, _RESOLUTION_UNIT = 34675, 700, 33723, 274, 282, 296
_FLOAT_NOTICE = "The TIFF holds floating-point values. 0 to 1 were read as black to white; the rest was clipped."


def open_tiff(path: Path) -> ImageFile:
    """Read the header of the first page.

    Raises
    ------
    NotDecodableError : when it is a kind of TIFF that cannot be read
    pyvips.Error : when it is damaged
    """
    try:
        return open_with_libvips(path, "TIFF") if _libvips_may(path) else open_with_tifffile(path)
    except pyvips.Error as error:
        # Faults between the tags that one library stumbles over need not concern the other.
        try:
            return open_with_tifffile(path)
        except NotDecodableError:
            raise error from None


def open_with_tifffile(path: Path) -> ImageFile:
    """Read the header of the first page by way of tifffile.

    Raises
    ------
    NotDecodableError : when it cannot
    """
    import tifffile

    try:
        with path.open("rb") as handle, tifffile.TiffFile(handle) as file:
            page = file.pages.first
            if not isinstance(page, tifffile.TiffPage):
                raise NotDecodableError("it holds no page")
            return _opened(path, page, _page_count(file))
    except NotDecodableError:
        raise
    except Exception as error:
        raise NotDecodableError(str(error)) from error


def _page_count(file: Any) -> int:
    try:
        return len(file.pages)
    except Exception:  # pages that lead in a circle, or nowhere: the first is what counts
        return 1


def _libvips_may(path: Path) -> bool:
    """Whether the first page is one that libvips reads well, or one that tifffile makes nothing of."""
    import tifffile

    try:
        with path.open("rb") as handle, tifffile.TiffFile(handle) as file:
            page = file.pages.first
            return not isinstance(page, tifffile.TiffPage) or _is_ordinary(page)
    except Exception:
        return True


def _is_ordinary(page: Any) -> bool:
    """Whether libvips reads it as tifffile does, by comparing both on a corpus (docs/reliability.md)."""
    separate = page.planarconfig == 2 and page.samplesperpixel > 1
    bits_fit = page.bitspersample in ((1, 2, 4, 8, 16) if page.samplesperpixel == 1 else (8, 16))
    return (
        page.photometric in _ORDINARY_COLOURS
        and page.tags.get("PhotometricInterpretation") is not None
        and page.compression in _ORDINARY_CODECS
        and page.sampleformat in (_UNSIGNED, 4)
        and bits_fit
        and not (page.photometric == _PALETTE and page.bitspersample == 16)
        and not (separate and (page.extrasamples or page.is_tiled))
    )


def _opened(path: Path, page: Any, pages: int) -> ImageFile:
    """Describe a page read by tifffile."""
    colours, alpha = _channels(page)
    bits, kind = _depth(page)
    pixel_blocks = PixelBlocks(_block(page, _PROFILE), None, _block(page, _XMP), _block(page, _IPTC), _turn(page))
    if page.photometric in (_LAB, _ICC_LAB):
        pixel_blocks = PixelBlocks(None, None, pixel_blocks.xmp, pixel_blocks.iptc, pixel_blocks.orientation)
    deep = bits > 8 or kind == _FLOAT or page.photometric in (_LAB, _ICC_LAB, _PALETTE)
    width, height = int(page.imagewidth), int(page.imagelength)
    return ImageFile(
        width=height if pixel_blocks.orientation >= 5 else width,
        height=width if pixel_blocks.orientation >= 5 else height,
        depth=16 if deep else 8,
        colour=colours,
        alpha=alpha,
        image=lambda: image_from_array(_pixels(path), pixel_blocks, cmyk=colours == "CMYK"),
        density_ppi=_density(page),
        profile=pixel_blocks.profile,
        pages=pages,
        notices=(_FLOAT_NOTICE,) if kind == _FLOAT else (),
    )


def _channels(page: Any) -> tuple[Colour, bool]:
    count = page.samplesperpixel
    own = {_RGB: 3, _CMYK: 4, _YCBCR: 3, _LAB: 3, _ICC_LAB: 3}.get(page.photometric, 1)
    if page.photometric not in (*_ORDINARY_COLOURS, _LAB, _ICC_LAB):
        raise NotDecodableError(f"its colours are of the kind {_name(page.photometric)}")
    if page.imagedepth != 1 or count < own:
        raise NotDecodableError("it is a volume, not a picture")
    if count - own > 1:
        raise NotDecodableError(f"it has {count} channels")
    colour: Colour = "CMYK" if own == 4 else "grey" if own == 1 and page.photometric != _PALETTE else "RGB"
    return colour, count - own == 1


def _depth(page: Any) -> tuple[int, int]:
    bits, kind = page.bitspersample, page.sampleformat
    if not isinstance(bits, int) or not isinstance(kind, int) or page.dtype is None:
        raise NotDecodableError("its channels have unlike depths")
    if kind not in (_UNSIGNED, _FLOAT, 4) and not (kind == _SIGNED and page.photometric in (_LAB, _ICC_LAB)):
        raise NotDecodableError("its values are signed or complex numbers")
    return int(bits), _UNSIGNED if kind == 4 else int(kind)


def _pixels(path: Path) -> NDArray[Any]:
    """The first page as (H, W, C) uint8 or uint16."""
    import tifffile

    page: Any = None
    try:
        with path.open("rb") as handle, tifffile.TiffFile(handle) as file:
            page = file.pages.first
            values = np.asarray(page.asarray())
            if values.ndim == 3 and page.planarconfig == 2 and page.samplesperpixel > 1:
                values = np.moveaxis(values, 0, -1)
            values = values.reshape(page.imagelength, page.imagewidth, -1)
            return _tones(page, values)
    except NotDecodableError:
        raise
    except MemoryError as error:
        raise NotDecodableError("it says it is larger than the memory") from error
    except Exception as error:
        if page is not None and page.compression not in _ORDINARY_CODECS:
            raise NotDecodableError(f"its compression ({_name(page.compression)}) is not supported") from error
        raise NotDecodableError(str(error)) from error


def _tones(page: Any, values: NDArray[Any]) -> NDArray[Any]:
    if page.photometric in (_LAB, _ICC_LAB):
        return _from_lab(values, page)
    if page.photometric == _PALETTE:
        colours = np.asarray(page.colormap).T.astype(np.uint16)
        return np.asarray(colours[np.minimum(values[..., 0], len(colours) - 1)])
    if values.dtype.kind == "f":
        values = np.rint(np.clip(np.nan_to_num(values.astype(np.float64)), 0, 1) * 65535).astype(np.uint16)
    elif values.dtype == bool:
        values = values.astype(np.uint8) * np.uint8(255)
    else:
        values = full_range(values, page.bitspersample)
    if page.photometric == _WHITE_IS_ZERO:
        values[..., 0] = np.iinfo(values.dtype).max - values[..., 0]
    if page.extrasamples and page.extrasamples[0] == _PREMULTIPLIED:
        values = _unassociate_alpha(values)
    return values


def _unassociate_alpha(values: NDArray[Any]) -> NDArray[Any]:
    """Colours that were multiplied by the transparency, taken back."""
    maximum = np.iinfo(values.dtype).max
    alpha = values[..., -1:].astype(np.float64)
    colours = np.minimum(values[..., :-1] * (maximum / np.maximum(alpha, 1)), maximum)
    return np.concatenate((np.rint(colours).astype(values.dtype), values[..., -1:]), axis=-1)


def _from_lab(values: NDArray[Any], page: Any) -> NDArray[Any]:
    """CIE L*a*b* (TIFF 6.0, section 23; ICC's, TIFF Technical Note 4) to sRGB of 16 bits."""
    if page.bitspersample not in (8, 16) or values.shape[2] != 3:
        raise NotDecodableError("its L*a*b* has an unusual depth")
    wide = page.bitspersample == 16
    lightness = values[..., :1].astype(np.float32) * (100 / (65535 if wide else 255))
    if page.photometric == _ICC_LAB:
        colour = values[..., 1:].astype(np.float32) / (256 if wide else 1) - 128
    else:
        colour = values[..., 1:].view(np.int16 if wide else np.int8).astype(np.float32) / (256 if wide else 1)
    lab = np.ascontiguousarray(np.concatenate((lightness, colour), axis=-1))
    height, width = lab.shape[:2]
    image = pyvips.Image.new_from_memory(lab.data, width, height, 3, "float").copy(interpretation="lab")
    samples = image.colourspace("rgb16").cast("ushort")
    return np.ndarray(buffer=samples.write_to_memory(), dtype=np.uint16, shape=(height, width, 3))


def _block(page: Any, tag: int) -> bytes | None:
    tag_entry = page.tags.get(tag)
    if tag_entry is None:
        return None
    value = tag_entry.value
    return bytes(value) if isinstance(value, bytes | bytearray) else str(value).encode()


def _turn(page: Any) -> int:
    tag_entry = page.tags.get(_ORIENTATION)
    return int(tag_entry.value) if tag_entry is not None and int(tag_entry.value) in range(1, 9) else 1


def _density(page: Any) -> float | None:
    stated, unit = page.tags.get(_X_RESOLUTION), page.tags.get(_RESOLUTION_UNIT)
    unit_number = _INCH if unit is None else int(unit.value)
    if stated is None or unit_number not in (_INCH, _CENTIMETRE):
        return None
    above, below = stated.value
    return read_density(above / below * (2.54 if unit_number == _CENTIMETRE else 1)) if below else None


def _name(number: Any) -> str:
    return str(getattr(number, "name", number)).replace("_", " ").lower()
