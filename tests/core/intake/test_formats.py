"""Kinds of picture files: what is read equals what another library wrote, in its depth, upright."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path
from typing import Any

import imagecodecs
import netpbmfile
import numpy as np
import OpenEXR
import pillow_heif
import pytest
import tifffile
from PIL import Image, PngImagePlugin
from skimage import data

from wamplex.core.analysis.compression.file_compression import read_compression
from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture, read_small

TURNED = b"Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0"
_RANDOM = np.random.default_rng(5)


def noise(kind: type, channels: int = 3, most: int | None = None) -> np.ndarray:
    most = np.iinfo(kind).max if most is None else most
    return _RANDOM.integers(0, most + 1, (41, 53, channels)).astype(kind)


def whole(path: Path) -> np.ndarray:
    """Pixels and transparency together, as whole numbers of the depth that was read."""
    picture = read_picture(path)
    header = probe(path)
    assert (header.width, header.height, header.depth) == (picture.width, picture.height, picture.depth)
    assert read_small(path, 20)[0].shape[2] == 3
    planes = picture.pixels if picture.alpha is None else np.dstack((picture.pixels, picture.alpha))
    return np.rint(planes * (65535 if picture.depth == 16 else 255)).astype(int)


def test_jpeg_xl(tmp_path: Path) -> None:
    for pixels in (noise(np.uint8), noise(np.uint8, 1), noise(np.uint8, 4), noise(np.uint16)):
        path = tmp_path / "a.jxl"
        path.write_bytes(imagecodecs.jpegxl_encode(pixels.squeeze(), lossless=True))
        assert np.array_equal(whole(path), pixels)
    assert read_picture(path).profile is not None  # libjxl always says what the numbers mean


def test_a_jpeg_xl_that_says_how_it_is_turned_is_upright(tmp_path: Path) -> None:
    """Its codestream begins with the sizes and, where all is usual, one bit for that (ISO/IEC 18181-1, D.3)."""
    lying = np.ascontiguousarray(data.astronaut()[60:108, 180:260])
    stream = imagecodecs.jpegxl_encode(lying, level=90, lossless=False)
    bits = [byte >> place & 1 for byte in stream[2:] for place in range(8)]
    first = 14  # a small height, no usual ratio, a small width
    assert (bits[0], bits[6:9], bits[first : first + 2]) == (1, [0, 0, 0], [1, 1])
    # Not all is usual: extra fields, of which the orientation is 6; then what was usual before.
    turned = [0, 1, 1, 0, 1, 0, 0, 0, 0, 0, 0, 1, 0, 0, 1, 1, 1, 0, 0, 1]
    header = [*bits[:first], *turned]
    header += [0] * (-len(header) % 8) + bits[-(-(first + 2) // 8) * 8 :]
    body = bytes(sum(header[at + place] << place for place in range(8)) for at in range(0, len(header), 8))
    path = tmp_path / "a.jxl"
    path.write_bytes(stream[:2] + body)
    assert (probe(path).width, probe(path).height) == (48, 80)
    assert np.abs(whole(path).astype(int) - np.rot90(lying, -1)).mean() < 6


@pytest.mark.parametrize("packed", [False, True])
def test_exif_of_jpeg_xl_is_read_from_its_box(packed: bool, tmp_path: Path) -> None:
    """ISO/IEC 18181-2: boxes around the codestream, of which those of metadata may be packed."""
    exif = Image.Exif()
    exif[0x013B] = "A. Photographer"
    content = bytes(4) + exif.tobytes().removeprefix(b"Exif\0\0")
    box = (b"brob", b"Exif" + imagecodecs.brotli_encode(content)) if packed else (b"Exif", content)
    codestream = imagecodecs.jpegxl_encode(noise(np.uint8), lossless=True)
    boxes = [(b"JXL ", b"\r\n\x87\n"), (b"ftyp", b"jxl \0\0\0\0jxl "), box, (b"jxlc", codestream)]
    path = tmp_path / "a.jxl"
    path.write_bytes(b"".join((8 + len(body)).to_bytes(4, "big") + kind + body for kind, body in boxes))
    assert b"A. Photographer" in (read_picture(path).metadata.exif or b"")


def test_jpeg_2000(tmp_path: Path) -> None:
    for pixels in (noise(np.uint8), noise(np.uint8, 1), noise(np.uint8, 4), noise(np.uint16)):
        path = tmp_path / "a.jp2"
        path.write_bytes(imagecodecs.jpeg2k_encode(pixels.squeeze(), level=0, reversible=True, codecformat="jp2"))
        assert np.array_equal(whole(path), pixels)
    twelve = noise(np.uint16, most=4095)
    path.write_bytes(imagecodecs.jpeg2k_encode(twelve, bitspersample=12, level=0, reversible=True))
    assert np.array_equal(whole(path), np.rint(twelve * (65535 / 4095)))


def test_avif_in_8_and_10_bits(tmp_path: Path) -> None:
    path = tmp_path / "a.avif"
    eight, ten = noise(np.uint8), noise(np.uint16, most=1023)
    path.write_bytes(imagecodecs.avif_encode(eight, level=100))
    assert np.abs(whole(path) - eight).max() <= 3  # even its lossless mode rounds colours
    path.write_bytes(imagecodecs.avif_encode(ten, level=100, bitspersample=10))
    assert np.abs(whole(path) - ten * (65535 / 1023)).max() <= 3 * 65535 / 1023
    profile = make_profile(SRGB)
    Image.fromarray(eight).save(path, quality=90, exif=TURNED, icc_profile=profile)
    result = read_picture(path)
    assert (result.width, result.height, result.profile) == (41, 53, profile)


@pytest.mark.parametrize("quality", [20, 40, 62, 80, 93])
def test_the_quality_of_an_avif_stands_in_its_frame_header(quality: int, tmp_path: Path) -> None:
    """AV1 specification 5.9.12; quality as libavif counts it."""
    path = tmp_path / "a.avif"
    Image.fromarray(noise(np.uint8)).resize((600, 500)).save(path, quality=quality, speed=9)
    compression = read_compression(path.read_bytes())
    assert compression.codec == "avif"
    assert compression.quality == pytest.approx(quality, abs=2)


def test_heic_in_8_and_10_bits(tmp_path: Path) -> None:
    path = tmp_path / "a.heic"
    smooth = np.linspace(0, 1, 64 * 48 * 3).reshape(48, 64, 3)
    ten = np.rint(smooth * 1023).astype(np.uint16)
    file = pillow_heif.from_bytes("RGB;16", (64, 48), (ten << 6).tobytes())
    file.save(path, quality=100, chroma=444, exif=TURNED)
    picture = read_picture(path)
    assert (picture.width, picture.height, picture.depth) == (48, 64, 16)
    assert np.abs(picture.pixels - np.rot90(smooth, -1)).max() < 0.02
    pillow_heif.from_bytes("RGB", (64, 48), np.rint(smooth * 255).astype(np.uint8).tobytes()).save(path)
    assert read_picture(path).depth == 8


def test_the_first_picture_of_a_gif_is_used_and_said_so(tmp_path: Path) -> None:
    first, second = (Image.fromarray(noise(np.uint8)).quantize(64) for _ in range(2))
    first.save(tmp_path / "a.gif", save_all=True, append_images=[second], loop=0)
    assert np.array_equal(whole(tmp_path / "a.gif"), np.asarray(first.convert("RGB")))
    assert "2 pictures" in read_picture(tmp_path / "a.gif").notices[0]


def test_bmp(tmp_path: Path) -> None:
    pixels = noise(np.uint8)
    Image.fromarray(pixels).save(tmp_path / "a.bmp", dpi=(300, 300))
    assert np.array_equal(whole(tmp_path / "a.bmp"), pixels)
    assert probe(tmp_path / "a.bmp").density_ppi == 300


def test_ppm_pgm_and_pam(tmp_path: Path) -> None:
    for name, pixels in (
        ("a.ppm", noise(np.uint16)),
        ("a.pgm", noise(np.uint8, 1)),
        ("a.pam", noise(np.uint8, 4)),
    ):
        netpbmfile.imwrite(tmp_path / name, pixels.squeeze())
        assert np.array_equal(whole(tmp_path / name), pixels)
    (tmp_path / "b.ppm").write_bytes(b"P3 2 1 100  0 50 100  100 25 0\n")
    assert np.array_equal(whole(tmp_path / "b.ppm")[0], [[0, 128, 255], [255, 64, 0]])
    (tmp_path / "c.pbm").write_bytes(b"P1 2 1\n1 0\n")
    assert np.array_equal(whole(tmp_path / "c.pbm")[0, :, 0], [0, 255])


def test_openexr_is_given_the_tone_of_srgb_and_says_so(tmp_path: Path) -> None:
    """IEC 61966-2-1: 0.214 of the light is half of the tone, 0.0031308 where the curve turns straight."""
    light = np.zeros((2, 3, 3), np.float32)
    light[0] = 0.21404114
    light[1] = [[0.0031308, 1.0, 7.0]] * 3
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": light}) as file:
        file.write(str(tmp_path / "a.exr"))
    picture = read_picture(tmp_path / "a.exr")
    assert picture.depth == 16
    assert picture.pixels[0] == pytest.approx(0.5, abs=1e-4)
    assert picture.pixels[1, 0] == pytest.approx([0.04045, 1, 1], abs=1e-4)
    assert "linear light" in picture.notices[0]


@pytest.mark.parametrize(
    ("pixels", "options"),
    [
        (
            noise(np.uint8, 2),
            {"photometric": "minisblack", "planarconfig": "separate", "extrasamples": ["unassalpha"]},
        ),
        (
            noise(np.uint16, 2),
            {"photometric": "minisblack", "planarconfig": "separate", "extrasamples": ["unassalpha"]},
        ),
        (
            noise(np.uint8, 4),
            {"photometric": "rgb", "planarconfig": "separate", "extrasamples": ["unassalpha"]},
        ),
        (noise(np.uint8, 3), {"photometric": "rgb", "planarconfig": "separate", "tile": (32, 32)}),
        (noise(np.uint16, 3), {"photometric": "rgb", "compression": "lzma"}),
        (
            noise(np.uint8, 3),
            {"photometric": "rgb", "compression": "jpegxl", "compressionargs": {"lossless": True}},
        ),
        (noise(np.uint8, 1), {"photometric": "miniswhite", "compression": "lzma"}),
    ],
    ids=[
        "grey+alpha",
        "grey+alpha 16",
        "rgb+alpha",
        "tiled planes",
        "lzma",
        "jpeg xl inside",
        "white is zero",
    ],
)
def test_unusual_tiffs(pixels: np.ndarray, options: dict[str, Any], tmp_path: Path) -> None:
    path = tmp_path / "a.tif"
    stored = np.moveaxis(pixels, -1, 0) if options.get("planarconfig") == "separate" else pixels.squeeze()
    tifffile.imwrite(path, stored, **options)
    expected = 255 - pixels.astype(int) if options["photometric"] == "miniswhite" else pixels
    assert np.array_equal(whole(path), expected)


def test_tiffs_of_other_depths(tmp_path: Path) -> None:
    path = tmp_path / "a.tif"
    for kind, most in ((np.uint32, 2**32 - 1), (np.float32, None)):
        values = _RANDOM.random((20, 30, 3))
        stored = (values * most).astype(kind) if most else (values * 1.5 - 0.25).astype(kind)
        tifffile.imwrite(path, stored, photometric="rgb")
        expected = values if most else np.clip(values * 1.5 - 0.25, 0, 1)
        picture = read_picture(path)
        assert (picture.depth, bool(picture.notices)) == (16, most is None)
        assert np.abs(picture.pixels - expected).max() < 1 / 65535
    twelve = noise(np.uint16, 1, most=4095)
    packed = np.unpackbits(twelve.squeeze().astype(">u2").view(np.uint8).reshape(41, 53, 2), axis=2)[..., 4:]
    _write_12_bit(path, np.packbits(packed.reshape(41, -1), axis=1).tobytes())
    assert np.array_equal(whole(path), np.rint(twelve * (65535 / 4095)))


def _write_12_bit(path: Path, strip: bytes) -> None:
    """A TIFF 6.0 by hand, since writers do not pack 12 bits."""
    tags = (
        (256, 53),
        (257, 41),
        (258, 12),
        (259, 1),
        (262, 1),
        (273, 122),
        (277, 1),
        (278, 41),
        (279, len(strip)),
    )
    rows = b"".join(struct.pack("<HHII", tag, 4, 1, value) for tag, value in tags)
    head = struct.pack("<2sHIH", b"II", 42, 8, len(tags)) + rows + struct.pack("<I", 0)
    path.write_bytes(head.ljust(122, b"\0") + strip)


def test_lab_in_a_tiff_becomes_srgb(tmp_path: Path) -> None:
    """TIFF 6.0, section 23. sRGB's red is L* 54.29, a* 80.81, b* 69.89 under D50 (Lindbloom, from memory)."""
    lab = np.zeros((4, 5, 3), np.uint8)
    lab[...] = [round(54.29 * 2.55), 81, 70]
    tifffile.imwrite(tmp_path / "a.tif", lab, photometric="cielab")
    red = read_picture(tmp_path / "a.tif").pixels[0, 0]
    assert red == pytest.approx([1.0, 0.0, 0.0], abs=0.06)


def test_a_kind_of_tiff_that_is_no_picture_is_named(tmp_path: Path) -> None:
    tifffile.imwrite(tmp_path / "a.tif", np.zeros((8, 8), np.complex64), photometric="minisblack")
    with pytest.raises(UnreadablePictureError, match="complex numbers"):
        read_picture(tmp_path / "a.tif")


def _png(*extra: tuple[bytes, bytes]) -> bytes:
    """A PNG of 53 x 41 pixels with further chunks between its pixels and its end."""
    body = io.BytesIO()
    Image.fromarray(noise(np.uint8)).save(body, "PNG")
    head, end = body.getvalue()[:-12], body.getvalue()[-12:]
    for kind, content in extra:
        check = struct.pack(">I", zlib.crc32(kind + content))
        head += struct.pack(">I", len(content)) + kind + content + check
    return head + end


def test_an_orientation_after_the_pixels_or_in_a_text_or_in_xmp_alone_is_heeded(tmp_path: Path) -> None:
    """PNG, third edition, 11.3.3.6 (eXIf may come anywhere); XMP part 2, tiff:Orientation."""
    path = tmp_path / "a.png"
    path.write_bytes(_png((b"eXIf", TURNED[6:])))
    assert read_picture(path).width == probe(path).width == 41
    text = b"\nexif\n%8d\n" % len(TURNED) + TURNED.hex().encode()
    path.write_bytes(_png((b"zTXt", b"Raw profile type exif\0\0" + zlib.compress(text))))
    assert read_picture(path).width == 41
    info = PngImagePlugin.PngInfo()
    xmp = '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:Description tiff:Orientation="6"/></x:xmpmeta>'
    info.add_itxt("XML:com.adobe.xmp", xmp)
    Image.fromarray(noise(np.uint8)).save(path, pnginfo=info)
    assert read_picture(path).width == 41
    Image.fromarray(noise(np.uint8)).save(path.with_suffix(".jpg"), xmp=xmp.encode())
    assert read_picture(path.with_suffix(".jpg")).width == 41


def test_stray_bytes_in_a_jpeg_are_told_but_nothing_is_missing(tmp_path: Path) -> None:
    """ITU-T T.81, B.1.1.2: decoders look for the next marker."""
    body = io.BytesIO()
    Image.fromarray(noise(np.uint8)).save(body, "JPEG")
    path = tmp_path / "a.jpg"
    first = 4 + int.from_bytes(body.getvalue()[4:6], "big")
    path.write_bytes(body.getvalue()[:first] + b"\x01\x02\x03" + body.getvalue()[first:])
    picture = read_picture(path)
    assert "the picture is complete" in picture.notices[0]
    body.seek(0)
    assert np.abs(picture.pixels * 255 - np.asarray(Image.open(body), float)).max() <= 1
