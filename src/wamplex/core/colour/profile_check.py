"""Whether an embedded ICC profile can be used: many files carry damaged ones.

libvips silently takes pixels as sRGB where a profile is damaged; so what it must have is looked at here.
"""

from __future__ import annotations

import struct

# ICC.1:2022: 7.2 header of 128 bytes, "acsp" at 36, colour space at 16; 7.3 tag table.
_HEADER_BYTES = 132
_SIGNATURE = (slice(36, 40), b"acsp")
_SPACE_AT, _SPACES = slice(16, 20), {1: b"GRAY", 3: b"RGB ", 4: b"CMYK"}
_MOST_TAGS = 200
# 8.3 to 8.6: tables, or primaries with a curve each, or a curve of grey.
_ENOUGH = {
    1: ({b"kTRC"}, {b"A2B0"}),
    4: ({b"A2B0", b"B2A0"},),
    3: ({b"rXYZ", b"gXYZ", b"bXYZ", b"rTRC", b"gTRC", b"bTRC"}, {b"A2B0"}),
}
_LEAST_TAG_BYTES = 12
_FIRST_WORDS = {
    b"XYZ": (b"XYZ ",),
    b"TRC": (b"curv", b"para"),
    b"2B0": (b"mft1", b"mft2", b"mAB "),
    b"2A0": (b"mft1", b"mft2", b"mBA "),
}
DAMAGED_NOTICE = "Its colour profile is damaged. The colours are read as sRGB."


def profile_fits(profile: bytes, channels: int) -> bool:
    """Whether a profile speaks of pixels with so many colour channels, 1, 3 or 4."""
    return len(profile) >= _HEADER_BYTES and profile[_SPACE_AT] == _SPACES[channels]


def is_usable(profile: bytes, channels: int) -> bool:
    """Whether a profile is whole, and has what it takes to convert pixels."""
    if not profile_fits(profile, channels) or profile[_SIGNATURE[0]] != _SIGNATURE[1]:
        return False
    (size,) = struct.unpack_from(">I", profile, 0)
    (count,) = struct.unpack_from(">I", profile, 128)
    if size > len(profile) or count > _MOST_TAGS or _HEADER_BYTES + 12 * count > len(profile):
        return False
    sound = set()
    for number in range(count):
        name, offset, length = struct.unpack_from(">4sII", profile, _HEADER_BYTES + 12 * number)
        if length >= _LEAST_TAG_BYTES and offset + length <= len(profile):
            first_sentence = _FIRST_WORDS.get(name[1:])
            if first_sentence is None or profile[offset : offset + 4] in first_sentence:
                sound.add(name)
    return any(needed <= sound for needed in _ENOUGH[channels])
