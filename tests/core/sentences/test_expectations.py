"""Expectations as sentences: what is written reads back, what makes no sense is told at a word."""

import re

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.questions import Expected, read_asked, read_expectation
from gonfalon.core.sentences.scanner import Unclear
from gonfalon.core.sentences.writing import Unsayable, write_asked, write_expectation
from tests.core.sentences.strategies import LEXICON, expected, questions
from tests.examples import examples

quick = settings(suppress_health_check=list(HealthCheck), deadline=None, max_examples=examples(1000))


@quick
@given(expected, st.booleans())
def test_what_is_written_reads_back_as_the_same(said, with_keys):
    text = write_expectation(said, LEXICON, keys=with_keys)
    assert "\n" not in text
    assert read_expectation(text, LEXICON) == (said._replace(question=normal(said.question)), "")
    assert write_expectation(read_expectation(text, LEXICON)[0], LEXICON, keys=with_keys) == text


@quick
@given(questions(ranging=False))
def test_so_does_what_is_asked(question):
    text = write_asked(question, LEXICON)
    assert read_asked(text, LEXICON) == normal(question)


def mangled(draw, text):
    """The text with something left out, doubled, put elsewhere or taken from another."""
    words = text.split(" ")
    at, other = (draw(st.integers(0, len(words) - 1)) for _ in range(2))
    how = draw(st.integers(0, 4))
    if how == 0:
        del words[at]
    elif how == 1:
        words[at], words[other] = words[other], words[at]
    elif how == 2:
        words.insert(at, words[other])
    elif how == 3:
        words[at] = draw(st.sampled_from(["may", "not", "in", "of", "Twin", "Pilots", "until", ",", "their", "#", '"']))
    else:
        place = draw(st.integers(0, len(text) - 1))
        return text[:place] + draw(st.sampled_from(["", "x", " ", ".", '"', "(", "é"])) + text[place + 1 :]
    return " ".join(words)


def words(text):
    """Its words, without what does not matter: their case, spaces and full stops, keys, the order of a list,
    whether one group is said to be several, and in what of a branch something new is made: anywhere, or in anything."""
    plain = re.sub(r'"|\(([\w.-]+|"[^"]*")\)|\\', " ", text)
    alike = {"groups": "group", "anywhere": "anything"}
    return sorted(alike.get(word, word) for word in re.findall(r"[^\s.,]+", plain.casefold()))


@quick
@given(st.data(), expected)
def test_what_is_mangled_is_told_at_a_word_or_means_what_it_says(data, said):
    text = mangled(data.draw, write_expectation(said, LEXICON))
    read, note, unclear = tried(text)
    if unclear is not None:
        assert 0 <= unclear.at <= len(text)
        assert unclear.length == 0 if not text.strip() else text[unclear.at : unclear.at + unclear.length].strip()
        assert unclear.message
    else:
        again = write_expectation(read, LEXICON)
        assert read_expectation(again, LEXICON)[0] == read
        assert words(f"{again} # {note}" if note else again) in (words(text), words(text.rstrip("# ")))


def tried(text):
    """What a sentence says with its note, and what makes no sense in it."""
    try:
        return *read_expectation(text, LEXICON), None
    except Unclear as unclear:
        return None, "", unclear


SAID = [
    (
        "Holders of Season intern may not see anything in Pier 3.",
        {"holders_of": "intern", "action": "see", "branch": "n1"}, "deny",
    ),
    (
        "Edda Nwosu may edit the wording of texts on Pier 3, Sail loft.",
        {"account": "edda", "action": "change-facet", "facet": "wording", "component": "text", "node": "n2"}, "allow",
    ),
    (
        "Nobody but members of Pilots may change the hazard level of notices in Pier 3.",
        {"except_members_of": "pilots", "action": "change-field", "field": "hazard", "types": ["notice"],
         "branch": "n1"}, "deny",
    ),
    (
        "Holders of Tenant editor may edit their own pages in Pier 3 until 30 June 2027.",
        {"holders_of": "tenant", "action": "edit", "whose": "own", "types": ["page"], "branch": "n1",
         "until": "2027-06-30T00:00:00Z"}, "allow",
    ),
    ("Visitors may not see anything in Pier 3.", {"account": None, "action": "see", "branch": "n1"}, "deny"),
    ('"Ines Marrow" (ines) may see "Twin" ("n 6").', {"account": "ines", "action": "see", "node": "n 6"}, "allow"),
    ('Edda Nwosu may see "Twin" (n5).', {"account": "edda", "action": "see", "node": "n5"}, "allow"),
    ("Everyone but holders of Tenant editor may open the desk.",
     {"except_holders_of": "tenant", "action": "desk.open"}, "allow"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "question", "expect"), SAID)
def test_how_it_reads(text, question, expect):
    assert write_expectation(Expected(question, expect), LEXICON) == text
    assert read_expectation(text, LEXICON)[0] == Expected(question, expect)


def test_case_spaces_and_the_full_stop_do_not_matter_and_a_note_follows():
    text = "  holders of  season INTERN may not see anything in pier 3   # as agreed"
    [question, expect, _], note = read_expectation(text, LEXICON)
    assert (question["holders_of"], expect, note) == ("intern", "deny", "as agreed")


@pytest.mark.parametrize(
    ("text", "word", "message", "offered"),
    [
        ("Holders of Season intern may edit the Night of lantern", "Night", "makes no sense here", "Night of lanterns"),
        ("Season interns may edit Pier 3", "Season", "makes no sense here", "holders of Season intern"),
        ("Visitors may see Pier 3until 3 May 2027", "Pier", "makes no sense here", "Pier 3"),
        ("Visitors may see notices, in Pier 3", "in", "makes no sense here", None),
        ("Visitors may see Twin", "Twin", "Several are called “Twin”", '"Twin" (n5)'),
        ("Visitors may see", "see", "After “see” something is missing", "anything"),
        ('Visitors may see "Twin" (n1)', '"Twin"', "is called “Pier 3”", '"Pier 3" (n1)'),
        ('Visitors may see "Twin" (n99)', '"Twin"', "has the key “n99”", None),
        ('Visitors may see "Twin"', '"Twin"', "followed by its key", None),
        ("Visitors may see Pier 3 until 31 February 2027", "31", "There is no such time", None),
        ("Visitors may see Pier 3 until June", "June", "a day, as 30 June 2027", None),
        ("Visitors may see Pier 3. Visitors may see Twin.", "Visitors", "the end", None),
        ("", "", "makes no sense here", "visitors"),
    ],
)
def test_what_makes_no_sense_is_told_where_it_stops_making_sense(text, word, message, offered):
    with pytest.raises(Unclear) as told:
        read_expectation(text, LEXICON)
    unclear = told.value
    assert text[unclear.at : unclear.at + unclear.length] == word
    assert message in unclear.message
    offers = [offer.text for offer in unclear.offers]
    assert offered in offers if offered else not offers


def test_an_offer_taken_makes_sense():
    text = "Holders of Season intern may edit the Night of lantern"
    with pytest.raises(Unclear) as told:
        read_expectation(text, LEXICON)
    [offer] = told.value.offers
    assert read_expectation(text[: offer.at] + offer.text + text[offer.end :], LEXICON)[0].question["node"] == "n4"


def test_what_has_no_name_cannot_be_said():
    with pytest.raises(Unsayable):
        write_expectation(Expected({"account": "somebody", "action": "see", "node": "n1"}, "allow"), LEXICON)


def test_where_there_are_keys_alone_names_in_quotes_are_not_minded():
    keys = Lexicon({"account": {"a1": "a1"}, "node": {"n1": "n1"}}, without_names=True)
    text = '"Ines Marrow" (a1) may see n1.'
    assert read_expectation(text, keys)[0].question == {"account": "a1", "action": "see", "node": "n1"}
