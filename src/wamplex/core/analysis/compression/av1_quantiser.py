"""How coarsely an AVIF file was quantised: ``base_q_idx`` of its first AV1 frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from wamplex.core.intake.decoders.boxes import find_boxes

# Sections are those of the AV1 Bitstream and Decoding Process Specification, version 1.0.0 with Errata 1.
_SEQUENCE_HEADER, _FRAME_HEADER, _FRAME = 1, 3, 6
_KEY_FRAME, _SELECT = 0, 2
_MOST_ITEMS = 64


class _NotFollowedError(Exception):
    """The frame uses something that still pictures do not, and is not followed further."""


@dataclass
class _Sequence:
    """What of the sequence header (5.5) the frame header depends on."""

    reduced: bool = True
    width_bits: int = 0
    height_bits: int = 0
    width: int = 0
    height: int = 0
    frame_id_bits: int = 0
    large_superblocks: bool = False
    screen_content: int = _SELECT
    integer_mv: int = _SELECT
    order_hint_bits: int = 0
    superres: bool = False


def read_av1_quantiser(data: bytes) -> int | None:
    """``base_q_idx``, 0 (lossless) to 255, of an AVIF file's first frame; None where it is not found."""
    for item in _items(data):
        try:
            quantiser = _quantiser_in(item)
        except (_NotFollowedError, IndexError):
            continue
        if quantiser is not None:
            return quantiser
    return None


def _items(data: bytes) -> Iterator[bytes]:
    """The first stretch of each item (ISO/IEC 14496-12, 8.11.3), the main one first."""
    located = next(find_boxes(data, (b"meta", b"iloc")), b"")
    main = next(find_boxes(data, (b"meta", b"pitm")), b"")
    if len(located) < 8 or len(main) < 6:
        return
    main_id = int.from_bytes(main[4:6] if main[0] == 0 else main[4:8], "big")
    yield from (
        data[at : at + size] for number, at, size in sorted(_places(located), key=lambda place: place[0] != main_id)
    )


def _places(located: bytes) -> Iterator[tuple[int, int, int]]:
    version = located[0]
    offset_size, length_size = located[4] >> 4, located[4] & 15
    base_size, index_size = located[5] >> 4, located[5] & 15
    wide = 4 if version >= 2 else 2
    at = 6

    def take(size: int) -> int:
        nonlocal at
        at += size
        return int.from_bytes(located[at - size : at], "big")

    for _ in range(min(take(wide), _MOST_ITEMS)):
        number = take(wide)
        in_file = version == 0 or take(2) & 15 == 0
        take(2)
        base, extents = take(base_size), take(2)
        stretches = []
        for _ in range(min(extents, _MOST_ITEMS)):
            take(index_size if version >= 1 else 0)
            stretches.append((take(offset_size), take(length_size)))
        if in_file and stretches and at <= len(located):
            yield number, base + stretches[0][0], stretches[0][1]


def _quantiser_in(item: bytes) -> int | None:
    """Walk the units (5.3) to the first frame header."""
    sequence: _Sequence | None = None
    at = 0
    while at < len(item):
        kind, extended, sized = (item[at] >> 3) & 15, item[at] & 4, item[at] & 2
        at += 2 if extended else 1
        size = len(item) - at
        if sized:
            size, at = _leb128(item, at)
        unit = _Bits(item[at : at + size])
        if kind == _SEQUENCE_HEADER:
            sequence = _sequence(unit)
        elif kind in (_FRAME_HEADER, _FRAME):
            return None if sequence is None else _frame_quantiser(unit, sequence)
        at += size
    return None


def _sequence(bits: _Bits) -> _Sequence:
    sequence = _Sequence()
    bits.take(4)
    sequence.reduced = bool(bits.take(1))
    if sequence.reduced:
        bits.take(5)
    else:
        _operating_points(bits)
    sequence.width_bits, sequence.height_bits = bits.take(4) + 1, bits.take(4) + 1
    sequence.width, sequence.height = bits.take(sequence.width_bits) + 1, bits.take(sequence.height_bits) + 1
    if not sequence.reduced and bits.take(1):
        delta = bits.take(4) + 2
        sequence.frame_id_bits = bits.take(3) + delta + 1
    sequence.large_superblocks = bool(bits.take(1))
    bits.take(2)
    if not sequence.reduced:
        _tools(bits, sequence)
    sequence.superres = bool(bits.take(1))
    return sequence  # what follows does not matter to the frame header


def _operating_points(bits: _Bits) -> None:
    if bits.take(1):  # timing_info
        raise _NotFollowedError
    delay = bits.take(1)
    for _ in range(bits.take(5) + 1):
        bits.take(12)
        if bits.take(5) > 7:
            bits.take(1)
        if delay and bits.take(1):
            bits.take(4)


def _tools(bits: _Bits, sequence: _Sequence) -> None:
    bits.take(4)
    order_hint = bits.take(1)
    if order_hint:
        bits.take(2)
    sequence.screen_content = _SELECT if bits.take(1) else bits.take(1)
    if sequence.screen_content > 0:
        sequence.integer_mv = _SELECT if bits.take(1) else bits.take(1)
    if order_hint:
        sequence.order_hint_bits = bits.take(3) + 1


def _frame_quantiser(bits: _Bits, sequence: _Sequence) -> int:
    """uncompressed_header (5.9.2) of a shown key frame, up to base_q_idx (5.9.12)."""
    if not sequence.reduced and (bits.take(1) or bits.take(2) != _KEY_FRAME or not bits.take(1)):
        raise _NotFollowedError
    still = bits.take(1)  # disable_cdf_update
    screen = bits.take(1) if sequence.screen_content == _SELECT else sequence.screen_content
    if screen and sequence.integer_mv == _SELECT:
        bits.take(1)
    bits.take(sequence.frame_id_bits)
    other_size = 0 if sequence.reduced else bits.take(1)
    bits.take(sequence.order_hint_bits)
    width, height = sequence.width, sequence.height
    if other_size:
        width, height = bits.take(sequence.width_bits) + 1, bits.take(sequence.height_bits) + 1
    upscaled = width
    if sequence.superres and bits.take(1):
        denominator = bits.take(3) + 9
        width = (upscaled * 8 + denominator // 2) // denominator
    if bits.take(1):
        bits.take(32)
    if screen and upscaled == width:
        bits.take(1)
    if not sequence.reduced and not still:
        bits.take(1)
    _pass_tiles(bits, width, height, 5 if sequence.large_superblocks else 4)
    return bits.take(8)


def _pass_tiles(bits: _Bits, width: int, height: int, shift: int) -> None:
    """tile_info (5.9.15)."""
    columns, rows = ((2 * ((side + 7) >> 3) + (1 << shift) - 1) >> shift for side in (width, height))
    widest, largest = 4096 >> (shift + 2), (4096 * 2304) >> (2 * (shift + 2))
    min_columns = _log2(widest, columns)
    min_tiles = max(min_columns, _log2(largest, rows * columns))
    if not bits.take(1):
        raise _NotFollowedError  # tiles of unlike sizes
    across, max_across = min_columns, _log2(1, min(columns, 64))
    while across < max_across and bits.take(1):
        across += 1
    down, max_down = max(min_tiles - across, 0), _log2(1, min(rows, 64))
    while down < max_down and bits.take(1):
        down += 1
    if across or down:
        bits.take(across + down + 2)


def _log2(block: int, target: int) -> int:
    """tile_log2 (5.9.16): the smallest k with ``block << k`` at least ``target``."""
    k = 0
    while (block << k) < target:
        k += 1
    return k


def _leb128(data: bytes, at: int) -> tuple[int, int]:
    """A number of seven bits a byte (4.10.5), and where it ends."""
    value = 0
    for index in range(8):
        byte = data[at + index]
        value |= (byte & 127) << (7 * index)
        if not byte & 128:
            return value, at + index + 1
    raise _NotFollowedError


class _Bits:
    """Bits from the most significant of each byte on."""

    def __init__(self, data: bytes) -> None:
        head = data[:256]  # a frame header is far shorter
        self._value, self._left = int.from_bytes(head, "big"), 8 * len(head)

    def take(self, count: int) -> int:
        if count > self._left:
            raise _NotFollowedError
        self._left -= count
        return (self._value >> self._left) & ((1 << count) - 1)
