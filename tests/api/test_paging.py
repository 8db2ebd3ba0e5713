"""Every list comes in pages that say how many there are and where the next one is."""

import pytest

from tests.api.support import ok, refused

LISTS = {
    "roles": {},
    "groups": {},
    "limits": {},
    "limits/children/pier-3-branch": {"role": "pilot"},
    "fields": {},
    "desk/found": {"words": "e"},
    "expectations": {},
    "desk/children/pier-3-branch": {},
    "accounts/ludo/where": {},
}


@pytest.mark.parametrize("path", LISTS)
def test_pages_put_together_are_the_whole(odile, path):
    whole = odile.get(path, **LISTS[path])
    total = int(whole["Total-Count"])
    assert total == len(ok(whole)) > 4
    assert "Link" not in whole
    pages, next_page = [], odile.get(path, **LISTS[path], limit=4)
    while True:
        pages += ok(next_page)
        if "Link" not in next_page:
            break
        assert len(ok(next_page)) == 4
        url = next_page["Link"].removeprefix("</api/").split(">")[0]
        next_page = odile.get(url)
    assert pages == ok(whole)


@pytest.mark.parametrize("number", ["many", "-1", "²", "1.5", "9" * 26, "٣"])
@pytest.mark.parametrize("name", ["limit", "offset"])
def test_what_is_no_number_is_told(odile, name, number):
    problem = refused(odile.get("roles", **{name: number}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == f"/{name}"


def test_an_empty_number_is_none_given(odile):
    assert len(ok(odile.get("roles", limit="", offset=""))) == 14
