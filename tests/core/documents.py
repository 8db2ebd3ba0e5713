"""The policy document and the questions that the page of rules shows, and one in which everything occurs."""

import json
import re
from pathlib import Path

PAGE = Path(__file__).parents[2] / "docs" / "access-rules.md"
EXAMPLE, QUESTIONS = re.findall(r"```json\n(.*?)```", PAGE.read_text(), re.S)[:2]

EVERYTHING = json.loads(EXAMPLE)
EVERYTHING["accounts"] |= {
    "Ada": {"state": "invited", "groups": ["crew"], "reach": {"media": []}},
    "ada ": {"state": "disabled", "keyholder": True},
    "kåre": {"state": "active", "keyholder": True, "reach": {"content": ["n1", "n2"]}},
}
EVERYTHING["assignments"] += [
    {"id": "a2", "role": "writer", "to": {"account": "Ada"}, "scope": {"sites": [], "topics": ["tides"]}},
    {"id": "a3", "role": "lead", "to": {"account": "ada "}, "from": "2026-05-01T12:30:00.25+02:00"},
]
EVERYTHING["limits"] += [
    {"id": "l2", "node": "n2", "applies": "node", "to": {"account": "Ada"}, "actions": "*", "effect": "bar"},
    {"id": "l3", "node": "n2", "applies": "branch", "to": {"group": "crew"}, "actions": ["edit"], "effect": "lift"},
]
EVERYTHING["roles"]["lead"] |= {"components": [], "facets": {"table": []}}
EVERYTHING["expectations"] += [
    {"id": "e2", "question": {"except_holders_of": "lead", "action": "edit", "branch": "n1"}, "expect": "deny"},
    {
        "id": "e3",
        "question": {"roles": ["writer"], "own": True, "action": "see-field", "node": "n1", "field": "body"},
        "expect": "allow",
        "reason": "allowed",
    },
]
