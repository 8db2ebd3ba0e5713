"""What should be, as sentences: written and read back, for every kind of change that can be said."""

from datetime import UTC

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core.model.policy import Assignment, DirectGrant, Limit, Period, Scope, Subject
from gonfalon.core.model.vocabulary import ACTIONS, FIELD_MARKS, Effect
from gonfalon.core.sentences.changes import Answer, FieldRow, read_change, write_change
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.scanner import Unclear
from tests.core.sentences.strategies import LEXICON as ASKED
from tests.core.sentences.strategies import SCOPES, key
from tests.core.sentences.test_expectations import mangled, words
from tests.examples import examples

LEXICON = Lexicon(
    {
        **ASKED.names,
        "verb": {"see": "see", "see-draft": "see unpublished", "create": "create", "history": "see the history of"},
        "baseline": {"everyone": "Everyone, visitors too,", "signed-in": "Everyone signed in"},
        "action": {action: action for action in (*ACTIONS, "discussion.moderate")},
    }
)
quick = settings(suppress_health_check=list(HealthCheck), deadline=None, max_examples=examples(500))
roles = key("role") | st.sampled_from(["everyone", "signed-in"])
graded = st.builds("{}.{}".format, key("kind"), st.sampled_from(["see", "see-draft", "history"]))
plain = key("duty") | key("placed")
times = st.none() | st.datetimes(timezones=st.just(UTC))
periods = st.builds(Period, times, times)
scopes = SCOPES.map(lambda said: Scope(**{name: frozenset(listed) for name, listed in said.items()}))
receivers = st.builds(Subject.account, key("account")) | st.builds(Subject.group, key("group"))
said = (
    st.tuples(graded, st.sampled_from(["own", "team", "all", "barred"]))
    | st.tuples(key("kind").map("{}.create".format), st.sampled_from(["all", "barred"]))
    | st.tuples(plain, st.sampled_from(["yes", "barred"]))
)
unsaid = st.tuples(graded | plain, st.sampled_from([None, "withheld"]))
actions = st.none() | st.frozensets(st.sampled_from([*ACTIONS, "discussion.moderate"]), min_size=1)
changes = (
    st.builds(lambda role, what: Answer(role, *what), roles, said | unsaid)
    | st.builds(
        lambda role, to, scope, when: Assignment("", role, to, scope, when), key("role"), receivers, scopes, periods
    )
    | st.builds(lambda to, what, scope, when: DirectGrant("", to, *what, scope, when), receivers, said, scopes, periods)
    | st.builds(
        lambda node, to, effect, applies, actions: Limit("", node, to, effect, applies, actions),
        key("node"),
        receivers | st.builds(Subject.role, key("role")),
        st.sampled_from(Effect),
        st.sampled_from(["node", "beneath", "branch"]),
        actions,
    )
    | st.builds(FieldRow, key("kind"), key("field"), roles, st.frozensets(st.sampled_from(FIELD_MARKS)))
)


@quick
@given(changes, st.booleans())
def test_what_is_written_reads_back_as_the_same(change, with_keys):
    text = write_change(change, LEXICON, keys=with_keys)
    assert "\n" not in text
    assert read_change(text, LEXICON) == change


@quick
@given(st.data(), changes)
def test_what_is_mangled_is_told_at_a_word_or_means_what_it_says(data, change):
    text = mangled(data.draw, write_change(change, LEXICON))
    read, unclear = tried(text)
    if unclear is not None:
        assert 0 <= unclear.at <= len(text)
        assert unclear.length == 0 if not text.strip() else text[unclear.at : unclear.at + unclear.length].strip()
        assert unclear.message
    else:
        again = write_change(read, LEXICON)
        assert read_change(again, LEXICON) == read
        assert set(words(again)) <= {*words(text), "#"} or "#" in text


def tried(text):
    try:
        return read_change(text, LEXICON), None
    except Unclear as unclear:
        return None, unclear


PIER = Scope(branches=frozenset({"n1"}))


@pytest.mark.parametrize(
    ("text", "change"),
    [
        ("Holders of Tenant editor may see notices they wrote themselves.", Answer("tenant", "notice.see", "own")),
        ("Holders of Tenant editor may see all notices.", Answer("tenant", "notice.see", "all")),
        ("Holders of Tenant editor may create notices.", Answer("tenant", "notice.create", "all")),
        ("Holders of Tenant editor may not see notices by this role.", Answer("tenant", "notice.see", None)),
        (
            "Holders of Tenant editor are not given “open the desk” by this role.",
            Answer("tenant", "desk.open", "withheld"),
        ),
        (
            "Everyone, visitors too, may never see unpublished notices, whatever else they hold.",
            Answer("everyone", "notice.see-draft", "barred"),
        ),
        ("Edda Nwosu holds Tenant editor on Pier 3.", Assignment("", "tenant", Subject.account("edda"), PIER)),
        ("Members of Pilots hold Tenant editor.", Assignment("", "tenant", Subject.group("pilots"))),
        (
            "Edda Nwosu may see notices written by anyone in their team on Pier 3.",
            DirectGrant("", Subject.account("edda"), "notice.see", "team", PIER),
        ),
        (
            "Stop edit, publish for holders of Tenant editor on Pier 3, here and beneath.",
            Limit("", "n1", Subject.role("tenant"), Effect.STOP, "branch", frozenset({"edit", "publish"})),
        ),
        (
            "Bar everything for Edda Nwosu on Pier 3, beneath only.",
            Limit("", "n1", Subject.account("edda"), Effect.BAR, "beneath"),
        ),
        (
            "Holders of Tenant editor may see all, fill the annual dues of notices by the rule of this field.",
            FieldRow("notice", "dues", "tenant", frozenset({"see-all", "fill"})),
        ),
    ],
)
def test_how_it_reads(text, change):
    assert write_change(change, LEXICON) == text
    assert read_change(text, LEXICON) == change
