"""Every list comes in pages that say how many there are and where the next one is."""

import pytest

from tests.api.support import ok

LISTS = {
    "roles": {},
    "groups": {},
    "limits": {},
    "limits/tree": {"role": "pilot"},
    "fields": {},
    "branches": {"tree": "media"},
    "expectations": {},
    "desk/tree": {},
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


def test_nonsense_is_taken_for_nothing_said(odile):
    assert len(ok(odile.get("roles", limit="many", offset="-1"))) == 14
