"""Made-up photos of boards with the truth beside them: cans, boxes and what lies between, by seeds.

A board is drawn from straight above as a camera at a distance sees it, then light, glare, shadow, flux, blur, noise and the file's
losses are laid over it. What is found in it can be held against what was drawn.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field

import cv2
import numpy as np

#: Diameter of a can and the heights it comes with, mm.
CANS = {
    5.0: (11,), 6.3: (11,), 8.0: (11.5, 15), 10.0: (12.5, 16, 20), 12.5: (20, 25), 16.0: (25, 31.5), 18.0: (31.5, 35.5), 22.0: (30, 40),
}  # fmt: skip
#: How often each diameter stands on a board.
OFTEN = (5, 8, 6, 5, 4, 3, 1, 1)
#: Board, copper under its lacquer: blue, green, red.
BOARDS = {
    "green": ((52, 102, 36), (74, 134, 56)), "blue": ((120, 62, 28), (150, 92, 50)), "brown": ((74, 118, 158), (58, 96, 130)),
    "dark green": ((38, 62, 24), (56, 88, 40)), "red": ((40, 36, 140), (62, 60, 168)),
}  # fmt: skip
#: Sleeve, and the stripe on it.
SLEEVES = (
    ((52, 50, 52), (215, 218, 220)), ((122, 44, 26), (222, 216, 206)), ((62, 92, 122), (226, 230, 232)), ((38, 64, 40), (206, 214, 200)),
    ((30, 28, 30), (150, 196, 214)), ((92, 52, 92), (220, 214, 222)), ((48, 132, 196), (40, 36, 36)),
)  # fmt: skip
WHITE = (232, 236, 234)
#: Pixels drawn for each that is kept, each way.
FINE = 2


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """One part as it was drawn: its foot in mm from the upper left corner, sizes in mm, degrees clockwise from the right."""

    kind: str
    x: float
    y: float
    ref: str
    diameter: float = 0.0
    tall: float = 0.0
    width: float = 0.0
    height: float = 0.0
    angle: float = 0.0
    stripe: float | None = None
    text: str = ""
    leans: bool = False
    arms: int = 0
    sleeve: int = 0


@dataclass(frozen=True, kw_only=True)
class Rendered:
    """A photo, blue, green and red in bytes, of a board of width × height mm, and what stands on it. distance: of the camera, mm."""

    photo: np.ndarray
    width: float
    height: float
    distance: float
    parts: list[Drawn] = field(default_factory=list)

    @property
    def cans(self) -> list[Drawn]:
        return [part for part in self.parts if part.kind == "can"]


class BoardDrawing:
    """A board being drawn."""

    def __init__(self, seed: int, *, scale: float, size: tuple[int, int] | None = None, colour: str = "") -> None:
        self.dice = random.Random(seed)
        self.width, self.height = self.dice.choice(((180, 120), (160, 110), (200, 130), (150, 120)))
        self.width, self.height = size or (self.width, self.height)
        self.s = scale * FINE
        self.distance = self.dice.choice((300.0, 380.0, 450.0, 600.0))
        ground, copper = self.dice.choice(list(BOARDS.values()))
        ground, copper = BOARDS[colour] if colour else (ground, copper)
        self.ground, self.copper = ground, copper
        self.image = np.empty((round(self.height * self.s), round(self.width * self.s), 3), np.uint8)
        self.image[:] = ground
        self.taken: list[tuple[float, float, float, float]] = []
        self.parts: list[Drawn] = []
        self.light = math.radians(self.dice.uniform(0, 360))

    def pixel(self, x: float, y: float, tall: float = 0.0) -> tuple[float, float, float]:
        """Where a point that stands so high is seen, and how much larger."""
        larger = self.distance / (self.distance - tall)
        cx, cy = self.width / 2, self.height / 2
        return (cx + (x - cx) * larger) * self.s, (cy + (y - cy) * larger) * self.s, larger

    def disc(self, x: float, y: float, radius: float, colour, thickness: int = -1) -> None:
        # OpenCV's circle of radius r is 2r + 1 pixels wide; in sixteenths of a pixel it is as wide as it was asked to be
        place, wide = (round(16 * (x - 0.5)), round(16 * (y - 0.5))), max(16, round(16 * (radius - 0.5)))
        cv2.circle(self.image, place, wide, colour, thickness, cv2.LINE_AA, 4)

    def rect(self, x: float, y: float, width: float, height: float, angle: float, colour) -> None:
        corners = cv2.boxPoints(((x, y), (width, height), angle))
        cv2.fillConvexPoly(self.image, corners.astype(np.int32), colour, cv2.LINE_AA)

    def write(self, words: str, x: float, y: float, tall: float, colour=WHITE) -> None:
        """Words so many mm tall, from x, y mm at their middle."""
        font, size = cv2.FONT_HERSHEY_SIMPLEX, tall * self.s / 21
        (across, down), _ = cv2.getTextSize(words, font, size, 1)
        at = round(x * self.s - across / 2), round(y * self.s + down / 2)
        cv2.putText(self.image, words, at, font, size, colour, max(1, round(size * 2.2)), cv2.LINE_AA)

    def ground_work(self) -> None:
        """Tracks, holes and the corners' screw holes."""
        dice, s = self.dice, self.s
        for _ in range(round(self.width * self.height / 160)):
            x, y = dice.uniform(4, self.width - 4), dice.uniform(4, self.height - 4)
            wide = max(1, round(dice.choice((0.4, 0.6, 1.2, 2.0)) * s))
            for _ in range(dice.choice((1, 2, 3))):
                to = (x + dice.uniform(-30, 30), y) if dice.random() < 0.5 else (x, y + dice.uniform(-30, 30))
                cv2.line(
                    self.image, (round(x * s), round(y * s)), (round(to[0] * s), round(to[1] * s)), self.copper, wide
                )
                x, y = to
        for _ in range(round(self.width * self.height / 130)):
            x, y = dice.uniform(3, self.width - 3) * s, dice.uniform(3, self.height - 3) * s
            self.disc(x, y, 0.75 * s, (170, 184, 190))
            self.disc(x, y, 0.35 * s, (24, 26, 26))
        for x, y in ((5, 5), (self.width - 5, 5), (5, self.height - 5), (self.width - 5, self.height - 5)):
            self.disc(x * s, y * s, 3.0 * s, (150, 176, 186))
            self.disc(x * s, y * s, 1.6 * s, (20, 22, 22))
            self.taken.append((x - 3, y - 3, x + 3, y + 3))

    def room(self, width: float, height: float, gap: float) -> tuple[float, float] | None:
        """A place for something so large."""
        for _ in range(300):
            x = self.dice.uniform(width / 2 + 6, self.width - width / 2 - 6)
            y = self.dice.uniform(height / 2 + 6, self.height - height / 2 - 6)
            box = (x - width / 2 - gap, y - height / 2 - gap, x + width / 2 + gap, y + height / 2 + gap)
            if all(box[2] < a or c < box[0] or box[3] < b or d < box[1] for a, b, c, d in self.taken):
                self.taken.append(box)
                return x, y
        return None

    def reference(self, letter: str, x: float, y: float, ref: str = "") -> str:
        ref = ref or f"{letter}{sum(part.ref[0] == letter for part in self.parts) + 1}"
        self.write(ref, x, y, 1.6)
        return ref

    def box(self) -> None:
        """A chip, a film capacitor, a plug or a part with two leads."""
        dice = self.dice
        what = dice.choice(("chip", "chip", "film", "plug", "axial"))
        width, height = {
            "chip": (dice.choice((10.0, 20.0, 26.0)), 7.0), "film": (dice.choice((13.0, 18.0)), dice.choice((5.0, 7.0))),
            "plug": (dice.choice((10.0, 15.0)), 6.0), "axial": (dice.choice((7.0, 11.0)), dice.choice((2.6, 4.5))),
        }[what]  # fmt: skip
        upright = dice.random() < 0.4
        long = width + (8 if what == "axial" else 0)
        place = self.room(*((height + 3, long + 3) if upright else (long + 3, height + 3)), 1.0)
        if place is None:
            return
        self.body(what, *place, width, height, upright)

    def body(
        self, what: str, x: float, y: float, width: float, height: float, upright: bool, ref: str = "", text: str = ""
    ) -> None:
        """A box where it stands, its longer side upright or not."""
        dice, s = self.dice, self.s
        angle = 90.0 if upright else 0.0
        long = width + (8 if what == "axial" else 0)
        if what == "chip":
            for i in range(round(width / 2.54)):
                for side in (-1, 1):
                    along, off = (i + 0.5) * width / round(width / 2.54) - width / 2, side * (height / 2 + 0.4)
                    px, py = (off, along) if upright else (along, off)
                    self.rect((x + px) * s, (y + py) * s, 0.8 * s, 0.8 * s, 0, (176, 182, 184))
            colour = (44, 42, 44)
        else:
            colour = {
                "film": dice.choice(((60, 60, 190), (60, 190, 210), (150, 110, 60))), "plug": (214, 226, 230),
                "axial": dice.choice(((96, 150, 190), (160, 120, 60), (46, 44, 46))),
            }[what]  # fmt: skip
        if what == "axial":
            self.rect(
                x * s, y * s, (long if not upright else 0.7) * s, (0.7 if not upright else long) * s, 0, (182, 188, 190)
            )
        shown = colour
        self.rect(x * s, y * s, width * s, height * s, angle, shown)
        if what == "plug":
            for i in range(round(width / 2.5)):
                along = (i + 0.5) * width / round(width / 2.5) - width / 2
                px, py = (0, along) if upright else (along, 0)
                self.rect((x + px) * s, (y + py) * s, 0.9 * s, 0.9 * s, 0, (60, 66, 66))
        words = {"chip": "74-08", "film": dice.choice(("104", "47n 250")), "plug": "", "axial": ""}[what]
        words = text or words
        if words and not upright:
            self.write(words, x, y, 1.5, (190, 190, 190))
        letter = {"chip": "U", "film": "C", "plug": "J", "axial": "R"}[what]
        ref = self.reference(letter, x, y + (long if upright else height) / 2 + 1.9, ref)
        self.parts.append(Drawn(kind="box", x=x, y=y, ref=ref, width=width, height=height, angle=angle, text=words))

    def can(self) -> None:
        """An electrolytic, seen from above: its side, its rim with the stripe, its top with the vent, and a shadow."""
        dice = self.dice
        diameter = dice.choices(list(CANS), OFTEN)[0]
        tall = dice.choice(CANS[diameter])
        place = self.room(diameter + 1, diameter + 4.5, 0.8)
        if place is None:
            return
        sleeve = dice.choice(range(len(SLEEVES)))
        self.round(
            place[0],
            place[1] - 1.2,
            diameter,
            tall,
            dice.choice((0.0, 90.0, 180.0, 270.0)),
            sleeve,
            dice.random() < 0.06,
        )

    def round(
        self,
        x: float,
        y: float,
        diameter: float,
        tall: float,
        stripe: float,
        sleeve: int,
        leans: bool = False,
        ref: str = "",
    ) -> None:
        """A can where it stands."""
        dice, s = self.dice, self.s
        dark, pale = SLEEVES[sleeve]
        ref = self.reference("C", x, y + diameter / 2 + 1.7, ref)
        lean = (dice.uniform(-1.4, 1.4), dice.uniform(-1.4, 1.4)) if leans else (0.0, 0.0)
        radius = diameter / 2
        self.shade(x, y, radius, tall)
        side = tuple(int(v * 0.72) for v in dark)
        for step in range(13):
            part = step / 12
            px, py, larger = self.pixel(x + lean[0] * part, y + lean[1] * part, tall * part)
            self.disc(px, py, radius * larger * s, side)
        px, py, larger = self.pixel(x + lean[0], y + lean[1], tall)
        top = radius * larger * s
        self.disc(px, py, top, dark)
        cv2.ellipse(
            self.image,
            (round(px), round(py)),
            (round(top), round(top)),
            0,
            stripe - 34,
            stripe + 34,
            pale,
            -1,
            cv2.LINE_AA,
        )
        inner = top * (0.8 if diameter < 9 else 0.86)
        grey = dice.randint(168, 205)
        self.disc(px, py, inner, (grey + 4, grey, grey - 2))
        arms, turn = dice.choice((2, 3)), dice.uniform(0, math.pi)
        for arm in range(arms if diameter > 5.5 else 0):
            angle = turn + arm * math.pi / arms
            dx, dy = inner * 0.72 * math.cos(angle), inner * 0.72 * math.sin(angle)
            ends = (round(px - dx), round(py - dy)), (round(px + dx), round(py + dy))
            cv2.line(self.image, *ends, (grey - 26, grey - 28, grey - 30), max(1, round(0.18 * s)), cv2.LINE_AA)
        if dice.random() < 0.8:
            gx, gy = px - inner * 0.45 * math.cos(self.light), py - inner * 0.45 * math.sin(self.light)
            self.disc(gx, gy, inner * 0.16, (238, 240, 240))
        self.parts.append(
            Drawn(
                kind="can",
                x=x,
                y=y,
                ref=ref,
                diameter=diameter,
                tall=tall,
                stripe=stripe,
                leans=leans,
                arms=arms if diameter > 5.5 else 0,
                sleeve=sleeve,
            )
        )

    def shade(self, x: float, y: float, radius: float, tall: float) -> None:
        """The shadow on the board."""
        over = self.image.copy()
        for step in range(8):
            far = min(tall, 12) * 0.16 * step / 7
            cv2.circle(
                over, (round((x + far * math.cos(self.light)) * self.s), round((y + far * math.sin(self.light)) * self.s)),
                round(radius * self.s * 1.03), tuple(int(v * 0.45) for v in self.ground), -1, cv2.LINE_AA,
            )  # fmt: skip
        box = self.window(x, y, radius * 2.6)
        self.image[box] = cv2.addWeighted(over[box], 0.75, self.image[box], 0.25, 0)

    def window(self, x: float, y: float, reach: float) -> tuple[slice, slice]:
        s = self.s
        return (
            slice(max(0, round((y - reach) * s)), max(0, round((y + reach) * s))),
            slice(max(0, round((x - reach) * s)), max(0, round((x + reach) * s))),
        )

    def seen(self) -> np.ndarray:
        """The photo of it: flux, uneven light, glare, lens, blur, noise, and what a file loses."""
        dice = self.dice
        photo = cv2.resize(self.image, None, fx=1 / FINE, fy=1 / FINE, interpolation=cv2.INTER_AREA).astype(np.float32)
        down, across = photo.shape[:2]
        ys, xs = np.mgrid[0:down, 0:across].astype(np.float32)
        for _ in range(dice.randint(0, 3)):
            x, y, reach = dice.uniform(0, across), dice.uniform(0, down), dice.uniform(0.03, 0.08) * across
            blot = np.exp(-(((xs - x) / reach) ** 2 + ((ys - y) / (0.7 * reach)) ** 2))[..., None]
            photo = photo * (1 - 0.3 * blot) + np.float32((60, 110, 140)) * 0.3 * blot
        for _ in range(dice.randint(0, 2)):
            x, y, reach = dice.uniform(0, across), dice.uniform(0, down), dice.uniform(0.04, 0.10) * across
            photo += 70 * np.exp(-((xs - x) ** 2 + (ys - y) ** 2) / reach**2)[..., None]
        slope = 1 + dice.uniform(-0.2, 0.2) * (xs / across - 0.5) + dice.uniform(-0.2, 0.2) * (ys / down - 0.5)
        photo *= (slope * dice.uniform(0.8, 1.1))[..., None]
        bend = dice.uniform(-0.006, 0.006)
        u, v = (xs - across / 2) / across, (ys - down / 2) / across
        far = 1 + bend * (u * u + v * v - 0.1) / 0.25
        photo = cv2.remap(
            photo,
            u * far * across + across / 2,
            v * far * across + down / 2,
            cv2.INTER_LINEAR,
            None,
            cv2.BORDER_REPLICATE,
        )
        photo = cv2.GaussianBlur(photo, (0, 0), dice.uniform(0.4, 1.2))
        photo += np.random.default_rng(dice.randrange(1 << 30)).normal(0, dice.uniform(2, 6), photo.shape)
        _, packed = cv2.imencode(
            ".jpg", np.clip(photo, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, dice.randint(72, 92)]
        )
        return cv2.imdecode(packed, cv2.IMREAD_COLOR)


def rendered(seed: int, *, scale: float = 9.0, cans: int = 28, boxes: int = 13) -> Rendered:
    """A board by a seed, at so many pixels to the mm."""
    board = BoardDrawing(seed, scale=scale)
    board.ground_work()
    for _ in range(boxes):
        board.box()
    # what stands further out is hidden by what leans over it from nearer the middle: drawn from the outside inwards
    for _ in range(cans):
        board.can()
    return Rendered(
        photo=board.seen(), width=board.width, height=board.height, distance=board.distance, parts=board.parts
    )
