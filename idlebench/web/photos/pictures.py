"""Pictures in and out of files: checked, turned upright, without location, re-encoded; and squared up to a board.

What is kept is a new JPEG made from the pixels alone. Nothing else of a file that somebody sent is ever stored or served.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from idlebench.core.board.square_up import Squared, picture_size
from idlebench.core.refusal import BadInput

#: Formats that are opened at all.
FORMATS = ("JPEG", "PNG", "WEBP")
#: Largest file in bytes; most pixels that are decoded, by format. A JPEG is decoded smaller, the others are decoded whole, and
#: a progressive JPEG is held whole while it is decoded.
MOST_BYTES, MOST_PIXELS = (
    10_000_000,
    {"JPEG": 60_000_000, "progressive": 24_000_000, "PNG": 30_000_000, "WEBP": 20_000_000},
)
#: Longest side kept, and of a thumbnail, pixels.
LONGEST, SMALL = 2600, 420
#: Ends of a JPEG and a PNG, to say what hung behind the picture.
_ENDS = {"JPEG": b"\xff\xd9", "PNG": b"IEND\xaeB`\x82"}
#: Beginnings of other kinds of file, by what they are called.
_OTHERS = (
    (b"%PDF", "a PDF"), (b"PK\x03\x04", "a zip archive"), (b"<svg", "an SVG drawing"), (b"<!DO", "a web page"),
    (b"<htm", "a web page"), (b"MZ", "a program"), (b"\x7fELF", "a program"), (b"GIF8", "a GIF"), (b"II*\x00", "a TIFF"),
    (b"MM\x00*", "a TIFF"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A picture made anew: JPEG bytes of it and of its thumbnail, its size, and what was left out of the file, in words."""

    data: bytes
    small: bytes
    width: int
    height: int
    left_out: tuple[str, ...]


def take_picture(data: bytes, name: str = "") -> Picture:
    """Check a file and make a picture of our own from its pixels.

    Raises:
        BadInput: not a picture, too large, or damaged; it says which.
    """
    shown = name[:40] or "the file"
    if not data:
        raise BadInput(shown, "a photo, and it is empty", "Choose it again.", field="photo")
    if len(data) > MOST_BYTES:
        raise BadInput(
            f"{shown}, {len(data) / 1e6:.0f} MB",
            f"at most {MOST_BYTES / 1e6:.0f} MB",
            "Save it smaller.",
            field="photo",
        )
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        try:
            with Image.open(io.BytesIO(data), formats=FORMATS) as found:
                most = MOST_PIXELS["progressive" if found.info.get("progressive") else found.format or "PNG"]
                if found.width * found.height > most:
                    raise _too_many(shown, found.width, found.height, most)
                return _made(found, data)
        except UnidentifiedImageError:
            kind = next((words for start, words in _OTHERS if data.lstrip()[:8].lower().startswith(start.lower())), "")
            raise BadInput(
                f"{shown}{f', {kind}' if kind else ''}", f"a photo as {', '.join(FORMATS)}", field="photo"
            ) from None
        except (Image.DecompressionBombError, Image.DecompressionBombWarning):
            most = max(MOST_PIXELS.values())
            raise BadInput(shown, f"at most {most / 1e6:.0f} megapixels", "Save it smaller.", field="photo") from None
        except BadInput:
            raise
        except (OSError, SyntaxError, ValueError, IndexError, KeyError, TypeError, EOFError, Warning) as error:
            raise BadInput(
                f"{shown}: {str(error)[:60]}", "a photo that can be read to its end", "Copy it again.", field="photo"
            ) from None


def ours(data: bytes, name: str) -> None:
    """Check that a file is a picture as this program makes them: pixels alone, whole, no larger than it keeps.

    Raises:
        BadInput: it is another file, or something hangs on it.
    """
    shown = f"photo {name[:40]}"
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        try:
            with Image.open(io.BytesIO(data), formats=("JPEG",)) as found:
                extra = set(found.info) - {"jfif", "jfif_version", "jfif_unit", "jfif_density", "dpi"}
                if max(found.size) > LONGEST or extra or found.getexif() or _behind("JPEG", data):
                    raise BadInput(shown, "a photo as Idle Bench keeps them", "Nothing was imported.", field="bundle")
                found.load()
        except BadInput:
            raise
        except (
            OSError,
            SyntaxError,
            ValueError,
            IndexError,
            KeyError,
            TypeError,
            EOFError,
            Warning,
            Image.DecompressionBombError,
        ) as error:
            raise BadInput(
                f"{shown}: {str(error)[:60]}",
                "a photo that can be read to its end",
                "Nothing was imported.",
                field="bundle",
            ) from None


def _too_many(shown: str, width: int, height: int, most: int) -> BadInput:
    return BadInput(
        f"{shown}, {width} × {height}, {width * height / 1e6:.0f} megapixels",
        f"at most {most / 1e6:.0f} megapixels in a file of this kind",
        "Save it smaller.",
        field="photo",
    )


def _made(found: Image.Image, data: bytes) -> Picture:
    exif = found.getexif()
    left_out = ["its location"] if exif.get_ifd(0x8825) else []
    behind = _behind(found.format or "", data)
    if behind:
        left_out.append(f"{behind} bytes behind the picture")
    found.draft("RGB", (LONGEST, LONGEST))
    if found.mode == "P":
        found = found.convert("RGBA" if "transparency" in found.info else "RGB")
    # made small first: turning and blending copy the picture, and a copy of all of it may be a hundred megabytes
    found.thumbnail((LONGEST, LONGEST))
    if exif.get(0x0112, 1) != 1:
        found.getexif()[0x0112] = exif[0x0112]
    upright = ImageOps.exif_transpose(found)
    if upright.mode in ("RGBA", "LA", "P"):
        clear = upright.convert("RGBA")
        upright = Image.new("RGB", clear.size, "white")
        upright.paste(clear, mask=clear.getchannel("A"))
    picture = upright.convert("RGB")
    if min(picture.size) < 8:
        raise BadInput(f"{picture.width} × {picture.height} pixels", "a photo", field="photo")
    picture.thumbnail((LONGEST, LONGEST))
    small = picture.copy()
    small.thumbnail((SMALL, SMALL))
    return Picture(
        data=jpeg(picture), small=jpeg(small, 80), width=picture.width, height=picture.height, left_out=tuple(left_out)
    )


def _behind(kind: str, data: bytes) -> int:
    """How many bytes hang behind a picture's own end."""
    end = _ENDS.get(kind)
    at = data.rfind(end) if end else -1
    return len(data) - at - len(end) if end and at >= 0 else 0


def jpeg(picture: Image.Image, quality: int = 88) -> bytes:
    """A picture as JPEG bytes, pixels only: comments and profiles of the file it came from are not carried over."""
    out, bare = io.BytesIO(), Image.new("RGB", picture.size)
    bare.paste(picture)
    bare.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue()


def laid_flat(data: bytes, squared: Squared, width: float, height: float) -> bytes:
    """The photo as seen from straight above a board of width × height mm, for laying under its drawing."""
    across, down, scale = picture_size(width, height)
    with Image.open(io.BytesIO(data), formats=("JPEG",)) as photo:
        flat = photo.transform(
            (across, down),
            Image.Transform.PERSPECTIVE,
            squared.scaled(scale),
            Image.Resampling.BICUBIC,
            fillcolor=(120, 120, 120),
        )
    return jpeg(flat, 82)
