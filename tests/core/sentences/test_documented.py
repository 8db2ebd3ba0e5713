"""The examples of docs/sentences.md are read, and written word for word."""

import re
from pathlib import Path

import pytest

from gonfalon.core.sentences.changes import read_change, write_change
from gonfalon.core.sentences.files import read_file
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.questions import read_expectation
from gonfalon.core.sentences.scanner import Unclear
from gonfalon.core.sentences.writing import write_expectation
from tests.core.sentences.test_changes import LEXICON as SAID

TEXT = (Path(__file__).parents[3] / "docs/sentences.md").read_text("utf-8")
LEXICON = Lexicon(
    {
        **SAID.names,
        "role": {"intern": "Season intern", "tenant": "Tenant editor"},
        "group": {"pilots": "Pilots"},
        "account": {"ines": "Ines Marrow", "edda": "Edda Nwosu"},
        "node": {"p3": "Pier 3", "loft": "Pier 3, Sail loft", "m": "Moorings", "n": "Notices to mariners",
                 "o": "Harbour office"},
        "kind": {"notice": "notices", "berth": "berth pages"},
        "verb": {"edit": "edit", "publish": "publish"},
    }
)  # fmt: skip
EXAMPLES = re.findall(r"^\| ([A-Z][^|]+\.) \|", TEXT, re.MULTILINE)


@pytest.mark.parametrize("text", EXAMPLES)
def test_each_example_is_in_the_language(text):
    try:
        assert write_expectation(read_expectation(text, LEXICON)[0], LEXICON) == text
    except Unclear:
        assert write_change(read_change(text, LEXICON), LEXICON) == text


def test_the_file_at_its_head_is_read():
    assert len(EXAMPLES) == 17
    head = "\n".join(line[4:] for line in TEXT.split("## ")[0].splitlines() if line.startswith("    "))
    groups, faults = read_file(head, LEXICON)
    assert faults == []
    assert [(group.name, len(group.lines)) for group in groups] == [
        ("", 0), ("What tenants were promised", 2), ("Safety at sea", 2),
    ]  # fmt: skip
