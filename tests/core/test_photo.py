"""Finding parts in a photo: sizes by distance, circles, boxes, print, and whole photos whose truth is known."""

from __future__ import annotations

import json
import math
import sys
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest

from idlebench.cli import main
from idlebench.core.board.parts import Fitted
from idlebench.core.photo.bevels import bevels
from idlebench.core.photo.boxes import Outline, box_of
from idlebench.core.photo.bridges import Pad, joined, near_pairs, pads_of
from idlebench.core.photo.can_sizes import HEIGHTS, SIZES, asked_distance, distance_of, foot_of, larger, size_of
from idlebench.core.photo.likeness import same_top, turned
from idlebench.core.photo.listing import alike, from_photo, in_rows, listed_at, named, offered_line, room_of
from idlebench.core.photo.printed import Text, reference, with_texts
from idlebench.core.photo.proposals import Found, share_of
from idlebench.core.photo.quality import Quality, checked_size, good_enough
from idlebench.core.photo.rings import look, with_stripe
from idlebench.core.photo.second_look import Stands, second_look
from idlebench.core.refusal import BadInput
from idlebench.seeing.circles import circles, lab
from idlebench.seeing.finder import find

sys.path.append(str(Path(__file__).parents[2] / "tools"))
from photo_boards import solder_side
from photos import rendered


class TestSizes:
    @pytest.mark.parametrize("diameter", SIZES)
    def test_a_scanner_sees_each_size_as_it_is(self, diameter):
        assert size_of(diameter, math.inf).diameter == diameter

    def test_a_top_that_stands_high_looks_larger(self):
        # 16 mm across and 25 mm high at 30 cm looks like 17.5 mm
        assert 16 * larger(25, 300) == pytest.approx(17.45, abs=0.01)
        assert size_of(17.45, 300).diameter == 16
        assert {size_of(17.45, math.inf).diameter, size_of(17.45, math.inf).other} >= {18}

    @pytest.mark.parametrize("distance", (250.0, 300.0, 400.0, 600.0))
    def test_cans_of_known_sizes_tell_the_distance(self, distance):
        tops = [d * larger(HEIGHTS[d][-1], distance) for d in (5.0, 8.0, 10.0, 12.5, 16.0, 18.0, 22.0)]
        found, known = distance_of(tops)
        assert known and found == pytest.approx(distance, rel=0.25)

    def test_nothing_tells_no_distance(self):
        assert distance_of([]) == (math.inf, False)
        assert distance_of([10.0, 16.0, 8.0, 5.0]) == (math.inf, False)

    def test_the_foot_is_nearer_to_the_middle(self):
        top = 90 + 60 * larger(25, 300), 60 - 30 * larger(25, 300)
        assert foot_of(*top, 25, (90, 60), 300) == pytest.approx((150, 30))

    @pytest.mark.parametrize("distance", (0.0, -300.0, 90.0, math.nan))
    def test_a_camera_among_the_parts_is_refused(self, distance):
        with pytest.raises(BadInput):
            asked_distance(distance)


def _drawn(stripe: int | None = 90) -> np.ndarray:
    """L*a*b* of one can of 40 pixels in the middle of a plain board."""
    image = np.full((200, 200, 3), (40, 80, 40), np.uint8)
    cv2.circle(image, (100, 100), 40, (50, 48, 50), -1, cv2.LINE_AA)
    if stripe is not None:
        cv2.ellipse(image, (100, 100), (40, 40), 0, stripe - 33, stripe + 33, (220, 222, 224), -1, cv2.LINE_AA)
    cv2.circle(image, (100, 100), 33, (190, 188, 186), -1, cv2.LINE_AA)
    return lab(image)


class TestRings:
    @pytest.mark.parametrize("stripe", (0, 90, 180, 270, 45))
    def test_the_rim_is_the_can_and_the_stripe_stands_on_it(self, stripe):
        image = _drawn(stripe)
        ring = look(image, 101, 99, 34)
        assert ring is not None
        assert (ring.x, ring.y, ring.radius) == pytest.approx((100, 100, 40), abs=1)
        found = with_stripe(image, ring).stripe
        assert abs((found - stripe + 180) % 360 - 180) <= 8

    def test_without_a_stripe_none_is_told(self):
        image = _drawn(None)
        ring = look(image, 100, 100, 40)
        assert ring is not None and with_stripe(image, ring).stripe is None

    def test_a_plain_board_and_a_screw_hole_are_no_cans(self):
        assert look(np.full((200, 200, 3), 40.0, np.float32), 100, 100, 30) is None
        land = np.full((200, 200, 3), (40, 80, 40), np.uint8)
        cv2.circle(land, (100, 100), 40, (180, 190, 195), -1, cv2.LINE_AA)
        cv2.circle(land, (100, 100), 22, (10, 10, 10), -1, cv2.LINE_AA)
        assert look(lab(land), 100, 100, 40) is None

    def test_at_the_edge_of_a_photo_nothing_fails(self):
        for x, y in ((0, 0), (199, 199), (-5, 100)):
            look(_drawn(), x, y, 40)


def _top(arms: int, turn: float = 0.0) -> tuple[float, ...]:
    """The picture of a drawn can's top whose vent has so many arms, turned by so many degrees."""
    image = np.full((200, 200, 3), (60, 110, 50), np.uint8)
    cv2.circle(image, (100, 100), 50, (190, 190, 188), -1, cv2.LINE_AA)
    for arm in range(arms):
        angle = math.radians(turn + 180 * arm / arms)
        dx, dy = round(34 * math.cos(angle)), round(34 * math.sin(angle))
        cv2.line(image, (100 - dx, 100 - dy), (100 + dx, 100 + dy), (150, 150, 148), 3, cv2.LINE_AA)
    return turned(lab(image), 100, 100, 50)


class TestLikeness:
    @pytest.mark.parametrize("arms", (2, 3))
    @pytest.mark.parametrize("turn", (0.0, 17.0, 33.0, 71.0))
    def test_a_vent_is_the_same_however_it_is_turned(self, arms, turn):
        assert same_top(_top(arms), _top(arms, turn))

    @pytest.mark.parametrize("turn", (0.0, 17.0, 45.0))
    def test_other_vents_and_none_are_others(self, turn):
        assert not same_top(_top(2), _top(3, turn))
        assert not same_top(_top(0), _top(3, turn))
        assert same_top(_top(0), _top(0)) and same_top((), _top(3, turn))


class TestBridges:
    def test_most_bridges_are_seen_and_few_that_are_none(self):
        drawn = told = 0
        false: list[frozenset[str]] = []
        for side in (solder_side(7), solder_side(8)):
            pads, truth = [Pad(*joint) for joint in side.joints], {frozenset(pair) for pair in side.bridges}
            pairs = near_pairs(pads, {pad.ref for pad in pads})
            found = {frozenset((a.words, b.words)) for a, b in joined(lab(side.photo), 9.0, pairs)}
            drawn, told = drawn + len(truth), told + len(truth & found)
            false += found - truth
        assert drawn == 6 and told >= 5 and len(false) <= 2

    def test_only_near_joints_that_were_worked_on_are_asked_for(self):
        pads = [
            Pad("C1", "plus", 10, 10),
            Pad("C1", "minus", 12, 10),
            Pad("C2", "plus", 12, 13),
            Pad("C3", "plus", 60, 60),
        ]
        told = [(a.words, b.words) for a, b in near_pairs(pads, {"C1"})]
        assert told == [("C1 plus", "C1 minus"), ("C1 minus", "C2 plus"), ("C1 plus", "C2 plus")]
        assert [(a.words, b.words) for a, b in near_pairs(pads, {"C2"})] == told[1:]
        assert near_pairs(pads, {"C3"}) == []

    @pytest.mark.parametrize(
        ("rail", "plus", "minus"), (("", "", ""), ("+5 V", "+5 V", "0 V"), ("−12 V", "0 V", "−12 V"))
    )
    def test_joints_of_one_net_are_no_bridge(self, rail, plus, minus):
        one, other = (
            Fitted(ref=ref, value=1e-4, x=20 + i, y=20, pitch=5, rail=rail) for i, ref in enumerate(("C1", "C2"))
        )
        pads = pads_of([one, other, replace(one, ref="C3", mounting="can"), replace(one, ref="C4", x=None)], 100)
        assert [(pad.words, pad.net) for pad in pads[:2]] == [("C1 plus", plus), ("C1 minus", minus)]
        assert {pad.ref for pad in pads} == {"C1", "C2"} and pads[0].x == pytest.approx(82.5)
        alike_nets = {a.net for a, b in near_pairs(pads, {"C1"}) if a.net == b.net}
        assert alike_nets <= {""}


def _surface_can(points: float, *, mark: bool = False) -> np.ndarray:
    """A drawn surface can, 72 pixels wide, on its base whose bevels point so many degrees; with a dark mark on the other side."""
    image = np.full((160, 160, 3), (52, 102, 36), np.uint8)
    turn, half, cut = math.radians(points), 37.5, 16
    corners = np.array(
        [
            (-half, -half),
            (half - cut, -half),
            (half, -half + cut),
            (half, half - cut),
            (half - cut, half),
            (-half, half),
        ]
    )
    turned_by = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    cv2.fillPoly(image, [np.round(corners @ turned_by + 80).astype(np.int32)], (40, 40, 42), cv2.LINE_AA)
    cv2.circle(image, (80, 80), 36, (190, 190, 186), -1, cv2.LINE_AA)
    if mark:
        ys, xs = np.mgrid[-80:80, -80:80]
        image[(np.hypot(xs, ys) < 36) & (xs * math.cos(turn) + ys * math.sin(turn) < -18)] = (40, 36, 34)
    return cv2.GaussianBlur(image, (0, 0), 0.8)


class TestBevels:
    @pytest.mark.parametrize("mark", (False, True))
    @pytest.mark.parametrize("points", (0.0, 30.0, 90.0, 180.0, 270.0))
    def test_the_minus_side_lies_across_from_the_bevels(self, points, mark):
        (ring,) = circles(_surface_can(points, mark=mark), 9.0)
        assert ring.stripe == pytest.approx((points + 180) % 360, abs=8) or ring.stripe == pytest.approx(
            (points + 180) % 360 + 360, abs=8
        )

    def test_a_can_without_a_base_has_none(self):
        assert bevels(lab(_drawn(None)), 100, 100, 40) is None
        assert bevels(lab(_drawn(90)), 100, 100, 40) is None


class TestBoxes:
    @pytest.mark.parametrize(
        ("width", "height", "angle", "area", "told"),
        (
            (20, 7, 0, 139, (20, 7, 0)),
            (7, 20, 0, 139, (20, 7, 90)),
            (20, 7, 88, 139, (20, 7, 90)),
            (20, 7, 30, 139, (20, 7, 30)),
            (20, 7, 0, 90, None),
            (2, 1.6, 0, 3.1, None),
            (140, 7, 0, 970, None),
            (40, 2.5, 0, 99, None),
        ),
    )
    def test_what_fills_its_rectangle_is_a_box(self, width, height, angle, area, told):
        box = box_of(Outline(x=10, y=10, width=width, height=height, angle=angle, area=area, hull=area * 1.01))
        assert (box and (box.width, box.height, box.angle)) == told


class TestPrinted:
    CAN = Found(x=20, y=20, kind="can", share=1, diameter=10, seen=10, top=(20, 20))
    OTHER = Found(x=40, y=20, kind="can", share=1, diameter=10, seen=10, top=(40, 20))

    @pytest.mark.parametrize(
        ("words", "ref"),
        (
            ("C13", "C13"),
            ("C 13", "C13"),
            ("CZ0", "C20"),
            ("CO", None),
            ("74-08", None),
            ("", None),
            ("104", None),
            ("C0", None),
        ),
    )
    def test_references(self, words, ref):
        found = reference(words)
        assert (found and found[0]) == ref

    def test_a_reference_goes_to_the_part_beside_it(self):
        texts = [Text(words="C7", x=20, y=27, tall=1.6, share=0.95), Text(words="C8", x=40, y=27, tall=1.6, share=0.95)]
        assert [part.ref for part in with_texts([self.CAN, self.OTHER], texts)] == ["C7", "C8"]

    def test_what_is_unsure_far_or_between_two_is_given_to_none(self):
        for text in (
            Text(words="C7", x=20, y=27, tall=1.6, share=0.5),
            Text(words="C7", x=20, y=34, tall=1.6, share=0.95),
            Text(words="C7", x=30, y=20, tall=1.6, share=0.95),
        ):
            assert [part.ref for part in with_texts([self.CAN, self.OTHER], [text])] == [None, None]

    def test_a_reference_is_given_once(self):
        texts = [Text(words="C7", x=20, y=27, tall=1.6, share=0.9), Text(words="C7", x=40, y=27, tall=1.6, share=0.99)]
        assert [part.ref for part in with_texts([self.CAN, self.OTHER], texts)] == [None, "C7"]

    @pytest.mark.parametrize(
        ("words", "refs"),
        (
            (("U1", "U2", "U3", "U5", "U21"), ["U1", "U2", "U3", "U5", None]),
            (("C1", "C9", "C12", "C101"), ["C1", "C9", "C12", None]),
            (("C1", "C101"), ["C1", "C101"]),
            (("C28", "C4", "C30"), ["C28", "C4", "C30"]),
            (("C28", "C4", "C40"), ["C28", "C4", None]),
            (("C28", "C40"), ["C28", "C4"]),
        ),
    )
    def test_a_number_far_off_the_others_is_not_believed(self, words, refs):
        cans = [replace(self.CAN, x=20 * i, top=(20 * i, 20)) for i in range(len(words))]
        texts = [Text(words=one, x=20 * i, y=27, tall=1.6, share=0.95) for i, one in enumerate(words)]
        assert [part.ref for part in with_texts(cans, texts)] == refs

    def test_a_hole_beside_a_reference_is_no_zero(self):
        texts = [Text(words="C40", x=20, y=27, tall=1.6, share=0.9), Text(words="C8", x=40, y=27, tall=1.6, share=0.9)]
        assert [part.ref for part in with_texts([self.CAN, self.OTHER], texts)] == ["C4", "C8"]

    def test_what_stands_on_a_part_is_its_text(self):
        found = with_texts([self.CAN], [Text(words="100u", x=20, y=19, tall=1, share=0.9)])
        assert found[0].text == "100u" and found[0].ref is None


class TestQuality:
    GOOD = {"across": 1440, "down": 960, "per_mm": (8.0, 8.0), "blurred": 0.1, "lightness": 45.0, "white": 0.01}

    @pytest.mark.parametrize(
        ("fault", "words"),
        (({"lightness": 8.0}, "dark"), ({"white": 0.4}, "glare"), ({"blurred": 0.9}, "blurred")),
    )
    def test_each_fault_is_told_with_what_to_do(self, fault, words):
        with pytest.raises(BadInput) as told:
            good_enough(Quality(**{**self.GOOD, **fault}))
        assert words in str(told.value) and told.value.mend

    def test_a_good_one_is_taken_and_a_coarse_or_turned_one_is_not(self):
        good_enough(Quality(**self.GOOD))
        for size in ((700, 466), (960, 1440), (1440, 700)):
            with pytest.raises(BadInput):
                checked_size(*size, 180, 120)


@pytest.fixture(scope="module")
def boards(tmp_path_factory):
    """Two made-up boards as files, and what was found in them."""
    folder = tmp_path_factory.mktemp("boards")
    found = []
    for seed in (1001, 1002):
        board, path = rendered(seed), folder / f"{seed}.jpg"
        cv2.imwrite(str(path), board.photo)
        found.append((board, find(path, board.width, board.height), path))
    return found


class TestWholePhotos:
    def test_cans_are_found_with_size_and_stripe(self, boards):
        drawn = found = false = sized = striped = told = 0
        for board, seen, _ in boards:
            cans = [part for part in seen.parts if part.kind == "can"]
            for one in board.cans:
                drawn += 1
                near = [can for can in cans if math.hypot(can.x - one.x, can.y - one.y) < max(2, 0.3 * one.diameter)]
                if near:
                    cans.remove(near[0])
                    found += 1
                    sized += near[0].diameter == one.diameter
                    if near[0].stripe is not None:
                        told += 1
                        striped += abs((near[0].stripe - one.stripe + 180) % 360 - 180) < 45
            false += len(cans)
        assert found >= 0.95 * drawn and false <= 0.05 * found
        assert sized >= 0.9 * found and told >= 0.85 * found and striped >= 0.95 * told

    def test_boxes_are_found_upright_or_lying(self, boards):
        drawn = [(board, seen, part) for board, seen, _ in boards for part in board.parts if part.kind == "box"]
        found = [
            near
            for _, seen, part in drawn
            for near in seen.parts
            if near.kind == "box" and math.hypot(near.x - part.x, near.y - part.y) < 2 and near.angle == part.angle
        ]
        assert len(found) >= 0.65 * len(drawn)

    def test_a_real_photograph_of_coins_on_a_ground_that_changes(self):
        from skimage.data import coins

        grey = coins()
        rings = circles(cv2.cvtColor(grey, cv2.COLOR_GRAY2BGR), 8.0)
        # columns of six coins in four rows, as they lie
        rows = [sum(50 * row < ring.y - 25 + 8 * row <= 50 * row + 90 for ring in rings) for row in range(4)]
        assert 22 <= len(rings) <= 26 and min(rows) >= 5

    @pytest.mark.parametrize("name", ("brick", "camera", "moon", "page", "text"))
    def test_real_photographs_without_a_can_show_none(self, name):
        from skimage import data

        photo = getattr(data, name)()
        assert [ring for ring in circles(cv2.cvtColor(photo, cv2.COLOR_GRAY2BGR), 8.0) if share_of(ring) >= 0.5] == []


class TestCommand:
    def test_it_prints_the_keys_that_others_rely_on(self, boards, capsys):
        board, _, path = boards[0]
        size = f"{board.width}x{board.height}"
        assert main(["find-parts", "--photo", str(path), "--mm", size, "--json"]) == 0
        said = capsys.readouterr()
        parts = json.loads(said.out)["parts"]
        assert not said.err and len(parts) > 20
        for part in parts:
            size_keys = {"diameter"} if part["kind"] == "can" else {"width", "height", "angle"}
            assert set(part) == {"x", "y", "kind", "stripe", "ref", "text", "share"} | size_keys
            assert 0 <= part["x"] <= board.width and 0 <= part["y"] <= board.height and 0 <= part["share"] <= 1

    @pytest.mark.parametrize("size", ("", "180", "180x", "0x0", "-180x120", "180x120x3", "9999x1", "nan x 1"))
    def test_a_size_that_is_none_is_one_clear_line(self, size, capsys, boards):
        assert main(["find-parts", "--photo", str(boards[0][2]), f"--mm={size}", "--json"]) == 2
        assert json.loads(capsys.readouterr().err)["field"] == "mm"

    def test_a_photo_that_is_none_is_one_clear_line(self, tmp_path, capsys):
        for data in (b"", b"no photo", b"\xff\xd8\xff\xe0"):
            (tmp_path / "board.jpg").write_bytes(data)
            assert main(["find-parts", "--photo", str(tmp_path / "board.jpg"), "--mm", "180x120"]) == 2
        assert main(["find-parts", "--photo", str(tmp_path / "none.jpg"), "--mm", "180x120"]) == 2
        assert "there is no file" in capsys.readouterr().err

    def test_a_coarse_dark_or_blurred_photo_is_told_so(self, boards, tmp_path, capsys):
        board, _, path = boards[0]
        photo = cv2.imread(str(path))
        for spoilt, words in (
            (cv2.resize(photo, None, fx=0.5, fy=0.5), "pixels to the mm"),
            (photo // 8, "dark"),
            (cv2.GaussianBlur(photo, (0, 0), 9), "blurred"),
        ):
            cv2.imwrite(str(tmp_path / "spoilt.jpg"), spoilt)
            asked = ["find-parts", "--photo", str(tmp_path / "spoilt.jpg"), "--mm", f"{board.width}x{board.height}"]
            assert main(asked) == 2
            assert words in capsys.readouterr().err


class TestListing:
    CHIP = Found(x=50, y=50, kind="box", share=1, width=26, height=7, angle=90, top=(50, 50))
    CAN = Found(x=20, y=20, kind="can", share=1, diameter=22, seen=23, top=(20, 20), colour=(20, 0, 0))

    @pytest.mark.parametrize(
        ("found", "place", "listed"),
        (
            (CHIP, (50, 61), True),
            (CHIP, (57, 50), False),
            (CHIP, (51, 51), True),
            (CAN, (26, 24), True),
            (CAN, (32, 20), False),
            (CAN, (None, None), False),
        ),
    )
    def test_what_is_listed_stands_inside_of_what_is_seen(self, found, place, listed):
        assert bool(listed_at(found, [("X1", *place)])) is listed

    def test_alike_is_size_and_sleeve(self):
        assert alike(self.CAN, replace(self.CAN, x=60, seen=23.5))
        assert not alike(self.CAN, replace(self.CAN, diameter=18.0, seen=18.5))
        assert not alike(self.CAN, replace(self.CAN, colour=(20, 10, -40)))
        assert not alike(self.CAN, self.CHIP)
        assert not alike(replace(self.CAN, vent=_top(2)), replace(self.CAN, vent=_top(3)))
        assert alike(self.CHIP, replace(self.CHIP, x=90)) and not alike(
            self.CHIP, replace(self.CHIP, colour=(70, 0, 9))
        )

    @pytest.mark.parametrize(
        ("kind", "ref", "text", "line"),
        (
            ("can", "C22", "100uF 16V", "C22 100u 16V"),
            ("can", "C22", None, "C22"),
            ("can", None, "470µF 25V", "470u 25V"),
            ("box", "C3", "104K", "C3 100n film"),
            ("box", "C3", "0.22 275~ X2", "C3 220n 275V film X2"),
            ("box", "U4", "74-08", "U4"),
            ("box", None, None, ""),
            ("can", "C9", "105°C", "C9"),
        ),
    )
    def test_what_is_read_goes_through_the_reader_of_markings(self, kind, ref, text, line):
        assert offered_line(replace(self.CAN, kind=kind, ref=ref, text=text)) == line

    def test_rows_are_read_as_a_page(self):
        spots = [(60, 31), (30, 30), (20, 60), (50, 58)]
        found = in_rows([replace(self.CAN, x=x, y=y, diameter=10) for x, y in spots])
        assert [(one.x, one.y) for one in found] == [(30, 30), (60, 31), (20, 60), (50, 58)]

    def test_names_are_free_and_those_that_were_read_go_first(self):
        read = replace(self.CAN, ref="C20")
        assert named("C8", [self.CAN, read, self.CAN], {"C8", "C9"}) == ["C10", "C20", "C11"]
        assert len(set(named("C8", [read, read], {"C8"}))) == 2

    def test_room_ends_at_the_nearest_edge(self):
        other = replace(self.CAN, x=40.0, diameter=10.0)
        assert room_of(self.CAN, [("C2", other), ("U1", self.CHIP)]) == (30.0, "C2")
        assert room_of(self.CAN, [("C2", replace(other, x=90.0))]) is None

    @pytest.mark.parametrize(("stripe", "angle"), ((2.0, 0), (88, 90), (181, 180), (315, 0), (None, 0)))
    def test_the_stripe_is_the_minus_side(self, stripe, angle):
        fitted = from_photo(replace(self.CAN, stripe=stripe), Fitted(ref="C1", value=1e-4), ())
        assert (fitted.angle, fitted.x, fitted.diameter) == (angle, 20, 22)
        assert from_photo(self.CAN, Fitted(ref="C1", value=1e-4, x=5, angle=90), ("x", "angle")).x == 5


class TestSecondLook:
    PLACE = Stands(ref="C1", x=20, y=20, diameter=10, angle=0)
    SEEN = Found(x=20.4, y=19.8, kind="can", share=0.98, diameter=10, seen=10.3, stripe=4.0, top=(20, 20))

    @pytest.mark.parametrize(
        ("stands", "found", "what"),
        (
            ({}, {}, []),
            ({}, None, ["missing"]),
            ({"empty": True}, None, []),
            ({"empty": True}, {}, ["there"]),
            ({}, {"diameter": 8.0}, ["size"]),
            ({}, {"diameter": 8.0, "other": 10.0}, []),
            ({"diameter": None}, {"diameter": 8.0}, []),
            ({}, {"stripe": 182.0}, ["stripe"]),
            ({"angle": None}, {"stripe": 182.0}, []),
            ({}, {"stripe": None}, []),
            ({}, {"stripe": 182.0, "diameter": 16.0}, ["size", "stripe"]),
            ({}, {"x": 60.0}, ["missing", "lying"]),
            ({}, {"x": 60.0, "share": 0.55}, ["missing"]),
        ),
    )
    def test_what_differs_is_told(self, stands, found, what):
        seen = [] if found is None else [replace(self.SEEN, **found)]
        looks = second_look([replace(self.PLACE, **stands)], seen)
        assert [one.what for one in looks] == what
        assert all(one.text.endswith((".", "?")) for one in looks)

    def test_what_is_listed_as_another_part_does_not_lie_there(self):
        chip = replace(self.SEEN, x=60.0)
        assert second_look([], [chip], [("VR1", 60.5, 20.0)]) == []

    def test_the_other_way_round_is_said_by_sides(self):
        looks = second_look([replace(self.PLACE, angle=270)], [replace(self.SEEN, stripe=92.0)])
        assert looks[0].text == "C1 has its stripe below; its minus side belongs above."
