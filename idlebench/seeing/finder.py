"""From a photo file to what was found in it: the whole run, told as it goes."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from idlebench.core.photo.boxes import Outline, box_of, free_of
from idlebench.core.photo.bridges import Pad, joined
from idlebench.core.photo.printed import with_texts
from idlebench.core.photo.proposals import Found, cans
from idlebench.core.photo.quality import Quality, blur_of, checked_size, good_enough
from idlebench.core.photo.rings import sampled
from idlebench.core.refusal import BadInput

from .circles import circles, lab
from .texts import can_read, texts

#: Pixels to the mm that are looked at: more tell nothing more of a part of some millimetres.
PER_MM = 10.0
#: Most pixels of a photo that is opened.
MOST_PIXELS = 60_000_000
#: The least share of being a part with which a thing is proposed.
PROPOSED = 0.5
#: A body's outline is looked for at this many pixels to the mm; what is narrower than this, mm, is print or a track.
BODY_PER_MM, NARROW = 6.0, 1.3


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What was found: the parts, the camera's distance it was reckoned with (mm) and whether that is known, and whether print was read."""

    parts: tuple[Found, ...]
    distance: float
    known: bool
    read: bool


def find(
    path: Path,
    width: float,
    height: float,
    *,
    distance: float | None = None,
    tell: Callable[[str], object] = lambda words: None,
) -> Seen:
    """Find the parts in a squared-up photo of a board of width × height mm.

    Args:
        path: of the photo, squared up edge to edge.
        width: of the board, mm.
        height: of the board, mm.
        distance: of the camera from the board, mm, where it is known.
        tell: called with what is being done, in words.

    Returns:
        What was found.

    Raises:
        BadInput: no photo, or one in which nothing can be found; it says what to do.
    """
    tell("Opening the photo")
    photo, scale = _checked(path, width, height)
    tell("Looking for round cans")
    found, far, known = cans(circles(photo, scale), scale, (width, height), distance)
    found = [can for can in found if can.share >= PROPOSED]
    tell("Looking for boxes")
    parts = found + [box for box in free_of(_boxes(photo, scale, found), found) if box.share >= PROPOSED]
    read = can_read()
    if read:
        tell("Reading what is printed")
        parts = with_texts(parts, texts(photo, scale))
    return Seen(parts=tuple(sorted(parts, key=lambda part: -part.share)), distance=far, known=known, read=read)


def bridges(
    path: Path,
    width: float,
    height: float,
    pairs: Sequence[tuple[Pad, Pad]],
    *,
    tell: Callable[[str], object] = lambda words: None,
) -> list[tuple[Pad, Pad]]:
    """Of some pairs of joints those that solder seems to join, in a squared-up photo of the solder side.

    Args:
        path: of the photo, squared up edge to edge.
        width: of the board, mm.
        height: of the board, mm.
        pairs: joints that stand near one another, mm as the side is seen.
        tell: called with what is being done, in words.

    Returns:
        The pairs to look at.

    Raises:
        BadInput: no photo, or one in which nothing can be found; it says what to do.
    """
    tell("Opening the photo of the solder side")
    photo, scale = _checked(path, width, height)
    tell("Looking for solder between near joints")
    return joined(lab(photo), scale, pairs)


def _checked(path: Path, width: float, height: float) -> tuple[np.ndarray, float]:
    """A photo that something can be found in, and its pixels to the mm: made smaller where it has more than are looked at."""
    photo = _opened(path)
    per_mm = checked_size(photo.shape[1], photo.shape[0], width, height)
    scale = min(PER_MM, max(per_mm))
    size = round(width * scale), round(height * scale)
    if size != (photo.shape[1], photo.shape[0]):
        smaller = size[0] < photo.shape[1]
        photo = cv2.resize(photo, size, interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)
    good_enough(_quality(photo, per_mm, scale))
    return photo, scale


def _opened(path: Path) -> np.ndarray:
    """A photo's pixels, upright."""
    data = path.read_bytes()
    if not data:
        raise BadInput(f"{path.name}, an empty file", "a photo", field="photo")
    try:
        photo = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    except cv2.error:
        photo = None
    if photo is None:
        raise BadInput(f"{path.name[:60]}", "a photo as JPEG or PNG that can be read to its end", field="photo")
    if photo.shape[0] * photo.shape[1] > MOST_PIXELS:
        raise BadInput(
            f"{photo.shape[0] * photo.shape[1] / 1e6:.0f} megapixels",
            f"at most {MOST_PIXELS / 1e6:.0f}",
            "Save it smaller.",
            field="photo",
        )
    return photo


def _quality(photo: np.ndarray, per_mm: tuple[float, float], scale: float) -> Quality:
    """What a photo is like, at so many pixels to the mm."""
    grey = cv2.cvtColor(cv2.medianBlur(photo, 3), cv2.COLOR_BGR2GRAY)
    across, down = cv2.Sobel(grey, cv2.CV_32F, 1, 0, scale=1 / 8), cv2.Sobel(grey, cv2.CV_32F, 0, 1, scale=1 / 8)
    slope = float(np.quantile(cv2.magnitude(across, down)[::2, ::2], 0.998))
    low, high = np.quantile(grey[::2, ::2], (0.01, 0.99))
    light = cv2.cvtColor(photo[::4, ::4].astype(np.float32) / 255, cv2.COLOR_BGR2LAB)[..., 0]
    return Quality(
        across=photo.shape[1],
        down=photo.shape[0],
        per_mm=per_mm,
        blurred=blur_of(slope, float(high - low)) / scale,
        lightness=float(np.median(light)),
        white=float((photo[::4, ::4].min(axis=2) >= 252).mean()),
    )


def _boxes(photo: np.ndarray, scale: float, found: list[Found]) -> list[Found]:
    """Bodies that are no cans: what has another colour than the board, without what is narrow, and without the cans."""
    smaller = min(1.0, BODY_PER_MM / scale)
    body = scale * smaller
    image = lab(cv2.resize(photo, None, fx=smaller, fy=smaller, interpolation=cv2.INTER_AREA))
    away = np.linalg.norm(image - _ground(image), axis=2)
    step, _ = cv2.threshold(np.clip(away * 2, 0, 255).astype(np.uint8), 0, 255, cv2.THRESH_OTSU)
    boxes: list[Found] = []
    for share in (1.0, 0.7):
        mask = (away * 2 > step * share).astype(np.uint8) * 255
        for can in found:
            # the side between the top and the foot belongs to it
            for part in np.linspace(0, 1, 5):
                x, y = (can.x + (can.top[0] - can.x) * part) * body, (can.y + (can.top[1] - can.y) * part) * body
                cv2.circle(mask, (round(x), round(y)), round(0.52 * (can.seen or 0.0) * body) + 1, 0, -1)
        wide = max(3, round(NARROW * body) | 1)
        mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((wide, wide), np.uint8))
        outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        for outline in outlines:
            (x, y), (w, h), angle = cv2.minAreaRect(outline)
            filled = cv2.contourArea(outline) + cv2.arcLength(outline, True) / 2
            hull = cv2.convexHull(outline)
            box = box_of(
                Outline(
                    x=(x + 0.5) / body,
                    y=(y + 0.5) / body,
                    width=(w + 1) / body,
                    height=(h + 1) / body,
                    angle=angle,
                    area=filled / body**2,
                    hull=(cv2.contourArea(hull) + cv2.arcLength(hull, True) / 2) / body**2,
                )
            )
            if box is not None and not any(abs(box.x - b.x) + abs(box.y - b.y) < (b.height or 0.0) for b in boxes):
                boxes.append(replace(box, colour=_colour(image, box, body)))
    return boxes


def _colour(image: np.ndarray, box: Found, scale: float) -> tuple[float, ...]:
    """A body's own colour: the median of its middle."""
    along, off = np.meshgrid(np.linspace(-0.35, 0.35, 15), np.linspace(-0.35, 0.35, 9))
    along, off, turn = along * (box.width or 0.0), off * (box.height or 0.0), math.radians(box.angle)
    x = box.x + along * math.cos(turn) - off * math.sin(turn)
    y = box.y + along * math.sin(turn) + off * math.cos(turn)
    return tuple(np.median(sampled(image, x * scale, y * scale).reshape(-1, 3), axis=0).tolist())


def _ground(image: np.ndarray) -> np.ndarray:
    """The board's own colour everywhere: the median of a wide neighbourhood, of a picture made small."""
    small = cv2.resize(image, None, fx=0.2, fy=0.2, interpolation=cv2.INTER_AREA)
    wide = min(255, int(min(small.shape[:2]) * 0.45) | 1)
    levels = np.clip(small * (2.55, 1, 1) + (0, 128, 128), 0, 255).astype(np.uint8)
    middle = cv2.merge([cv2.medianBlur(np.ascontiguousarray(levels[..., i]), wide) for i in range(3)])
    back = (middle.astype(np.float32) - (0, 128, 128)) / (2.55, 1, 1)
    return cv2.resize(back.astype(np.float32), (image.shape[1], image.shape[0]), interpolation=cv2.INTER_LINEAR)
