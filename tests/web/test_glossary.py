"""The glossary's page, its links, and terms on other pages."""

import re

import pytest
from django.template import Context, Template
from django.urls import reverse

from idlebench.catalogue.glossary import TERMS

pytestmark = pytest.mark.django_db


def test_every_term_has_its_place_on_the_page_and_is_found(client):
    page = client.get(reverse("glossary")).content.decode()
    assert all(f'id="{term.key}"' in page for term in TERMS)
    assert f"{reverse('shelf')}" in page
    found = client.get("/find/?q=esr", headers={"HX-Request": "true"}).content.decode()
    assert f"{reverse('glossary')}#esr" in found


def test_a_term_is_linked_where_it_stands_first():
    said = Template('{% term "ESR" %} and {% term "ESR" "its ESR" %}, {% term "ripple" %}').render(Context())
    assert (
        said.count("#esr") == 1
        and said.count("#ripple") == 1
        and "its ESR" in said
        and 'title="Equivalent series' in said
    )
    with pytest.raises(KeyError):
        Template('{% term "flux capacitor" %}').render(Context())


def test_pages_link_only_to_terms_that_there_are(client, surveyed):
    keys = {term.key for term in TERMS}
    for url in (
        reverse("cold", args=[surveyed.unit_id]), reverse("choose", args=[surveyed.pk]), reverse("measure", args=[surveyed.pk]),
        reverse("policies"), reverse("shelf"),
    ):  # fmt: skip
        linked = re.findall(rf'href="{reverse("glossary")}#([^"]+)"', client.get(url).content.decode())
        assert set(linked) <= keys and len(linked) == len(set(linked)), url
