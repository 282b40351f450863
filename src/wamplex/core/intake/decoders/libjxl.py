"""Headers of JPEG XL through libjxl itself: size, channels and the profile, which is packed into the codestream."""

from __future__ import annotations

import ctypes
import functools
from dataclasses import dataclass
from pathlib import Path
from typing import Any

# Of libjxl's C interface (jxl/decode.h, jxl/codestream_header.h), versions 0.9 to 0.11.
_VERSIONS = range(9_000, 12_000)
_BASIC_INFO, _COLOUR_ENCODING, _SUCCESS, _ERROR, _NEED_MORE = 0x40, 0x100, 0, 1, 2
_OF_DATA = 1  # the profile of the pixels as they are decoded
_INFO_BYTES, _MOST_PROFILE_BYTES = 512, 16_000_000


class _BasicInfo(ctypes.Structure):
    _fields_ = (
        ("have_container", ctypes.c_int),
        ("width", ctypes.c_uint32),
        ("height", ctypes.c_uint32),
        ("bits", ctypes.c_uint32),
        ("exponent_bits", ctypes.c_uint32),
        ("intensity_target", ctypes.c_float),
        ("min_nits", ctypes.c_float),
        ("relative_to_max_display", ctypes.c_int),
        ("linear_below", ctypes.c_float),
        ("uses_original_profile", ctypes.c_int),
        ("have_preview", ctypes.c_int),
        ("have_animation", ctypes.c_int),
        ("orientation", ctypes.c_int),
        ("colour_channels", ctypes.c_uint32),
        ("extra_channels", ctypes.c_uint32),
        ("alpha_bits", ctypes.c_uint32),
        ("rest", ctypes.c_ubyte * _INFO_BYTES),  # more than any version writes
    )


@dataclass(frozen=True)
class JxlHeader:
    """What a JPEG XL says of itself; sides as they are seen, bits a channel."""

    width: int
    height: int
    bits: int
    grey: bool
    alpha: bool
    profile: bytes | None


def read_jxl_header(data: bytes) -> JxlHeader:
    """Read the header.

    Parameters
    ----------
    data : the file

    Raises
    ------
    ValueError : when libjxl cannot read it
    OSError : when there is no libjxl of a version that is known here
    """
    library = _library()
    decoder = library.JxlDecoderCreate(None)
    try:
        library.JxlDecoderSubscribeEvents(decoder, _BASIC_INFO | _COLOUR_ENCODING)
        library.JxlDecoderSetInput(decoder, data, len(data))
        library.JxlDecoderCloseInput(decoder)
        info = _BasicInfo()
        while (status := library.JxlDecoderProcessInput(decoder)) == _BASIC_INFO:
            library.JxlDecoderGetBasicInfo(decoder, ctypes.byref(info))
        if status != _COLOUR_ENCODING:
            raise ValueError("its header is damaged")
        profile = _profile(library, decoder)
    finally:
        library.JxlDecoderDestroy(decoder)
    bits = 16 if info.exponent_bits else int(info.bits)
    grey, alpha = info.colour_channels == 1, info.alpha_bits > 0
    return JxlHeader(int(info.width), int(info.height), bits, bool(grey), bool(alpha), profile)


def _profile(library: Any, decoder: Any) -> bytes | None:
    size = ctypes.c_size_t()
    if library.JxlDecoderGetICCProfileSize(decoder, _OF_DATA, ctypes.byref(size)) != _SUCCESS:
        return None
    if not 0 < size.value <= _MOST_PROFILE_BYTES:
        return None
    buffer = ctypes.create_string_buffer(size.value)
    if library.JxlDecoderGetColorAsICCProfile(decoder, _OF_DATA, buffer, size) != _SUCCESS:
        return None
    return buffer.raw


@functools.cache
def _library() -> Any:
    """The libjxl that imagecodecs decodes with."""
    import imagecodecs._jpegxl  # noqa: F401 - loads it

    loaded = {line.split()[-1] for line in Path("/proc/self/maps").read_text().splitlines() if "/libjxl" in line}
    paths = [path for path in sorted(loaded) if Path(path).name.startswith(("libjxl-", "libjxl.so"))]
    if not paths:
        raise OSError("libjxl is missing")
    library = ctypes.CDLL(paths[0])
    library.JxlDecoderVersion.restype = ctypes.c_uint32
    if library.JxlDecoderVersion() not in _VERSIONS:
        raise OSError("libjxl has a version that is not known")
    pointer, size = ctypes.c_void_p, ctypes.c_size_t
    for name, result, arguments in (
        ("Create", pointer, (pointer,)),
        ("Destroy", None, (pointer,)),
        ("SubscribeEvents", ctypes.c_int, (pointer, ctypes.c_int)),
        ("SetInput", ctypes.c_int, (pointer, ctypes.c_char_p, size)),
        ("CloseInput", None, (pointer,)),
        ("ProcessInput", ctypes.c_int, (pointer,)),
        ("GetBasicInfo", ctypes.c_int, (pointer, pointer)),
        ("GetICCProfileSize", ctypes.c_int, (pointer, ctypes.c_int, pointer)),
        ("GetColorAsICCProfile", ctypes.c_int, (pointer, ctypes.c_int, ctypes.c_char_p, size)),
    ):
        function = getattr(library, f"JxlDecoder{name}")
        function.restype, function.argtypes = result, arguments
    return library
