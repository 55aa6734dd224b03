"""Reference pictures as they are kept: of three formats, upright, bounded, and nothing but the picture."""

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, PngImagePlugin

from noble_clay.core.errors import PieceError
from noble_clay.core.formats.pictures import MOST_PIXELS, check_picture, read_picture

SCRIPT = b"<script>alert(1)</script>"


def gradient(width=60, height=40):
    rows, columns = np.mgrid[0:height, 0:width]
    return np.stack([columns * 4, rows * 6, np.full_like(rows, 90)], axis=-1).astype(np.uint8)


def written(image, kind, **options):
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def pixels(data):
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)


@pytest.mark.parametrize(("kind", "ending", "off"), [("PNG", "png", 0), ("JPEG", "jpg", 12), ("WEBP", "webp", 12)])
def test_each_format_is_kept_as_it_looks(kind, ending, off):
    found = read_picture(written(Image.fromarray(gradient()), kind, quality=95))
    assert (found.ending, found.pixels) == (ending, (60, 40))
    assert np.abs(pixels(found.data) - gradient()).mean() <= off
    check_picture(found.data, found.ending, found.pixels)
    with pytest.raises(PieceError, match="not what the piece says"):
        check_picture(found.data, found.ending, (60, 41))


def test_a_photograph_taken_sideways_stands_upright():
    exif = Image.Exif()
    exif[0x0112] = 6  # turned a quarter: its first row is the right edge
    found = read_picture(written(Image.fromarray(gradient()), "JPEG", exif=exif, quality=95))
    assert found.pixels == (40, 60)
    assert np.abs(pixels(found.data) - np.rot90(gradient(), -1)).mean() < 12


def test_nothing_comes_along_but_the_picture():
    said = PngImagePlugin.PngInfo()
    said.add_text("Comment", SCRIPT.decode(), zip=False)
    exif = Image.Exif()
    exif[0x010E] = SCRIPT.decode()
    image = Image.fromarray(gradient())
    for data in (
        written(image, "PNG", pnginfo=said) + SCRIPT,
        written(image, "JPEG", exif=exif, comment=SCRIPT) + SCRIPT,
        written(image, "WEBP", exif=exif, xmp=SCRIPT) + SCRIPT,
    ):
        assert SCRIPT in data and SCRIPT not in read_picture(data).data


def test_of_what_moves_the_first_picture_is_kept():
    frames = [Image.fromarray(np.full((20, 20, 3), v, np.uint8)) for v in (10, 200)]
    found = read_picture(written(frames[0], "WEBP", save_all=True, append_images=frames[1:], lossless=True))
    assert abs(pixels(found.data).mean() - 10) < 3


@pytest.mark.parametrize("mode", ["1", "L", "LA", "P", "RGBA", "CMYK", "I;16"])
def test_every_kind_of_pixel_becomes_plain_red_green_and_blue(mode):
    grey = Image.fromarray(np.full((8, 8), 255 if mode == "1" else 128, np.uint8))
    image = Image.fromarray(np.full((8, 8), 128 * 257, np.uint16)) if mode == "I;16" else grey.convert(mode)
    found = read_picture(written(image, "JPEG" if mode == "CMYK" else "PNG"))
    assert np.abs(pixels(found.data) - (255 if mode == "1" else 128)).max() <= 3
    assert Image.open(io.BytesIO(found.data)).mode == ("RGBA" if mode in ("LA", "RGBA") else "RGB")


def test_a_large_picture_is_made_smaller_and_a_huge_one_is_refused_before_it_is_unpacked():
    found = read_picture(written(Image.new("L", (5000, 1000)), "PNG"))
    assert found.pixels == (4096, 819)
    with pytest.raises(PieceError, match=r"10,000 x 10,000 pixels; at most 50 million"):
        read_picture(claimed(10_000, 10_000))
    assert MOST_PIXELS < 10_000 * 10_000
    with pytest.raises(PieceError, match="too large|at most 50 million"):
        read_picture(claimed(100_000, 100_000))


def claimed(width, height):
    """A PNG that says it is so large, and has nothing to it."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"\0")) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"hello",
        b"<svg xmlns='http://www.w3.org/2000/svg'>" + SCRIPT + b"</svg>",
        b"GIF89a" + bytes(40),
        b"BM" + bytes(60),
        b"%PDF-1.4" + SCRIPT,
        b"\x89PNG\r\n\x1a\n" + SCRIPT,
    ],
)
def test_what_is_no_such_picture_is_refused_in_words(data):
    with pytest.raises(PieceError, match="PNG, JPEG or WebP|cannot be read"):
        read_picture(data)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP"])
def test_a_file_that_is_cut_short_or_damaged_is_refused_or_read_and_never_fails_otherwise(kind):
    whole = written(Image.fromarray(gradient(200, 200)), kind)
    with pytest.raises(PieceError, match="cannot be read|PNG, JPEG or WebP"):
        read_picture(whole[: len(whole) // 2])
    draw = np.random.default_rng(5)
    for _ in range(60):
        damaged = bytearray(whole)
        for at in draw.integers(0, len(whole), 6):
            damaged[at] = draw.integers(0, 256)
        try:
            found = read_picture(bytes(damaged))
        except PieceError as error:
            assert error.problems[0].message
        else:
            check_picture(found.data, found.ending, found.pixels)
