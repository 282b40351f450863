"""Makes the ICC profiles that files are delivered in, from the standards' own numbers.

A minimal ICC.1:2001-04 (version 2) matrix profile: primaries adapted to D50 by the Bradford
transform (ICC.1:2010, annex E), one tone curve for the three channels.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from wamplex.core.base.array_types import Matrix

# What a file may be delivered in: the profile of its source, or one of those made here.
ProfileChoice = Literal["source", "srgb", "adobe-rgb", "display-p3"]

_D65 = (0.3127, 0.3290)
# The profile connection space's white, ICC.1:2010 section 6.3.4.3.
_D50_XYZ = np.array([0.9642, 1.0, 0.8249])
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


@dataclass(frozen=True)
class Space:
    """An RGB space: chromaticities of its primaries and its white, and its tone curve."""

    text: str
    red: tuple[float, float]
    green: tuple[float, float]
    blue: tuple[float, float]
    gamma: float | None  # None: the piecewise curve of IEC 61966-2-1
    white: tuple[float, float] = _D65


# IEC 61966-2-1:1999.
SRGB = Space("sRGB IEC61966-2.1", (0.64, 0.33), (0.30, 0.60), (0.15, 0.06), None)
# Adobe RGB (1998) Color Image Encoding, version 2005-05, sections 4.3.1.1 and 4.3.1.2.
ADOBE_RGB = Space("Compatible with Adobe RGB (1998)", (0.64, 0.33), (0.21, 0.71), (0.15, 0.06), 2 + 51 / 256)
# Primaries of SMPTE RP 431-2, white D65, curve of IEC 61966-2-1.
DISPLAY_P3 = Space("Display P3", (0.680, 0.320), (0.265, 0.690), (0.150, 0.060), None)
# Primaries of ITU-R BT.2020-2 (2015), table 3; the curve is that of sRGB, which every program knows.
BT2020 = Space("BT.2020 primaries, sRGB curve", (0.708, 0.292), (0.170, 0.797), (0.131, 0.046), None)
# ISO 22028-2:2013, ROMM RGB: white D50, gamma 1.8; without its straight foot, which lies below 0.002.
ROMM = Space(
    "ROMM RGB primaries, gamma 1.8",
    (0.7347, 0.2653),
    (0.1596, 0.8404),
    (0.0366, 0.0001),
    1.8,
    (0.3457, 0.3585),
)


def srgb_to_linear(value: Matrix) -> Matrix:
    """Decode the sRGB curve (IEC 61966-2-1).

    Parameters
    ----------
    value : tone, 0..1

    Returns
    -------
    Linear light, 0..1, same shape.
    """
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(value: Matrix) -> Matrix:
    """Encode with the sRGB curve (IEC 61966-2-1).

    Parameters
    ----------
    value : tone, 0..1

    Returns
    -------
    Tones, 0..1, same shape.
    """
    return np.where(value <= 0.0031308, value * 12.92, 1.055 * np.maximum(value, 0) ** (1 / 2.4) - 0.055)


def adapted_primaries(space: Space) -> Matrix:
    """Primaries of a colour space, adapted to D50.

    Parameters
    ----------
    space : a colour space

    Returns
    -------
    (3, 3) float64; its columns are the XYZ of red, green and blue.
    """
    return adaptation(xyz_from_chromaticity(space.white), _D50_XYZ) @ primaries(space)


def primaries(space: Space) -> Matrix:
    """(3, 3) matrix whose columns are the XYZ of red, green and blue under the space's own white.

    Parameters
    ----------
    space : a colour space

    Returns
    -------
    (3, 3) float64; its columns are the XYZ of red, green and blue.
    """
    unscaled = np.column_stack([xyz_from_chromaticity(p) for p in (space.red, space.green, space.blue)])
    result: Matrix = unscaled * np.linalg.solve(unscaled, xyz_from_chromaticity(space.white))
    return result


def adaptation(white: Matrix, other: Matrix) -> Matrix:
    """Bradford chromatic adaptation from one white point to another (ICC.1:2010, annex E).

    Parameters
    ----------
    white : XYZ of the white point that is adapted from
    other : XYZ of the white point that is adapted to

    Returns
    -------
    (3, 3) float64.
    """
    gains = np.diag((_BRADFORD @ other) / (_BRADFORD @ white))
    result: Matrix = np.linalg.inv(_BRADFORD) @ gains @ _BRADFORD
    return result


@lru_cache
def make_profile(space: Space) -> bytes:
    """Write an ICC profile of an RGB space.

    Parameters
    ----------
    space : primaries, white point and tone curve

    Returns
    -------
    ICC profile.
    """
    matrix = adapted_primaries(space)
    curve = _curve(space)
    tags = [
        (b"desc", _description(space.text)),
        (b"cprt", b"text\0\0\0\0No copyright, use freely\0"),
        (b"wtpt", _xyz_tag(_D50_XYZ)),
        *[(name, _xyz_tag(matrix[:, i])) for i, name in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))],
        *[(name, curve) for name in (b"rTRC", b"gTRC", b"bTRC")],
    ]
    return _assemble(tags, b"RGB ")


@lru_cache
def read_primaries(profile: bytes) -> Matrix | None:
    """Primaries of a matrix profile.

    Parameters
    ----------
    profile : ICC profile

    Returns
    -------
    (3, 3) float64, D50 XYZ of red, green and blue in its columns; None for other profiles.
    """
    columns = {}
    try:
        for start in range(132, 132 + 12 * min(struct.unpack(">I", profile[128:132])[0], 100), 12):
            name, offset, _ = struct.unpack(">4sII", profile[start : start + 12])
            if name in (b"rXYZ", b"gXYZ", b"bXYZ"):
                columns[name] = struct.unpack(">3i", profile[offset + 8 : offset + 20])
    except struct.error:
        return None
    if len(columns) != 3 or b"A2B0" in profile[132:1332]:
        return None
    matrix = np.array([columns[name] for name in (b"rXYZ", b"gXYZ", b"bXYZ")], np.float64).T / 65536
    return matrix if abs(np.linalg.det(matrix)) > 1e-6 else None


def linear_profile(matrix: Matrix) -> bytes:
    """Write an ICC profile of linear light.

    Parameters
    ----------
    matrix : (3, 3), from RGB to XYZ under D50

    Returns
    -------
    ICC profile.
    """
    curve = struct.pack(">4s4xI", b"curv", 0)
    tags = [
        (b"desc", _description("Linear light")),
        (b"cprt", b"text\0\0\0\0No copyright, use freely\0"),
        (b"wtpt", _xyz_tag(_D50_XYZ)),
        *[(name, _xyz_tag(matrix[:, i])) for i, name in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))],
        *[(name, curve) for name in (b"rTRC", b"gTRC", b"bTRC")],
    ]
    return _assemble(tags, b"RGB ")


@lru_cache
def make_grey_profile(space: Space) -> bytes:
    """Write an ICC profile of grey with the tone curve of ``space``.

    Parameters
    ----------
    space : a colour space

    Returns
    -------
    ICC profile.
    """
    tags = [
        (b"desc", _description(f"Grey, tone curve of {space.text}")),
        (b"cprt", b"text\0\0\0\0No copyright, use freely\0"),
        (b"wtpt", _xyz_tag(_D50_XYZ)),
        (b"kTRC", _curve(space)),
    ]
    return _assemble(tags, b"GRAY")


def profile_name(profile: bytes | None) -> str:
    """Name of a profile, for the user.

    Parameters
    ----------
    profile : ICC profile; None without one

    Returns
    -------
    Its own description, or what its absence means.
    """
    if profile is None:
        return "no profile (read as sRGB)"
    try:
        for start in range(132, 132 + 12 * min(struct.unpack(">I", profile[128:132])[0], 100), 12):
            name, offset, length = struct.unpack(">4sII", profile[start : start + 12])
            if name == b"desc":
                return _read_description(profile[offset : offset + length])
    except struct.error:
        return "damaged profile (read as sRGB)"
    return "unnamed profile"


def _read_description(tag: bytes) -> str:
    if tag[:4] == b"mluc" and len(tag) >= 28:
        length, offset = struct.unpack(">II", tag[20:28])
        return tag[offset : offset + length].decode("utf-16-be", "replace").strip("\0 ")
    length = struct.unpack(">I", tag[8:12])[0] if len(tag) >= 12 else 0
    return tag[12 : 12 + length].decode("ascii", "replace").strip("\0 ") or "unnamed profile"


def xyz_from_chromaticity(chromaticity: tuple[float, float]) -> Matrix:
    """XYZ of a chromaticity with Y = 1 (CIE 15:2004).

    Parameters
    ----------
    chromaticity : x and y of CIE 1931

    Returns
    -------
    (3,) float64.
    """
    x, y = chromaticity
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _curve(space: Space) -> bytes:
    if space.gamma is not None:
        return struct.pack(">4s4xIH", b"curv", 1, round(space.gamma * 256))
    table = np.round(srgb_to_linear(np.linspace(0, 1, 1024)) * 65535).astype(">u2")
    return struct.pack(">4s4xI", b"curv", len(table)) + table.tobytes()


def _xyz_tag(xyz: Matrix) -> bytes:
    return struct.pack(">4s4x3i", b"XYZ ", *(round(float(v) * 65536) for v in xyz))


def _description(name: str) -> bytes:
    text = name.encode("ascii") + b"\0"
    return struct.pack(">4s4xI", b"desc", len(text)) + text + bytes(4 + 4 + 2 + 1 + 67)


def _assemble(tags: list[tuple[bytes, bytes]], space: bytes) -> bytes:
    offset = 128 + 4 + 12 * len(tags)
    table, body, placed = b"", b"", dict[bytes, int]()
    for name, data in tags:
        if data not in placed:
            placed[data] = offset + len(body)
            body += data + bytes(-len(data) % 4)
        table += struct.pack(">4sII", name, placed[data], len(data))
    length = offset + len(body)
    header = struct.pack(">I4xI4s4s4s", length, 0x02400000, b"mntr", space, b"XYZ ")
    header += struct.pack(">6H4s", 2026, 1, 1, 0, 0, 0, b"acsp") + bytes(28)
    header += struct.pack(">3i", *(round(float(v) * 65536) for v in _D50_XYZ))
    return header.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + body
