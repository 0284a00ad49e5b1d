"""Pictures that people upload: checked by what they hold, scaled to what letters show, in a form that every mail program shows."""

import io
import warnings
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from PIL import Image, ImageOps, UnidentifiedImageError

from uvarovite.core.values.sentences import CodedFault

LARGEST_BYTES = 15 << 20
# A letter is 600 pixels wide; screens show two points for each.
WIDEST = 1_200
# As a camera takes them; beyond it memory is what it is about.
_MOST_PIXELS = 80_000_000
# What is read; mail programs show JPEG, PNG and GIF, and the others are made one of them.
_READ = ("JPEG", "PNG", "GIF", "WEBP", "BMP", "TIFF")
_LARGEST_GIF = 2 << 20


PICTURE_FAULTS: Mapping[str, str] = {
    "too_large": "The picture has {size} MB; at most {most} MB are taken. Take a smaller one, and try again.",
    "no_picture": "This is no picture that mail programs show. Save it as PNG or JPEG, and try again.",
    "drawing": "This is an SVG drawing, which most mail programs do not show. Save it as PNG, and try again.",
    "many_pixels": "The picture has {pixels} million pixels; at most {most} million are taken.",
    "broken": "The picture is broken: it cannot be read to its end.",
}


class PictureFault(CodedFault):
    """A file that is no picture for a letter. Whose doing: the file's."""

    words: ClassVar[Mapping[str, str]] = PICTURE_FAULTS


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadyPicture:
    """A picture as it is kept: `kind` is jpg, png or gif; sizes in pixels."""

    kind: str
    width: int
    height: int
    content: bytes


def ready_picture(data: bytes) -> ReadyPicture:
    """A picture as it is kept. What a camera wrote about place and time is not. Raises PictureFault."""
    if len(data) > LARGEST_BYTES:
        raise PictureFault("too_large", size=-(-len(data) >> 20), most=LARGEST_BYTES >> 20)
    head = data[:1_000].lstrip().lower()
    if head.startswith((b"<svg", b"<?xml")) or b"<svg" in head:
        raise PictureFault("drawing")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture = Image.open(io.BytesIO(data), formats=_READ)
            width, height = picture.size
            if width * height > _MOST_PIXELS:
                raise PictureFault("many_pixels", pixels=width * height // 1_000_000, most=_MOST_PIXELS // 1_000_000)
            return _ready(picture, data)
    except PictureFault:
        raise
    except UnidentifiedImageError as fault:
        raise PictureFault("no_picture") from fault
    except (
        OSError,
        ValueError,
        SyntaxError,
        EOFError,
        KeyError,
        IndexError,
        TypeError,
        Image.DecompressionBombError,
    ) as fault:
        # What a broken file makes the library raise differs by format.
        raise PictureFault("broken") from fault


def _ready(picture: Image.Image, data: bytes) -> ReadyPicture:
    moves = getattr(picture, "n_frames", 1) > 1
    if picture.format == "GIF" and moves and len(data) <= _LARGEST_GIF and picture.width <= WIDEST:
        picture.load()
        return ReadyPicture(kind="gif", width=picture.width, height=picture.height, content=data)
    shown = ImageOps.exif_transpose(picture)
    clear = shown.mode in ("RGBA", "LA", "PA") or "transparency" in shown.info
    shown = shown.convert("RGBA" if clear else "RGB")
    if shown.width > WIDEST:
        height = max(1, round(shown.height * WIDEST / shown.width))
        shown = shown.resize((WIDEST, height), Image.Resampling.LANCZOS)
    kind = "png" if clear or picture.format in ("PNG", "GIF", "BMP") else "jpg"
    out = io.BytesIO()
    if kind == "png":
        shown.save(out, "PNG", optimize=True)
    else:
        shown.save(out, "JPEG", quality=85, optimize=True, progressive=True)
    return ReadyPicture(kind=kind, width=shown.width, height=shown.height, content=out.getvalue())
