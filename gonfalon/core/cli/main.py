"""`gonfalon decide | check | prove | explain | impact`: a policy document asked without a server (§8).

Exit codes: 0 all is well; 1 the policy has errors, or an expectation does not hold; 2 the command could not
be carried out. Progress on long work goes to stderr when that is a terminal.
"""

import argparse
import gc
import json
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import IO, Any

from gonfalon.core.checks.expectations import prove
from gonfalon.core.checks.findings import review
from gonfalon.core.checks.runner import Result
from gonfalon.core.checks.suggestions import advise
from gonfalon.core.cli.parallel import Killed, shared_out
from gonfalon.core.cli.sentences import said_in
from gonfalon.core.cli.text import advised, explained
from gonfalon.core.diff.impact import Impact, impact
from gonfalon.core.document.errors import PolicyError, Unreadable, read_time
from gonfalon.core.document.jsonl import decision_data, read_json, read_policy
from gonfalon.core.document.requests import read_question
from gonfalon.core.engine import Engine
from gonfalon.core.model.question import Decision, HypotheticalSubject, Who
from gonfalon.core.model.vocabulary import Reason

FINE, WRONG, UNABLE = 0, 1, 2
_SOME = 1000

Command = Callable[[argparse.Namespace], int]


class Unable(Exception):
    """The command cannot be carried out; the message says why."""


def main(arguments: Sequence[str] | None = None, more: Callable[[Any], None] | None = None) -> int:
    """Run one command and give its exit code. `more` may add commands to the parser's."""
    parser = argparse.ArgumentParser(prog="gonfalon", description="Ask a policy who may do what.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    _decide_parser(commands)
    _plain_parser(commands, "check", check, "tell a document's errors and warnings; 1 if there are errors")
    _prove_parser(commands)
    _explain_parser(commands)
    _impact_parser(commands)
    if more is not None:
        more(commands)
    asked = parser.parse_args(arguments)
    try:
        code: int = asked.run(asked)
        sys.stdout.flush()
        return code
    except BrokenPipeError:
        # Whoever read the answers has read enough; Python must not try to flush them again at its end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return FINE
    except KeyboardInterrupt:
        return UNABLE
    except PolicyError as error:
        for fault in error.faults:
            print(f"error {fault}", file=sys.stderr)
    except (Unable, Killed, OSError) as error:
        print(f"gonfalon: {error}", file=sys.stderr)
    return UNABLE


def decide(asked: argparse.Namespace) -> int:
    """Answer questions, one a line, in their order and in constant memory.

    Those of a file are shared out among the processors; those of stdin are answered as they come.
    """
    engine = Engine(read_policy(asked.policy))
    gc.freeze()  # what was read stays until the end: it need not be looked through again and again
    answer = partial(_answer, engine, at=asked.at, trail=asked.trail)
    with _opened(asked.questions) as questions:
        answers = map(answer, questions) if str(asked.questions) == "-" else shared_out(answer, questions)
        write = sys.stdout.write
        for done, told in enumerate(answers):
            if done % _SOME == 0:
                _progress("questions", done)
            write(told)
    return FINE


def _answer(engine: Engine, line: bytes, *, at: str | None, trail: bool) -> str:
    try:
        request = read_json(line)
        if at is not None and isinstance(request, dict):
            request.setdefault("at", at)
        decision = engine.decide(request, trail=trail)
        if not trail:
            return _SHORT[decision.reason]
        return json.dumps(decision_data(decision, trail=True)) + "\n"
    except PolicyError as error:
        fault = error.faults[0]
    except Unreadable as error:
        fault = error.fault
    return json.dumps({"error": fault.message, "pointer": fault.pointer}) + "\n"


def check(asked: argparse.Namespace) -> int:
    """Every error of a document, else its warnings."""
    try:
        policy = read_policy(asked.policy)
    except PolicyError as error:
        for fault in error.faults:
            print(f"error {fault}")
        return WRONG
    for warning in review(policy):
        print(f"warning {warning}")
    return FINE


def prove_all(asked: argparse.Namespace) -> int:
    """The expectations that do not hold, each with the first answer against it: the policy's, or those of a file."""
    policy = read_policy(asked.policy)
    every = list(policy.expectations.values())
    if asked.sentences is not None:
        every, faults = said_in(_text(asked.sentences), policy, policy.tree)
        for fault in faults:
            print(f"error {fault}", file=sys.stderr)
        if faults:
            return UNABLE
    results = prove(Engine(policy), every, _when(asked), _every("expectations"))
    for result in results:
        if not result.holds:
            print(_against(result))
        elif not result.asked:
            print(f"warning {result.expectation.id}: this asks nothing", file=sys.stderr)
    return FINE if all(result.holds for result in results) else WRONG


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except UnicodeDecodeError:
        raise Unable(f"{path} is not UTF-8") from None


def _against(result: Result) -> str:
    e, against = result.expectation, result.against
    told = f"{e.id}: expected {e.expect}{f' ({e.reason})' if e.reason else ''}"
    if against is not None:
        place = f" at {against.node}" if against.node else ""
        told += f", but {_name(against.who)}{place} gets {against.reason}"
    count = f"; {result.failed} of {result.asked} answers" if result.asked > 1 else ""
    return f"{told}{count}{f' - {e.note}' if e.note else ''}"


def explain(asked: argparse.Namespace) -> int:
    """One question, answered with its trail in words."""
    engine = Engine(read_policy(asked.policy))
    try:
        request = read_json(asked.question)
        if asked.at is not None and isinstance(request, dict):
            request.setdefault("at", asked.at)
        question = read_question(request, engine.policy, engine.tree)
    except Unreadable as error:
        raise PolicyError([error.fault]) from None
    for line in explained(engine.decide(question, trail=True)):
        print(line)
    if asked.advice:
        for line in advised(advise(engine, question, question.at or _when(asked))):
            print(line)
    return FINE


def tell_impact(asked: argparse.Namespace) -> int:
    """Who gains and loses what between two documents, and on how many nodes."""
    before, after = (Engine(read_policy(file)) for file in (asked.before, asked.after))
    gc.freeze()
    changed = impact(before, after, _when(asked), partial(_progress, "parts"), partial(shared_out, share=1))
    if asked.json:
        print(json.dumps(_impact_data(changed)))
    else:
        for line in _impact_words(changed):
            print(line)
    return FINE


def _impact_data(changed: Impact) -> dict[str, Any]:
    return {
        "gain": len(changed.gain),
        "lose": len(changed.lose),
        "accounts": [
            {"account": who, "turned": {name: deltas._asdict() for name, deltas in sorted(turns.items())}}
            for who, turns in sorted(changed.deltas.items(), key=lambda item: str(item[0] or ""))
        ],
    }


def _impact_words(changed: Impact) -> Iterator[str]:
    yield f"{len(changed.gain)} gain, {len(changed.lose)} lose"
    for who, turns in sorted(changed.deltas.items(), key=lambda item: str(item[0] or "")):
        for name, deltas in sorted(turns.items()):
            gained = f" +{deltas.gained}" if deltas.gained else ""
            lost = f" -{deltas.lost}" if deltas.lost else ""
            yield f"{_name(who)}: {name}{gained}{lost}"


def _name(who: Who) -> str:
    if isinstance(who, HypotheticalSubject):
        return f"a holder of {', '.join((*who.roles, *(role for role, _ in who.scoped)))}"
    return "a visitor" if who is None else who


# -- reading what was asked --------------------------------------------------------------------


def _decide_parser(commands: Any) -> None:
    parser = _plain_parser(commands, "decide", decide, "answer a file of questions, one JSON object a line")
    parser.add_argument("--questions", type=Path, required=True, metavar="FILE", help="the questions; - for stdin")
    parser.add_argument("--trail", action="store_true", help="tell every step of each answer")
    _at(parser)


def _explain_parser(commands: Any) -> None:
    parser = _plain_parser(commands, "explain", explain, "answer one question, in words")
    parser.add_argument("--question", required=True, metavar="JSON")
    parser.add_argument("--advice", action="store_true", help="tell what would turn a no, and what else that turns")
    _at(parser)


def _prove_parser(commands: Any) -> None:
    parser = _plain_parser(commands, "prove", prove_all, "ask its expectations; 1 if any does not hold")
    help = "ask the expectations of this file instead, a sentence a line"
    parser.add_argument("--sentences", type=Path, metavar="FILE", help=help)
    _at(parser)


def _impact_parser(commands: Any) -> None:
    parser = commands.add_parser("impact", help="tell who gains and loses what between two documents")
    parser.add_argument("before", type=Path, metavar="BEFORE")
    parser.add_argument("after", type=Path, metavar="AFTER")
    parser.add_argument("--json", action="store_true", help="tell it as JSON")
    _at(parser)
    parser.set_defaults(run=tell_impact)


def _plain_parser(commands: Any, name: str, run: Command, help: str) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(name, help=help)
    parser.add_argument("--policy", type=Path, required=True, metavar="FILE", help="the policy document")
    parser.set_defaults(run=run)
    return parser


def _at(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--at", type=_time, metavar="TIME", help="ask as of this time, where no question says; now")


def _time(text: str) -> str:
    try:
        read_time(text)
    except (ValueError, OverflowError):
        raise argparse.ArgumentTypeError("write a time with its offset, such as 2026-01-01T00:00:00Z") from None
    return text


def _when(asked: argparse.Namespace) -> datetime:
    return datetime.now(UTC) if asked.at is None else read_time(asked.at)


def _opened(file: Path) -> IO[bytes]:
    return sys.stdin.buffer if str(file) == "-" else file.open("rb")


def _every(what: str) -> Callable[[int], None]:
    def tell(done: int) -> None:
        if done % _SOME == 0:
            _progress(what, done)

    return tell


def _progress(what: str, done: int, of: int | None = None) -> None:
    if sys.stderr.isatty() and done:
        end = f" of {of}" if of else ""
        print(f"\r{done}{end} {what}", end="", file=sys.stderr, flush=True)


_SHORT = {reason: json.dumps(decision_data(Decision(reason))) + "\n" for reason in Reason}
