"""Reference pictures: PNG, JPEG and WebP, read by Pillow and written anew, so that nothing but the picture is kept."""

from __future__ import annotations

import hashlib
import io
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.beside import MOST_PIXELS_A_SIDE, Ending

if TYPE_CHECKING:
    from PIL.Image import Image

PNG = b"\x89PNG\r\n\x1a\n"
"""What every PNG begins with."""

MOST_PIXELS = 50_000_000
"""Of a file that is brought in: what it takes unpacked, before it is made smaller, is four bytes each."""

ENDINGS: dict[str, Ending] = {"PNG": "png", "JPEG": "jpg", "WEBP": "webp"}
"""By Pillow's names of the formats."""

WRITTEN_AS = {ending: name for name, ending in ENDINGS.items()}
MEDIA: dict[Ending, str] = {"png": "image/png", "jpg": "image/jpeg", "webp": "image/webp"}


@dataclass(frozen=True)
class PictureFile:
    """A picture as it is kept: its file, and what is said of that in a piece."""

    data: bytes
    ending: Ending
    pixels: tuple[int, int]

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def read_picture(data: bytes) -> PictureFile:
    """A picture as it is to be kept: upright, of at most `MOST_PIXELS_A_SIDE` each way, its first frame only.

    What else the file carries (a script, a place, a second image) does not come along. Raises PieceError for a file
    that is no such picture, is cut short, or is larger than `MOST_PIXELS`.
    """
    from PIL import ImageOps

    with _opened(data) as opened:
        if opened.width * opened.height > MOST_PIXELS:
            raise PieceError(Problem(_too_many(opened.width, opened.height)))
        ending = _ending(opened)
        # A JPEG is unpacked to about the size that is kept, no larger.
        opened.draft(None, (MOST_PIXELS_A_SIDE, MOST_PIXELS_A_SIDE))
        image = _plain(ImageOps.exif_transpose(opened), ending)
        image.thumbnail((MOST_PIXELS_A_SIDE, MOST_PIXELS_A_SIDE))
        out = io.BytesIO()
        image.save(out, WRITTEN_AS[ending], quality=90)
    return PictureFile(out.getvalue(), ending, image.size)


def check_picture(data: bytes, ending: Ending, pixels: tuple[int, int]) -> None:
    """Raise PieceError unless a file is the picture that a piece says it is."""
    with _opened(data) as opened:
        found = _ending(opened), opened.size
    if found != (ending, pixels):
        said = f"{found[0]} of {found[1][0]} x {found[1][1]}"
        raise PieceError(Problem(f"the picture is a {said} pixels, which is not what the piece says of it"))


@contextmanager
def _opened(data: bytes) -> Iterator[Image]:
    """The file as Pillow opens it, not unpacked yet. Raises PieceError for whatever goes wrong with it in the block."""
    import PIL.Image

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", PIL.Image.DecompressionBombWarning)  # of what is refused a line later
            with PIL.Image.open(io.BytesIO(data), formats=list(ENDINGS)) as opened:
                yield opened
    except PieceError:
        raise
    except PIL.UnidentifiedImageError:
        raise PieceError(Problem("this is no picture that can be read here: it must be a PNG, JPEG or WebP")) from None
    except PIL.Image.DecompressionBombError as error:
        raise PieceError(Problem(f"the picture is too large: {_said(error)}")) from None
    except Exception as error:  # whatever a broken file makes its decoder say
        raise PieceError(Problem(f"the picture cannot be read: {_said(error)}")) from None


def _ending(opened: Image) -> Ending:
    """A camera's JPEG with a second view in it calls itself otherwise."""
    return ENDINGS.get(str(opened.format), "jpg")


def _plain(image: Image, ending: Ending) -> Image:
    """Eight bits a channel, in red, green and blue; with transparency where the format and the picture have it."""
    clear = ending != "jpg" and (image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info)
    if image.mode.startswith("I;16") or image.mode in ("I", "F"):  # 16 bits of grey
        image = image.convert("I").point(lambda v: v / 256).convert("L")
    plain = image.convert("RGBA" if clear else "RGB")
    plain.info = {}
    return plain


def _too_many(width: int, height: int) -> str:
    return (
        f"the picture has {width:,} x {height:,} pixels; at most {MOST_PIXELS // 1_000_000} million are read: "
        "make it smaller first"
    )


def _said(error: Exception) -> str:
    return " ".join(str(error).split())[:160] or type(error).__name__
