"""JSON as files and lines of it come, and policies and answers as JSON.

Repeated keys, NaN, too deep nesting and broken text are told, not passed over.
"""

import json
from collections import Counter
from pathlib import Path
from typing import Any

from gonfalon.core.document.errors import Fault, PolicyError, Repeated
from gonfalon.core.document.reader import load_policy
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import Decision, Finding


def read_json(text: str | bytes) -> Any:
    """The value some JSON says. Raises PolicyError with one fault when it is no JSON."""
    try:
        return _DECODER.decode(text.decode("utf-8-sig") if isinstance(text, bytes) else text)
    except RecursionError:
        reason = "this is nested too deeply"
    except UnicodeDecodeError as error:
        reason = f"this is not UTF-8: {error.reason} at byte {error.start}"
    except json.JSONDecodeError as error:
        reason = f"this is not JSON: {error.msg} at line {error.lineno}, column {error.colno}"
    except ValueError as error:
        reason = f"this is not JSON: {error}"
    raise PolicyError([Fault("", reason)])


def read_policy(file: Path) -> Policy:
    """The policy in a file. Raises OSError, or PolicyError with all that is wrong."""
    return load_policy(read_json(file.read_bytes()))


def decision_data(decision: Decision, *, trail: bool = False) -> dict[str, Any]:
    """An answer as §8 writes it; with `trail`, the longer form (§6)."""
    answer: dict[str, Any] = {"allow": decision.allow, "reason": str(decision.reason)}
    if trail:
        answer["trail"] = [
            {
                "step": step.step,
                **({"capability": step.capability} if step.capability else {}),
                "passed": step.passed,
                "findings": [_finding(finding) for finding in step.findings],
            }
            for step in decision.trail
        ]
    return answer


def _finding(finding: Finding) -> dict[str, Any]:
    named = {name: getattr(finding, name) for name in ("what", "id", "role", "group", "says", "said_by", "reason")}
    found = {name: str(value) for name, value in named.items() if value is not None}
    return {**found, "limits": list(finding.limits)} if finding.limits else found


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    made = dict(pairs)
    if len(made) == len(pairs):
        return made
    repeated = Repeated(made)
    counted = Counter(key for key, _ in pairs)
    repeated.keys_twice = tuple(key for key, count in counted.items() if count > 1)
    return repeated


def _constant(word: str) -> Any:
    raise ValueError(f"{word} is no number that JSON knows")


_DECODER = json.JSONDecoder(object_pairs_hook=_object, parse_constant=_constant)
