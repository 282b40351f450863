"""The quality a WebP file was saved with, from the quantisers in its frame header."""

from __future__ import annotations

import numpy as np

_SEGMENTS, _PROBABILITIES, _FILTER_DELTAS = 4, 3, 8
_LARGEST_QUANTISER = 127


class _Bits:
    """The boolean decoder of RFC 6386, section 7.3, for bits that are as likely 0 as 1."""

    def __init__(self, data: bytes) -> None:
        self._data = data
        self._at = 2
        self._value = int.from_bytes(data[:2].ljust(2, b"\0"), "big")
        self._range = 255
        self._shifted = 0

    def number(self, bits: int) -> int:
        """An unsigned number, its highest bit first."""
        value = 0
        for _ in range(bits):
            value = value << 1 | self._bit()
        return value

    def signed(self, bits: int) -> int:
        """A magnitude and its sign."""
        magnitude = self.number(bits)
        return -magnitude if self._bit() else magnitude

    def optional(self, bits: int) -> int:
        """A signed number after a flag that says whether it is there; else 0."""
        return self.signed(bits) if self._bit() else 0

    def _bit(self) -> int:
        split = 1 + ((self._range - 1) >> 1)
        large = split << 8
        bit = int(self._value >= large)
        if bit:
            self._range -= split
            self._value -= large
        else:
            self._range = split
        while self._range < 128:
            self._value <<= 1
            self._range <<= 1
            self._shifted += 1
            if self._shifted == 8:
                self._shifted = 0
                self._value |= self._data[self._at] if self._at < len(self._data) else 0
                self._at += 1
        return bit


def read_webp_quality(data: bytes) -> int | None:
    """Quality 0 to 100 on the scale of the usual encoder; None for lossless and other files.

    Parameters
    ----------
    data : the file's beginning, at least up to the first bytes of its picture
    """
    frame = _lossy_frame(data)
    if frame is None:
        return None
    # Segments that hide errors best are given coarser steps; the finest three lie around the wanted one.
    return quality_from_quantiser(float(np.mean(sorted(_quantisers(frame))[:3])))


def quality_from_quantiser(quantiser: float) -> int:
    """The quality that makes the usual encoder choose a quantiser index of 0 to 127.

    Its rule, from memory: the index is 127 (1 - v) with v³ = 2/3 q up to q = 0.75 and 2q - 1 beyond, for a
    quality of 100 q. Tests compare with what libwebp writes.
    """
    cube = (1 - quantiser / _LARGEST_QUANTISER) ** 3
    fraction = cube * 1.5 if cube < 0.5 else (cube + 1) / 2
    return round(100 * min(max(fraction, 0.0), 1.0))


def _lossy_frame(data: bytes) -> bytes | None:
    """The first partition of the key frame, after its fixed header (RFC 6386, section 9.1)."""
    if data[:4] != b"RIFF" or data[8:12] != b"WEBP":
        return None
    at = 12
    while at + 8 <= len(data):
        name, size = data[at : at + 4], int.from_bytes(data[at + 4 : at + 8], "little")
        if name == b"VP8 ":
            frame = data[at + 8 : at + 8 + size]
            is_key = len(frame) > 10 and not frame[0] & 1 and frame[3:6] == b"\x9d\x01\x2a"
            return frame[10:] if is_key else None
        at += 8 + size + size % 2
    return None


def _quantisers(frame: bytes) -> list[int]:
    """Quantiser index of each segment, or the one of the frame (RFC 6386, sections 9.3 and 9.6)."""
    bits = _Bits(frame)
    bits.number(2)  # colour space, clamping
    absolute, own = False, [0] * _SEGMENTS
    segmented = bool(bits.number(1))
    if segmented:
        has_map, has_values = bits.number(1), bits.number(1)
        if has_values:
            absolute = bool(bits.number(1))
            own = [bits.optional(7) for _ in range(_SEGMENTS)]
            for _ in range(_SEGMENTS):
                bits.optional(6)  # loop filter
        if has_map:
            for _ in range(_PROBABILITIES):
                if bits.number(1):
                    bits.number(8)
    bits.number(10)  # filter type, level and sharpness
    if bits.number(1) and bits.number(1):
        for _ in range(_FILTER_DELTAS):
            bits.optional(6)
    bits.number(2)  # partitions
    base = bits.number(7)
    if not segmented:
        return [base]
    quantisers = own if absolute else [base + change for change in own]
    return [min(max(q, 0), _LARGEST_QUANTISER) for q in quantisers]
