"""The command line, as one types it: `gonfalon decide | check | prove | explain | impact`."""

import io
import json

import pytest

from gonfalon.core.cli.main import main
from tests.core.documents import EXAMPLE, QUESTIONS

QUIET = {"locks": [], "limits": [], "expectations": []}


@pytest.fixture
def files(tmp_path):
    def write(name, content):
        file = tmp_path / name
        file.write_bytes(content if isinstance(content, bytes) else content.encode())
        return str(file)

    return write


def test_decide_answers_every_line_in_order_and_the_unreadable_in_their_place(files, capsys):
    policy = files("policy.json", EXAMPLE)
    lines = [*QUESTIONS.splitlines(), "not json", '{"account": "ada", "action": "see", "node": "n1", "node": "n2"}']
    questions = files("questions.jsonl", "\n".join(lines))
    assert main(["decide", "--policy", policy, "--questions", questions]) == 0
    answers = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert len(answers) == len(lines)
    assert answers[:2] == [{"allow": False, "reason": "stopped"}, {"allow": True, "reason": "allowed"}]
    assert answers[13] == {"error": "there is no account “ben”", "pointer": "/for/account"}
    assert answers[-2]["pointer"] == ""
    assert answers[-1] == {"error": "this key is given more than once", "pointer": "/node"}


def test_decide_with_its_trail_names_what_decided(files, capsys, monkeypatch):
    asked = {"account": "ada", "action": "edit", "node": "n2"}
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(json.dumps(asked).encode())))
    policy = files("policy.json", EXAMPLE)
    assert main(["decide", "--policy", policy, "--questions", "-", "--trail", "--at", "2026-06-01T00:00:00Z"]) == 0
    answer = json.loads(capsys.readouterr().out)
    [grants] = [step for step in answer["trail"] if step["step"] == "grants"]
    assert grants["findings"] == [
        {
            "what": "source", "id": "a1", "role": "lead", "group": "crew", "says": "all", "said_by": "lead",
            "reason": "stopped", "limits": ["l1"],
        }
    ]  # fmt: skip


def test_check_tells_errors_with_1_and_warnings_with_0(files, capsys):
    assert main(["check", "--policy", files("p.json", EXAMPLE)]) == 0
    assert capsys.readouterr().out == "warning /accounts: no active account is a keyholder\n"
    broken = json.loads(EXAMPLE) | {"extra": 1, "gonfalon": 2}
    assert main(["check", "--policy", files("p.json", json.dumps(broken))]) == 1
    assert [line.split(":")[0] for line in capsys.readouterr().out.splitlines()] == ["error /extra", "error /gonfalon"]
    assert main(["check", "--policy", files("p.json", b"\xff")]) == 1
    assert main(["check", "--policy", "nowhere.json"]) == 2


def test_prove_prints_what_does_not_hold(files, capsys):
    assert main(["prove", "--policy", files("p.json", EXAMPLE)]) == 0
    assert capsys.readouterr().out == ""
    wrong = {"id": "e9", "question": {"members_of": "crew", "action": "see", "branch": "n1"}, "expect": "deny"}
    nobody = {"id": "e8", "question": {"holders_of": "writer", "action": "see", "node": "n1"}, "expect": "allow"}
    document = json.loads(EXAMPLE) | {"expectations": [{**wrong, "note": "crews see nothing"}, nobody]}
    assert main(["prove", "--policy", files("p.json", json.dumps(document))]) == 1
    told = capsys.readouterr()
    assert told.out == "e9: expected deny, but ada at n1 gets allowed; 2 of 2 answers - crews see nothing\n"
    assert told.err == "warning e8: this asks nothing\n"


SENTENCES = """\
# asked by the pipeline
"The crews" (crew) is no sentence.
Members of "The crews" (crew) may not see anything in n1. # crews see nothing
Holders of writer may see n1.
"Ada Obi" (ada) may see n1 from 1 May 2026 until 1 April 2026.
"""


def test_prove_asks_the_sentences_of_a_file(files, capsys):
    policy, said = files("p.json", EXAMPLE), files("said.txt", SENTENCES)
    assert main(["prove", "--policy", policy, "--sentences", said]) == 2
    first, second = capsys.readouterr().err.splitlines()
    assert first.startswith("error line 2, character 1: ")
    assert second == "error line 5, character 1: it ends no later than it begins"
    good = [line for line in SENTENCES.splitlines() if " no " not in line and "from" not in line]
    assert main(["prove", "--policy", policy, "--sentences", files("good.txt", "\n".join(good))]) == 1
    told = capsys.readouterr()
    assert told.out == "line 2: expected deny, but ada at n1 gets allowed; 2 of 2 answers - crews see nothing\n"
    assert told.err == "warning line 3: this asks nothing\n"
    assert main(["prove", "--policy", policy, "--sentences", files("latin.txt", "é".encode("latin-1"))]) == 2


def test_explain_tells_the_trail_in_words(files, capsys):
    question = json.dumps({"account": "ada", "action": "edit", "node": "n2", "at": "2026-06-01T00:00:00Z"})
    assert main(["explain", "--policy", files("p.json", EXAMPLE), "--question", question]) == 0
    told = capsys.readouterr().out.splitlines()
    assert told[0] == "no: stopped"
    assert "    role lead, a1 through group crew (all) gives it, but is stopped by limit l1" in told
    assert main(["explain", "--policy", files("p.json", EXAMPLE), "--question", question, "--advice"]) == 0
    told = capsys.readouterr().out
    assert "  lift at n2 for role lead (1 account, +5 -0 answers)" in told
    assert "  give role writer to account ada, branches n2 (1 account, +8 -0 answers)" in told
    assert main(["explain", "--policy", files("p.json", EXAMPLE), "--question", '{"action": "see"}']) == 2


def test_impact_tells_who_gains_and_loses_what(files, capsys):
    before = files("before.json", EXAMPLE)
    after = json.loads(EXAMPLE) | QUIET
    after["roles"]["everyone"]["grants"] = {}
    files_ = [before, files("after.json", json.dumps(after))]
    assert main(["impact", *files_]) == 0
    told = capsys.readouterr().out.splitlines()
    assert told[0] == "1 gain, 2 lose"
    assert "a visitor: see -1" in told
    assert "ada: edit +1" in told
    assert main(["impact", *files_, "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["accounts"][0] == {"account": None, "turned": {"see": {"gained": 0, "lost": 1}}}


def test_a_policy_with_errors_stops_every_other_command_with_2(files, capsys):
    broken = files("p.json", '{"gonfalon": 1, "nodes": 3}')
    assert main(["prove", "--policy", broken]) == 2
    assert capsys.readouterr().err == "error /nodes: this is a number; it should be a list\n"
