"""Reading what is printed, with the extra `idlebench[read]`: its models lie in the package, nothing is fetched."""

from __future__ import annotations

import cv2
import numpy as np

from idlebench.core.photo.printed import Text

#: Photos are read in squares of about this many pixels each way, which overlap by so many: memory stays small.
SQUARE, OVERLAP = 1200, 160
#: Pixels to the mm at which letters of one millimetre and a half are read well.
PER_MM = 10.0


def can_read() -> bool:
    """Whether the extra is installed."""
    from importlib.util import find_spec

    return find_spec("rapidocr") is not None and find_spec("onnxruntime") is not None


def texts(photo: np.ndarray, per_mm: float) -> list[Text]:
    """Every text in a photo (blue, green, red bytes, so many pixels to the mm); none without the extra."""
    if not can_read():
        return []
    from rapidocr import RapidOCR

    engine = RapidOCR(params={"Global.log_level": "error"})
    larger = PER_MM / per_mm
    image = cv2.resize(photo, None, fx=larger, fy=larger, interpolation=cv2.INTER_CUBIC) if larger > 1.02 else photo
    scale = per_mm * max(larger, 1.0) if larger > 1.02 else per_mm
    found: list[Text] = []
    down, across = image.shape[:2]
    for top in _begins(down):
        for left in _begins(across):
            piece = image[top : top + SQUARE, left : left + SQUARE]
            read = engine(piece, use_cls=False)
            for box, words, share in zip(
                read.boxes if read.boxes is not None else (), read.txts or (), read.scores or (), strict=True
            ):
                x, y = (float(box[:, i].mean()) for i in (0, 1))
                tall = float(min(np.linalg.norm(box[0] - box[3]), np.linalg.norm(box[0] - box[1])))
                place = (x + left) / scale, (y + top) / scale
                if not any(abs(place[0] - t.x) < 0.8 and abs(place[1] - t.y) < 0.8 for t in found):
                    found.append(Text(words=words, x=place[0], y=place[1], tall=tall / scale, share=float(share)))
    return found


def _begins(length: int) -> list[int]:
    """Where the squares begin along a side."""
    if length <= SQUARE * 1.25:
        return [0]
    count = -(-(length - OVERLAP) // (SQUARE - OVERLAP))
    return [round(i * (length - SQUARE) / (count - 1)) for i in range(count)]
