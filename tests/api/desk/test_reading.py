"""Reading what was typed into a page, and which parts of it a change touches."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gonfalon.access.catalogue import COMPONENTS
from gonfalon.access.markup import PROSE
from gonfalon.content.models import Node
from gonfalon.content.pages import BadInput, Part, Writer, parts_touched, read_changes, slug_for
from gonfalon.demo.pictures import LIGHT, draw


@pytest.fixture
def loft():
    return Node.objects.get(pk="p3-sail-loft")


def read(node, **data):
    return read_changes(node, data, Writer(COMPONENTS, (PROSE,)))


class TestReading:
    def test_what_is_not_sent_stays(self, loft):
        assert read(loft) == {"title": loft.title, "values": loft.values, "components": loft.components}

    @pytest.mark.parametrize(
        ("given", "kept"), [("1250", 1250), ("12.5", 12.5), (0, 0), ("", None), (None, None), ("-3", -3)]
    )
    def test_numbers(self, loft, given, kept):
        assert read(loft, values={"dues": given})["values"]["dues"] == kept

    @pytest.mark.parametrize("given", ["nan", "inf", "1e400", "12,5", [1], {"a": 1}, "9" * 30])
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
            ("heading", {"level": [2]}, "level", "This cannot be read."),
            ("table", {"rows": [["a", 1]]}, "rows", "A table is rows of text."),
            ("table", {"rows": "a"}, "rows", "A table is rows of text."),
        ],
    )
    def test_a_property_that_cannot_be_read_is_told_at_its_place(self, loft, kind, props, pointer, why):
        kept = {"id": "p3-sail-loft-heading", "kind": "heading", "props": {}}
        with pytest.raises(BadInput) as bad:
            read(loft, components=[kept, {"kind": kind, "props": props}])
        assert bad.value.errors == {f"/components/1/props/{pointer}": why}

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


class TestParts:
    def touched(self, node, **data):
        return list(parts_touched(node, read(node, **data)))

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
        button = {"kind": "button", "props": {"label": "Write", "link": "mailto:loft@sailloft.example", "tone": ""}}
        parts = self.touched(loft, components=[*loft.components, button])
        assert [(p.action, p.facet) for p in parts] == [
            ("insert-component", None),
            ("change-facet", "links"),
            ("change-facet", "wording"),
        ]

    def test_taking_one_out_touches_its_layout(self, loft):
        parts = self.touched(loft, components=loft.components[:-1])
        assert [(p.component, p.facet) for p in parts] == [("table", "layout")]


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
