"""Reading what was typed into a page, and which parts of it a change touches."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gonfalon.access.markup import PROSE
from gonfalon.access.snapshot import current
from gonfalon.content import page_input
from gonfalon.content.models import Node
from gonfalon.content.page_input import MOST_TO_CLEAN, BadInput, Writer, read_changes
from gonfalon.content.page_parts import Part, touched
from gonfalon.content.pages import slug_for
from gonfalon.demo.pictures import LIGHT, draw


@pytest.fixture
def loft():
    return Node.objects.get(pk="p3-sail-loft")


def read(node, **data):
    return read_changes(node, data, Writer(current().catalogue, (PROSE,), lambda kind, id: id == "quay-at-dawn"))


class TestReading:
    def test_what_is_not_sent_stays(self, loft):
        assert read(loft) == {"title": loft.title, "values": loft.values, "components": loft.components}

    @pytest.mark.parametrize(
        ("given", "kept"), [("1250", 1250), ("12.5", 12.5), (0, 0), ("", None), (None, None), ("-3", -3)]
    )
    def test_numbers(self, loft, given, kept):
        assert read(loft, values={"dues": given})["values"]["dues"] == kept

    @pytest.mark.parametrize("given", ["nan", "inf", "1e400", "12,5", [1], {"a": 1}, "9" * 30, 10**400, True])
    def test_what_is_no_number(self, loft, given):
        with pytest.raises(BadInput) as bad:
            read(loft, values={"dues": given})
        assert bad.value.errors == {"/values/dues": "Annual dues is a number, such as 1250."}

    def test_dates_choices_and_length(self):
        notice = Node.objects.get(pk="n-seals")
        wrong = {"valid_from": "31.5.2026", "hazard": "dire", "contact": "x" * 201}
        with pytest.raises(BadInput) as bad:
            read(notice, values=wrong)
        assert set(bad.value.errors) == {"/values/valid_from", "/values/hazard", "/values/contact"}
        assert read(notice, values={"valid_from": "2026-05-31", "hazard": "high"})["values"]["hazard"] == "high"

    def test_all_errors_come_at_once(self, loft):
        with pytest.raises(BadInput) as bad:
            read(loft, title=" ", values={"dues": "x", "depth": 1}, components=[{"kind": "raft"}])
        assert len(bad.value.errors) == 4

    @pytest.mark.parametrize(
        ("component", "pointer"),
        [
            ([], ""),
            (5, ""),
            ("heading", ""),
            ({}, "/kind"),
            ({"kind": ["text"]}, "/kind"),
            ({"kind": "text", "id": {}}, "/id"),
            ({"kind": "text", "props": [1]}, "/props"),
        ],
    )
    def test_what_is_not_shaped_as_a_component_is_told_at_its_place(self, loft, component, pointer):
        with pytest.raises(BadInput) as bad:
            read(loft, components=[component])
        assert list(bad.value.errors) == [f"/components/0{pointer}"]

    @pytest.mark.parametrize(
        "link", ["//tides.example", "/\\tides.example", "http://[", "java\tscript:x", "data:x", "x y"]
    )
    def test_a_link_leads_to_this_site_or_says_where_else(self, loft, link):
        with pytest.raises(BadInput) as bad:
            read(loft, components=[{"kind": "button", "props": {"link": link}}])
        assert list(bad.value.errors) == ["/components/0/props/link"]

    @pytest.mark.parametrize(
        "link", ["", "/notices", "#tides", "https://tides.example/now", "tel:+4412", "mailto:a@b.example"]
    )
    def test_links_there_may_be(self, loft, link):
        [button] = read(loft, components=[{"kind": "button", "props": {"link": link}}])["components"]
        assert button["props"] == {"link": link}

    def test_one_save_cleans_only_so_much_and_a_page_holds_only_so_much(self, loft):
        text = {"kind": "text", "props": {"html": "<" * 20_000}}
        with pytest.raises(BadInput) as bad:
            read(loft, components=[text] * (MOST_TO_CLEAN // 20_000 + 1))
        assert list(bad.value.errors) == [f"/components/{MOST_TO_CLEAN // 20_000}/props/html"]
        with pytest.raises(BadInput) as bad:
            read(loft, components=[text] * (MOST_TO_CLEAN // 20_000))  # four times as long once it is cleaned
        assert bad.value.errors == {"": "A page has at most 400,000 characters in all its fields and parts."}

    def test_emphasis_left_open_over_and_over_is_refused_before_it_is_cleaned(self, loft, monkeypatch):
        cleaned = []
        monkeypatch.setattr(page_input, "best", lambda html, _: cleaned.append(html) or html)
        emphasis = "".join(f"<strong {i}>" for i in range(700))
        html = f"<p>{emphasis}{'<p>x' * 2000}"
        with pytest.raises(BadInput) as bad:
            read(loft, components=[{"kind": "text", "props": {"html": html}}])
        assert list(bad.value.errors) == ["/components/0/props/html"]
        assert "emphasis" in bad.value.errors["/components/0/props/html"]
        assert cleaned == []

    def test_a_long_list_of_links_is_not(self, loft):
        links = "".join(f'<li><a href="/berths/{i}">Berth {i}</a></li>' for i in range(250))
        [text] = read(loft, components=[{"kind": "text", "props": {"html": f"<ul>{links}</ul>"}}])["components"]
        assert text["props"]["html"].count("<a ") == 250

    @pytest.mark.parametrize("given", [None, {}, "heading", [{}] * 201])
    def test_components_are_a_list_and_not_too_long(self, loft, given):
        with pytest.raises(BadInput) as bad:
            read(loft, components=given)
        assert bad.value.errors == {"/components": "Components are a list of at most 200."}

    @pytest.mark.parametrize(
        ("kind", "props", "pointer", "why"),
        [
            ("heading", {"colour": "red"}, "colour", "This component has no such property."),
            ("heading", {"text": 5}, "text", "This is text, of at most 20,000 characters."),
            ("heading", {"text": "x" * 20_001}, "text", "This is text, of at most 20,000 characters."),
            ("heading", {"level": [2]}, "level", "Choose one of: Level 2, Level 3."),
            ("table", {"rows": [["a", 1]]}, "rows", "A table is rows of text."),
            ("table", {"rows": "a"}, "rows", "A table is rows of text."),
        ],
    )
    def test_a_property_that_cannot_be_read_is_told_at_its_place(self, loft, kind, props, pointer, why):
        kept = {"id": "p3-sail-loft-heading", "kind": "heading", "props": {}}
        with pytest.raises(BadInput) as bad:
            read(loft, components=[kept, {"kind": kind, "props": props}])
        assert bad.value.errors == {f"/components/1/props/{pointer}": why}

    def test_pictures_have_to_be_there_for_whoever_writes(self, loft):
        def picture(id):
            return read(loft, components=[{"kind": "picture", "props": {"picture": id}}])["components"][0]["props"]

        assert picture("quay-at-dawn") == {"picture": "quay-at-dawn"}
        with pytest.raises(BadInput) as bad:
            picture("out-of-sight")
        assert bad.value.errors == {"/components/0/props/picture": "There is no such picture."}

    def test_what_a_reference_names_has_to_be_there(self, loft):
        with pytest.raises(BadInput) as bad:
            read(loft, values={"plan": "atlantis"})
        assert bad.value.errors == {"/values/plan": "Mooring plan names something that is not there."}

    def test_a_component_keeps_the_properties_not_sent(self, loft):
        heading = {"id": "p3-sail-loft-heading", "kind": "heading", "props": {"text": "New"}}
        assert read(loft, components=[heading])["components"][0]["props"] == {"text": "New", "level": 2}

    def test_an_id_cannot_be_borrowed_by_another_kind_nor_used_twice(self, loft):
        heading = {"id": "p3-sail-loft-heading", "kind": "heading"}
        for components in ([heading | {"kind": "text"}], [heading, heading]):
            with pytest.raises(BadInput):
                read(loft, components=components)

    def test_a_new_component_gets_an_id_of_its_own(self, loft):
        [new] = read(loft, components=[{"id": "chosen-by-me", "kind": "text", "props": {}}])["components"]
        assert new["id"] != "chosen-by-me"


@pytest.mark.parametrize(
    ("part", "props", "told"),
    [
        ("heading", {"level": 4}, "Choose one of: Level 2, Level 3."),
        ("heading", {"level": True}, "Choose one of: Level 2, Level 3."),
        ("picture", {"width": "huge"}, "Choose one of: Wide, Narrow."),
        ("button", {"tone": ["plain"]}, "Choose one of: Plain, Strong."),
        ("table", {"head": 1}, "This is yes or no."),
    ],
)
def test_a_property_is_what_its_component_says(loft, part, props, told):
    with pytest.raises(BadInput) as bad:
        read(loft, components=[{"kind": part, "props": props}])
    assert list(bad.value.errors.values()) == [told]


class TestParts:
    def touched(self, node, *, fixed=(), **data):
        may_arrange = lambda component: component["id"] not in fixed  # noqa: E731
        return list(touched(node, read(node, **data), may_arrange, current().catalogue))

    def test_nothing(self, loft):
        assert self.touched(loft) == []

    def test_a_field(self, loft):
        assert self.touched(loft, values={"dues": 1}) == [Part("change-field", field="dues")]

    def test_each_facet_once(self, loft):
        components = [dict(c, props=dict(c["props"])) for c in loft.components]
        components[1]["props"] |= {"text": "New", "level": 3}
        parts = self.touched(loft, components=components)
        assert [(p.component, p.facet) for p in parts] == [("heading", "layout"), ("heading", "wording")]
        assert {p.component_id for p in parts} == {"p3-sail-loft-heading"}

    def test_a_new_component_touches_what_is_filled_in_it(self, loft):
        button = {"kind": "button", "props": {"label": "Write", "link": "mailto:loft@sailloft.example"}}
        parts = self.touched(loft, components=[*loft.components, button])
        assert [(p.action, p.facet) for p in parts] == [
            ("insert-component", None),
            ("change-facet", "links"),
            ("change-facet", "wording"),
        ]

    def test_taking_one_out_asks_to_arrange_it(self, loft):
        gone = loft.components[-1]
        assert self.touched(loft, components=loft.components[:-1]) == [
            Part("arrange-component", component=gone["kind"], component_id=gone["id"])
        ]

    def test_those_that_may_be_put_elsewhere_move_around_those_that_may_not(self, loft):
        first, second, *others = loft.components
        swapped = [second, first, *others]
        assert self.touched(loft, components=swapped) == []
        assert self.touched(loft, components=swapped, fixed=[first["id"]]) == []
        asked = self.touched(loft, components=swapped, fixed=[first["id"], second["id"]])
        assert {part.component_id for part in asked} == {first["id"], second["id"]}
        assert {part.action for part in asked} == {"arrange-component"}

    def test_each_part_is_called_by_its_own_name(self):
        parts = [
            Part("change-field", field="dues"),
            Part("insert-component", component="table"),
            Part("arrange-component", component="picture", component_id="c1"),
            Part("change-facet", component="button", facet="links"),
            Part("listing.edit"),
        ]
        assert [part.words("berth", current().catalogue) for part in parts] == [
            "change “Annual dues”",
            "put in a table",
            "take out or move the picture",
            "change the links of the button",
            "edit the search-listing texts here",
        ]


@given(st.text(max_size=120), st.sets(st.text(min_size=1), max_size=3))
def test_a_slug_is_always_valid_and_free(title, taken):
    slug = slug_for(title, taken)
    assert slug not in taken
    assert 0 < len(slug) <= 80
    assert set(slug) <= set("abcdefghijklmnopqrstuvwxyz0123456789-_")


@pytest.mark.parametrize("light", LIGHT)
def test_a_picture_is_drawn_the_same_each_time(light):
    assert draw("quay", light) == draw("quay", light)
    assert draw("quay", light)[:2] == b"\xff\xd8"
