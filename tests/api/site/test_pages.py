"""The public site, as visitors and signed-in accounts see it."""

import pytest

LOFT = "/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft"


def read(asking, path):
    response = asking.client.get(path)
    return response.status_code, response.content.decode()


@pytest.mark.parametrize("path", ["/site/harbour/", "/site/regatta/", LOFT, "/site/regatta/results/pier-dash-final"])
def test_visitors_read_what_is_published(ask, path):
    status, text = read(ask(), path)
    assert status == 200
    assert "Skerrow" in text


@pytest.mark.parametrize(
    "path",
    ["/site/harbour/events/open-day", "/site/harbour/harbour-office", "/site/harbour/atlantis", "/site/atlantis/"],
)
def test_drafts_and_closed_branches_are_not_there(ask, path):
    status, text = read(ask(), path)
    assert status == 404
    assert "There is no such page" in text


def test_the_home_page_is_found_without_naming_a_site(ask):
    response = ask().client.get("/site/")
    assert (response.status_code, response["Location"]) == (302, "/site/harbour/")


def test_hidden_fields_are_left_out(ask):
    assert "2180" not in read(ask(), LOFT)[1]
    assert "2180" in read(ask("ines"), LOFT)[1]
    assert "2180" not in read(ask("marit"), LOFT)[1]


def test_the_menu_names_only_what_may_be_seen(ask):
    assert "Harbour office" not in read(ask(), "/site/harbour/")[1]
    assert "Harbour office" in read(ask("tomasz"), "/site/harbour/")[1]


def test_text_in_fields_is_escaped(ask, odile):
    from gonfalon.content.models import Node

    Node.objects.filter(pk="p3-sail-loft").update(title="<script>x()</script>")
    assert "<script>x()" not in read(ask(), LOFT)[1]


def test_a_page_costs_few_queries(ask, django_assert_max_num_queries):
    read(ask(), LOFT)
    with django_assert_max_num_queries(12):
        read(ask(), LOFT)
