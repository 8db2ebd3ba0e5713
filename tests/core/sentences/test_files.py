"""Expectations as a file: lines, headings, notes; all that makes no sense is told by its line."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core.sentences.files import Group, Line, read_file, write_file
from gonfalon.core.sentences.normal import normal
from tests.core.sentences.strategies import LEXICON, expected
from tests.examples import examples

plain = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Zl", "Zp", "Zs"]), max_size=12)
notes = plain.map(lambda text: text.strip(" #").strip())
lines = st.builds(lambda said, note: Line(said._replace(question=normal(said.question)), note), expected, notes)
once = st.lists(lines, max_size=2, unique_by=lambda line: repr(line.expected))


@settings(suppress_health_check=list(HealthCheck), deadline=None, max_examples=examples(100))
@given(once, once, notes.filter(bool), notes)
def test_what_is_written_reads_back_as_the_same(first, second, name, note):
    taken = [line.expected for line in first]
    second = [line for line in second if line.expected not in taken]
    groups = [Group("", "", first), Group(name, note, second)]
    read, faults = read_file(write_file(groups, LEXICON), LEXICON)
    assert faults == []
    told = [(group.name, group.note, [(line.expected, line.note) for line in group.lines]) for group in read]
    meant = [("", "", [(x.expected, x.note) for x in first]), (name, note, [(x.expected, x.note) for x in second])]
    assert told == meant


FILE = """
Visitors may not see anything in Pier 3.   # as agreed

What tenants were promised:
# in spring,
# by letter
Edda Nwosu may edit Pier 3, Sail loft

#: not a heading
Edda Nwosu may fly Pier 3.
What tenants were promised:
visitors may not see anything in pier 3.
:
"""


def test_it_reads_as_one_would_and_tells_each_line_that_makes_no_sense():
    [before, promised], faults = read_file(FILE, LEXICON)
    assert [(line.number, line.note) for line in before.lines] == [(2, "as agreed")]
    assert (promised.name, promised.note) == ("What tenants were promised", "in spring, by letter")
    assert [line.number for line in promised.lines] == [7]
    assert [(fault.number, fault.unclear.message[:28]) for fault in faults] == [
        (10, "“fly” makes no sense here. H"),
        (11, "There is this heading alread"),
        (12, "This is said already, in lin"),
        (13, "A heading has 1 to 100 chara"),
    ]


def test_what_is_too_long_is_told():
    long = f"Visitors may not see Pier 3. # {'x' * 201}\n{'y' * 2001}\n{'z' * 101}:\nShort:\n# {'n' * 501}\n"
    _, faults = read_file(long, LEXICON)
    assert [fault.number for fault in faults] == [1, 2, 3, 5]
