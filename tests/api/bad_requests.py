"""Requests that nobody should send, made up from the schema of the API: the same ones for the same seed.

for request in bad_requests(seed=1, count=600):
    response = request.send(client)
"""

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from random import Random
from typing import Any
from urllib.parse import quote, urlencode

from django.http import HttpResponse
from django.test import Client
from drf_spectacular.generators import SchemaGenerator

Schema = dict[str, Any]

IDS = {
    "role": ["tenant-editor", "everyone", "pilot"],
    "account": ["ines", "odile", "agnes"],
    "node": ["p3-sail-loft", "min-2026-10", "home-harbour", "pic-sail-loft"],
    "site": ["harbour", "regatta"],
    "markup_set": ["prose"],
    "extension": ["tide-table", "results-board"],
}
"""Ids that are there, by the name of what asks for them."""
WORDS = [
    *(
        "account",
        "role",
        "group",
        "ines",
        "tenant-editor",
        "tenants",
        "berth",
        "berth.edit",
        "edit",
        "see",
        "desk.open",
    ),
    *(
        "text",
        "table",
        "button",
        "wording",
        "own",
        "all",
        "yes",
        "barred",
        "stop",
        "node",
        "branch",
        "table",
        "p3-sail-loft",
    ),
    *("set-answer", "give-role", "take-role", "set-limit", "drop-limit", "set-field-rule", "set-facets", "drop-role"),
    *("set-components", "set-builds-on", "put-role", "see-field", "change-field", "dues", "harbour", "tides", "prose"),
]
NASTY: list[Any] = [
    *(
        None,
        True,
        False,
        0,
        -1,
        1.5,
        2**31,
        2**63,
        10**400,
        10**25,
        1e308,
        [],
        {},
        [[]],
        [None],
        {"": ""},
        [{}],
        {"a": {}},
    ),
    *(
        "",
        " ",
        "x" * 300,
        "x" * 70_000,
        "²",
        "٣",
        "null",
        "\0",
        "\ud800",
        "a\udfff",
        "‮",
        "𝔘",
        "é",
        "%00",
        "../..",
        "1e999",
    ),
    *(
        "<![",
        "<![CDATA[",
        "<" * 3_000,
        "<a href='//x'>",
        "<p onclick=x>",
        "http://[",
        "//host",
        "/\\host",
        "java\tscript:x",
    ),
    *("2026-13-40", "2026-02-30T00:00:00Z", "9999-12-31T23:59:59-23:59", "0001-01-01T00:00:00+14:00", "-0", "'; --"),
]
RAW = [
    *(b"", b"null", b"[]", b"5", b'"text"', b"{", b"\xff\xfe", b'{"a":' * 100_000, b"[" * 100_000, b'{"a": NaN}'),
    *(b'{"name": "\\ud800"}', b'{"\\ud800": 1}', b'{"a": 1e999}', b"9" * 5_000, b'{"a": ' + b"9" * 5_000 + b"}"),
]
TYPES = ["application/json"] * 40 + [
    "text/plain",
    "application/x-www-form-urlencoded",
    "multipart/form-data; boundary=x",
    "",
]


_TO = {"kind": "account", "id": "ines"}
_OPERATIONS = [
    {"kind": "set-answer", "role": "pilot", "capability": "berth.edit", "says": "all"},
    {"kind": "set-builds-on", "role": "pilot", "builds_on": "tenant-editor"},
    {"kind": "set-components", "role": "pilot", "components": ["text", "table"]},
    {"kind": "set-facets", "role": "pilot", "component": "text", "facets": ["wording"]},
    {"kind": "drop-role", "role": "pilot"},
    {
        "kind": "give-role",
        "role": "pilot",
        "to": _TO,
        "scope": {"branches": ["moorings"], "sites": ["harbour"], "types": ["berth"], "topics": ["tides"]},
        "starts": "2030-01-01T00:00:00Z",
        "ends": "2031-01-01T00:00:00Z",
    },
    {"kind": "take-role", "assignment": "given-1"},
    {"kind": "set-limit", "node": "moorings", "to": _TO, "effect": "stop", "applies": "branch", "actions": ["edit"]},
    {"kind": "drop-limit", "limit": "limit-1"},
    {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "table", "table": {"pilot": ["see-all"]}},
]
_COMPONENTS = [
    {"id": "p3-sail-loft-heading", "kind": "heading", "props": {"text": "Sails", "level": 2}},
    {"kind": "text", "props": {"html": "<p>Open at <a href='/notices'>slack water</a></p>"}},
    {"kind": "picture", "props": {"picture": "pic-sail-loft", "caption": "The loft", "width": "wide"}},
    {"kind": "table", "props": {"rows": [["a", "b"]], "head": True, "caption": "c"}},
    {"kind": "button", "props": {"label": "Write", "link": "mailto:loft@sailloft.example", "tone": "plain"}},
]
_VALUES = {"telephone": "0550", "dues": 1250, "plan": "pic-sail-loft", "valid_from": "2030-01-01", "advice": "<p>x</p>"}
EXAMPLES: dict[str, list[Any]] = {
    "stage": [{"operations": [one]} for one in _OPERATIONS],
    "preview": [{"operations": [one]} for one in _OPERATIONS],
    "save_page": [{"title": "Loft", "values": _VALUES}, *({"components": [one]} for one in _COMPONENTS)],
    "record_expectation": [
        {"account": "ines", "action": "edit", "node": "p3-sail-loft", "expect": "allow", "note": "hers"},
        {
            "holders_of": "pilot",
            "action": "see-field",
            "branch": "moorings",
            "types": ["berth"],
            "field": "dues",
            "expect": "deny",
        },
    ],
    "make_role": [{"name": "Crew", "copy_of": "pilot"}, {"name": "Crew", "builds_on": "pilot"}],
    "make_markup_set": [{"name": "Wide", "elements": {"p": ["class"], "a": ["href"]}, "schemes": ["https"]}],
    "change_markup_set": [{"name": "Wide", "elements": {"p": ["class"], "a": ["href"]}, "schemes": ["https"]}],
}
"""Requests that would be fine, to be spoilt in one place or two."""


@dataclass
class BadRequest:
    """One request, as it can be sent and told."""

    method: str
    path: str
    body: bytes = b""
    content_type: str = "application/json"
    headers: dict[str, str] = field(default_factory=dict)
    tagged: bool = False
    """Whether the schema says that it needs If-Match."""

    def send(self, client: Client) -> HttpResponse:
        return client.generic(self.method.upper(), self.path, self.body, self.content_type, headers=self.headers)

    def __str__(self) -> str:
        return f"{self.method} {self.path} {self.content_type} {self.headers} {self.body[:600]!r}"


def bad_requests(seed: int, count: int) -> Iterator[BadRequest]:
    """So many requests, each operation of the schema in its turn."""
    schema = SchemaGenerator().get_schema(request=None, public=True)
    making = Making(Random(seed), schema["components"]["schemas"])
    operations = [
        (method, path, operation)
        for path, methods in sorted(schema["paths"].items())
        for method, operation in sorted(methods.items())
    ]
    writing = [one for one in operations if one[0] != "get"]
    for i in range(count):
        every = operations if i % 4 == 0 else writing  # reading has less to go wrong
        yield making.request(*every[i % len(every)])


class Making:
    def __init__(self, random: Random, schemas: dict[str, Schema]) -> None:
        self.random, self.schemas = random, schemas

    def request(self, method: str, path: str, operation: Schema) -> BadRequest:
        query = {}
        headers = {"If-Match": self.random.choice(['"1"'] * 8 + ['"7"', "*", "no tag", ""])}
        tagged = any(p["name"] == "If-Match" and p["required"] for p in operation.get("parameters", ()))
        for parameter in operation.get("parameters", ()):
            name = parameter["name"]
            if parameter["in"] == "path":
                path = path.replace(f"{{{name}}}", quote(self.id(name), safe=""))
            elif parameter["in"] == "query" and self.random.random() < 0.7:
                query[name] = self.text(name)
        if query:
            path = f"{path}?{urlencode(query, errors='surrogatepass')}"
        if method == "get":
            return BadRequest(method, path, tagged=tagged)
        content = operation.get("requestBody", {}).get("content", {}).get("application/json", {})
        examples = EXAMPLES.get(operation["operationId"], [])
        if self.random.random() < 0.1:
            body = self.random.choice(RAW)
        elif examples and self.random.random() < 0.8:
            body = self.written(self.random.choice(examples), self.random.choice([1, 1, 2]))
        else:
            body = self.written(self.value(content.get("schema", {}), 0), self.random.choice([0, 1, 1, 2]))
        return BadRequest(method, path, body, self.random.choice(TYPES), headers, tagged)

    def id(self, name: str) -> str:
        if name == "position":
            return str(self.random.choice([1, 0, 10**18, 10**25]))
        known = IDS.get(name, [])
        return self.random.choice(known[:1] * 12 + known * 2 + ["nobody", "x" * 200, "-", "1"])

    def text(self, name: str) -> str:
        value = self.random.choice([*IDS.get(name, WORDS), *WORDS, *(n for n in NASTY if isinstance(n, str | int))])
        return str(value) if value != 10**400 else "9" * 400

    def written(self, value: Any, spoils: int) -> bytes:
        for _ in range(spoils):
            value = self.spoilt(value)
        return json.dumps(value).encode("utf-8", "surrogatepass")

    def value(self, schema: Schema, depth: int) -> Any:
        """A value as the schema asks for, most of the time of words that mean something here."""
        if "$ref" in schema:
            schema = self.schemas[schema["$ref"].rpartition("/")[2]]
        if "allOf" in schema or "oneOf" in schema:
            return self.value(self.random.choice(schema.get("allOf") or schema["oneOf"]), depth)
        if "enum" in schema:
            return self.random.choice([*schema["enum"], *schema["enum"], "x"])
        kind = schema.get("type")
        if kind == "object" and "properties" in schema:
            return {
                name: self.value(inner, depth + 1)
                for name, inner in schema["properties"].items()
                if name in schema.get("required", ()) or self.random.random() < 0.6
            }
        if kind == "object":
            return self.operation() if depth < 3 else {self.random.choice(WORDS): self.random.choice([*WORDS, *NASTY])}
        if kind == "array":
            return [self.value(schema.get("items", {}), depth + 1) for _ in range(self.random.choice([0, 1, 1, 2]))]
        if kind == "boolean":
            return self.random.random() < 0.5
        if kind in ("integer", "number"):
            return self.random.choice([0, 1, 2, 10**6])
        return self.random.choice(WORDS)

    def operation(self) -> dict[str, Any]:
        """Something like an operation, a page's values or a component's properties."""
        names = [
            "kind",
            "role",
            "to",
            "scope",
            "capability",
            "says",
            "node",
            "effect",
            "applies",
            "actions",
            "type",
            "field",
        ]
        names += [
            "mode",
            "table",
            "component",
            "facets",
            "components",
            "starts",
            "ends",
            "limit",
            "assignment",
            "id",
            "props",
        ]
        names += ["builds_on", "dues", "title", "html", "link", "rows", "telephone", "plan", "picture"]
        some = self.random.sample(names, self.random.randint(1, 9))
        values = [
            *WORDS,
            *NASTY,
            {"kind": "account", "id": "ines"},
            {"branches": ["p3-sail-loft"]},
            ["edit"],
            {"pilot": ["fill"]},
        ]
        return {"kind": self.random.choice(WORDS), **{name: self.random.choice(values) for name in some}}

    def altered(self, value: Any) -> Any:
        """The same with some of its words replaced by others that mean something: often it is still fine."""
        if isinstance(value, dict):
            return {name: self.altered(inner) for name, inner in value.items()}
        if isinstance(value, list):
            return [self.altered(inner) for inner in value]
        return self.random.choice(WORDS) if isinstance(value, str) and self.random.random() < 0.12 else value

    def spoilt(self, value: Any) -> Any:
        """The same with something in it that does not belong there."""
        if isinstance(value, dict) and value and self.random.random() < 0.85:
            name = self.random.choice(sorted(value))
            return value | {name: self.spoilt(value[name])}
        if isinstance(value, list) and value and self.random.random() < 0.85:
            at = self.random.randrange(len(value))
            return [*value[:at], self.spoilt(value[at]), *value[at + 1 :]]
        return self.random.choice(NASTY)
