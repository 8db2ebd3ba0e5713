"""Names looked for in a text, and names like what was typed."""

import pytest

from gonfalon.core.sentences.lexicon import Found, Lexicon
from gonfalon.core.sentences.questions import read_expectation
from gonfalon.core.sentences.scanner import Scanner, Unclear

NODES = {
    "n1": "Pier 3",
    "n2": "Pier 3, Sail loft",
    "n3": "Night of lanterns",
    "n4": "Lantern walk",
    "n5": "Twin",
    "n6": "twin",
    "n7": "Straße",
    "n8": "(old) Lantern house",
}
LEXICON = Lexicon({"node": NODES})


def test_the_longest_name_that_ends_where_a_word_does_is_found():
    assert LEXICON.found("node", "edit Pier 3, Sail loft.", 5) == Found(("n2",), 22)
    assert LEXICON.found("node", "edit PIER 3, sailing", 5) == Found(("n1",), 11)
    assert LEXICON.found("node", "Pier 33", 0) is None
    assert LEXICON.found("node", "(old) lantern house", 0) == Found(("n8",), 19)
    assert LEXICON.found("node", "straße", 0) == Found(("n7",), 6)
    assert LEXICON.found("node", "Quay", 0) is None
    assert LEXICON.found("node", "", 0) is None
    assert LEXICON.found("role", "Pier 3", 0) is None


def test_those_called_alike_are_all_found():
    assert LEXICON.found("node", "TWIN", 0) == Found(("n5", "n6"), 4)
    assert LEXICON.is_alike("node", "tWIN")
    assert not LEXICON.is_alike("node", "Pier 3")


def test_names_like_what_was_typed_begin_with_it_or_have_a_word_that_does():
    assert LEXICON.like("node", "lantern", 9) == [
        ("Lantern walk", "n4"),
        ("Night of lanterns", "n3"),
        ("(old) Lantern house", "n8"),
    ]
    assert LEXICON.like("node", "in", 9) == [], "within a word it is not looked for"
    assert LEXICON.like("node", "pier", 1) == [("Pier 3", "n1")]
    assert LEXICON.like("node", "a.*", 9) == []


@pytest.mark.parametrize(
    "id", ['"a\\{1f}"', '"a\\n"', '"a\\u{}"', '"a\\u{1234567}"', '"a\\u{41}"', '"a\\u{01f}"', '"a\\"', '"a']
)
def test_in_quotes_nothing_is_escaped_that_need_not_be(id):
    lexicon = Lexicon({"node": NODES, "component": {"table": "tables"}})
    with pytest.raises(Unclear):
        read_expectation(f"Visitors may arrange tables with the id {id} on Pier 3.", lexicon)
    [escaped, _] = read_expectation('Visitors may arrange tables with the id "a\\u{1f}\\"\\\\" on Pier 3.', lexicon)
    assert escaped.question["component_id"] == 'a\x1f"\\'


def test_nothing_is_listed_twice():
    assert Scanner("Lantern walk, Pier 3", LEXICON).names("node") == ["n4", "n1"]
    scanner = Scanner("Lantern walk, Pier 3, lantern walk", LEXICON)
    assert scanner.names("node") == []
    fault = scanner.fault()
    assert (fault.at, fault.message) == (22, "This is said already.")
