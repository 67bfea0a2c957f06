"""What a form or a file brings is read in a time that grows with its length, and no faster: the parsers of the pages."""

from __future__ import annotations

import pytest

import idlebench.web.gather
import idlebench.web.keep
import idlebench.web.photos
import idlebench.web.proving
import idlebench.web.shelf
import idlebench.web.survey
from tests.core.test_linear_text import is_linear, parsers

pytestmark = pytest.mark.django_db
ROOMS = (
    idlebench.web.gather, idlebench.web.keep, idlebench.web.photos, idlebench.web.proving, idlebench.web.shelf, idlebench.web.survey,
)  # fmt: skip
PARSERS = parsers(*ROOMS)


@pytest.mark.parametrize("name", PARSERS)
def test_it_takes_no_longer_than_its_text_is_long(name):
    is_linear(name, PARSERS[name])


def test_a_heading_of_sixteen_thousand_letters_is_refused_at_once(client):
    from django.core.files.uploadedfile import SimpleUploadedFile

    data = f"Part,Ripple {'1' * 16_000}\nA,1\n".encode()
    answer = client.post("/shelf/foreign/", {"file": SimpleUploadedFile("a.csv", data)})
    assert answer.status_code == 422 and "at most 120 characters" in answer.content.decode()
