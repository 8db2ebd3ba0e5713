"""The public site, as visitors and signed-in accounts see it."""

from urllib.parse import quote

import pytest
from django.test import Client

from gonfalon.content.models import Node
from tests.api.support import Asking, apply, ok

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


class TestWhatIsPublic:
    """§4: limits, reach and bars of an account hide nothing on the site that a visitor reads."""

    STOP = {"kind": "set-limit", "to": {"kind": "account", "id": "ines"}, "applies": "branch", "actions": ["see"]}

    @pytest.mark.parametrize("effect", ["stop", "bar"])
    def test_a_limit_of_an_account_hides_nothing_there(self, ask, odile, effect):
        apply(odile, self.STOP | {"node": "moorings", "effect": effect})
        assert ask("ines").get("desk/pages/p3-sail-loft").status_code == 404
        status, text = read(ask("ines"), LOFT)
        assert (status, "Sails cut" in text) == (200, True)
        assert "2180" not in text  # that was hers alone
        assert "Moorings" in read(ask("ines"), "/site/harbour/")[1]

    def test_nor_does_a_reach(self, ask, odile):
        apply(odile, {"kind": "set-reach", "account": "ines", "tree": "content", "branches": ["events"]})
        assert read(ask("ines"), LOFT)[0] == 200

    def test_nor_of_pictures(self, ask, odile):
        apply(odile, self.STOP | {"node": "media-harbour", "effect": "stop"})
        assert ask("ines").client.get("/files/pic-sail-loft").status_code == 200
        assert ask().client.get("/files/pic-sail-loft").status_code == 200

    def test_what_visitors_do_not_see_stays_closed(self, ask, odile):
        apply(odile, self.STOP | {"node": "events", "effect": "stop"})
        assert read(ask("ines"), "/site/harbour/events/open-day")[0] == 404
        apply(odile, {"kind": "set-field-rule", "type": "berth", "field": "telephone", "mode": "table",
                      "table": {"everyone": ["see-all"]}})  # fmt: skip
        number = Node.objects.get(pk="p3-sail-loft").values["telephone"]
        assert number in read(ask("ines"), LOFT)[1]
        assert number in read(ask(), LOFT)[1]


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


def test_whoever_reads_is_told_and_signs_in_from_there(ask, lone, odile, settings):
    assert f'<a href="/sign-in?to={quote(LOFT, safe="")}">Sign in</a>' in read(ask(), LOFT)[1]
    ines, registered = read(ask("ines"), LOFT)[1], read(lone(), LOFT)[1]
    assert "Reading as Ines Marrow." in ines
    assert '<a href="/desk">' in ines
    assert "Reading as Lone Reader." in registered
    assert '<a href="/desk">' not in registered, "the desk is closed to them"
    odile.post("stand-in", {"account": "ines"})
    assert "Reading as" not in read(odile, LOFT)[1], "the strip tells it"


def test_under_the_host_name_of_a_site_nobody_signs_in(settings):
    settings.ALLOWED_HOSTS = ["*"]
    assert "Sign in" not in Client(headers={"host": "elsewhere.example"}).get(LOFT).content.decode()


def test_text_in_fields_is_escaped(ask, odile):
    Node.objects.filter(pk="p3-sail-loft").update(title="<script>x()</script>")
    assert "<script>x()" not in read(ask(), LOFT)[1]


def test_dates_are_read_out_and_what_leads_in_has_no_label(ask):
    page = Node.objects.get(pk="n-buoy-7")
    text = read(ask(), f"/site/harbour/{page.address}")[1]
    assert "<dt>Valid from</dt><dd>19 November 2026</dd>" in text
    home = read(ask(), "/site/harbour/")[1]
    assert '<p class="lead">A working harbour' in home
    assert "<dt>Introduction</dt>" not in home


def test_a_description_that_visitors_may_not_read_is_not_told(ask, odile):
    described = 'alt="Blue sea and a pale sky seen from the loft door"'
    assert described in read(ask(), LOFT)[1]
    closed = {"kind": "set-field-rule", "type": "picture", "field": "alt", "mode": "author", "table": {}}
    apply(odile, closed)
    assert described not in read(ask(), LOFT)[1]
    assert described not in read(odile, LOFT)[1]


def test_a_page_costs_few_queries(ask, django_assert_max_num_queries):
    read(ask(), LOFT)
    with django_assert_max_num_queries(13):
        read(ask(), LOFT)


def parts_of(kind, props):
    """The page with one part alone, as a visitor reads it."""
    Node.objects.filter(pk="p3-sail-loft").update(components=[{"id": "one", "kind": kind, "props": props}])
    return " ".join(read(Asking(None), LOFT)[1].split())


@pytest.mark.parametrize(
    ("kind", "props", "drawn"),
    [
        ("heading", {"text": "Sails & rope"}, "<h2>Sails &amp; rope</h2>"),
        ("heading", {"text": "Sails", "level": 3}, "<h3>Sails</h3>"),
        ("text", {"html": "<p>At slack water</p>"}, '<div class="prose"><p>At slack water</p></div>'),
        (
            "picture",
            {"picture": "pic-sail-loft"},
            'loft door" loading="lazy" srcset="/files/pic-sail-loft?width=360 360w, ',
        ),
        ("picture", {"picture": "pic-sail-loft", "caption": "The quay", "width": "narrow"}, '<figure class="narrow">'),
        (
            "table",
            {"rows": [["Berth"], ["P3"]], "head": True},
            '<tr><th scope="col">Berth</th></tr><tr><td>P3</td></tr>',
        ),
        ("button", {"label": "Come in", "link": "/in"}, '<a class="button plain" href="/in">Come in</a>'),
        ("banner", {"text": "Shut", "tone": "strong"}, '<p class="banner strong">Shut</p>'),
        ("tides", {"station": "the quay", "rows": [["1 May"]]}, "<caption>Tides at the quay</caption>"),
        ("tides", {"rows": [["1 May"]]}, '<th scope="col">High water</th>'),
        ("results", {"rows": [["Fulmar"]]}, '<tr><th scope="row">1</th><td>Fulmar</td></tr>'),
    ],
)
def test_a_part_is_drawn_as_the_catalogue_says(db, kind, props, drawn):
    assert drawn in parts_of(kind, props)


@pytest.mark.parametrize(
    ("kind", "props", "never"),
    [
        ("heading", {"text": ""}, "<h2>"),
        ("picture", {"caption": "The quay"}, "<figure"),
        ("table", {"rows": [[""], ["", ""]]}, "<table>"),
        ("button", {"link": "/in"}, 'class="button'),
    ],
)
def test_a_part_with_nothing_in_it_is_not_drawn(db, kind, props, never):
    assert never not in parts_of(kind, props)


def test_what_needs_a_duty_is_drawn_to_those_who_have_it(ask, odile):
    props = {"rows": [["1 May"]], "gauge": "4.1"}
    assert "Gauge, not checked: 4.1" not in parts_of("tides", props)
    assert "Gauge, not checked: 4.1" in " ".join(read(odile, LOFT)[1].split())


class TestLists:
    """A list of pages names what each reader may see (K9)."""

    def put_in(self, odile, page, kind, **props):
        tag = {"If-Match": odile.get(f"desk/pages/{page}")["ETag"]}
        ok(odile.patch(f"desk/pages/{page}", {"components": [{"kind": kind, "props": props}]}, **tag))

    def listed(self, asking, path):
        text = read(asking, path)[1]
        return text.split('class="listed"')[1].split("</nav>")[0] if 'class="listed"' in text else ""

    def test_of_what_is_beneath_without_drafts_and_closed_branches(self, ask, odile):
        self.put_in(odile, "events", "pages", heading="What is on")
        told = self.listed(ask(), "/site/harbour/events")
        assert "What is on" in told
        assert "Lantern walk" in told
        assert "Open day" not in told, "a draft"
        self.put_in(odile, "home-harbour", "pages", heading="Here", of="beneath")
        assert "Harbour office" not in self.listed(ask(), "/site/harbour/")

    def test_of_what_stands_beside_or_is_about_the_same(self, ask, odile):
        path = "/site/harbour/events/summer-season/swim-to-the-spit"
        self.put_in(odile, "swim", "pages", heading="More", of="beside")
        told = self.listed(ask(), path)
        assert "Shanty choir" in told
        assert "Swim to the spit" not in told
        self.put_in(odile, "swim", "pages", heading="More", of="topics")
        told = self.listed(ask(), path)
        assert "Reading the tide" in told
        assert "Net mending" not in told

    def test_where_there_is_nothing_to_list_nothing_is_drawn(self, ask, odile):
        self.put_in(odile, "swim", "pages", heading="More", of="beneath")
        assert self.listed(ask(), "/site/harbour/events/summer-season/swim-to-the-spit") == ""

    def test_a_quote_says_who_said_it(self, ask, odile):
        self.put_in(odile, "swim", "quote", text="Mind the <jelly>.", by="Gwenda")
        text = read(ask(), "/site/harbour/events/summer-season/swim-to-the-spit")[1]
        assert "Mind the &lt;jelly&gt;." in text
        assert "<footer>Gwenda</footer>" in text
