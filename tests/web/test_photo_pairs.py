"""A board before and after: one slider on Photos, a pair on both sheets."""

from datetime import UTC, datetime, timedelta

import pytest
from django.urls import reverse

from idlebench.core.prove.record import SWAP
from idlebench.web.photos.services import Pin, take_photo
from idlebench.web.records.models import Photo, Unit
from idlebench.web.unit.photo_pairs import photo_pairs
from idlebench.web.unit.state import unit_state
from tests.web.test_photos import picture

pytestmark = pytest.mark.django_db


@pytest.fixture
def paired(demo):
    """Unit B of the demo, its supply board photographed twice before the first swap and twice after."""
    unit = Unit.objects.get(name="B", job__machine="Tidewriter 80")
    board = unit.boards.get(name="PS-2")
    swapped = [event.at for _, event in unit_state(unit.pk).recorded if event.kind == SWAP]
    first = datetime.fromtimestamp(swapped[0], UTC)
    photos = []
    for hours in (-2, -1, 1, 2):
        photo, _ = take_photo(unit, picture(colour=(20, 90 + 10 * hours, 60)), "p.jpg", Pin(board=board))
        Photo.objects.filter(pk=photo.pk).update(at=first + timedelta(hours=hours))
        photos.append(photo.pk)
    return unit, board, photos


def test_the_first_before_and_the_last_after_are_the_pair(paired):
    unit, board, photos = paired
    pairs = photo_pairs(unit_state(unit.pk), list(Photo.objects.filter(unit=unit)))
    assert [(p.board, p.before.pk, p.after.pk) for p in pairs] == [(board.name, photos[0], photos[3])]


def test_a_photo_of_a_part_or_a_spot_is_none_of_a_board(paired):
    unit, _, photos = paired
    Photo.objects.filter(pk=photos[0]).update(x=10, y=10)
    Photo.objects.filter(pk__in=photos[2:]).update(ref="VR1")
    state = unit_state(unit.pk)
    assert photo_pairs(state, list(Photo.objects.filter(unit=unit))) == []


def test_it_stands_on_photos_and_on_both_sheets(client, paired):
    unit, board, photos = paired
    page = client.get(reverse("photos", args=[unit.pk])).content.decode()
    assert f"{board.name}, before and after" in page and 'x-data="compared"' in page
    for name, words in (("sheet", f"{board.name}, before and after"), ("owner", f"{board.name} before")):
        sheet = client.get(f"/unit/{unit.pk}/{'handover' if name == 'sheet' else name}.html").content.decode()
        assert words in sheet
        assert all(reverse("picture_small", args=[photos[i]]) in sheet for i in (0, 3))
