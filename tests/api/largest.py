"""The largest body that the schema lets anybody send to each address, of things that there are, as far as it says any.

for request in largest_requests({"nodes": [...], ...}):
    response = request.send(asking)
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import cycle, islice
from typing import Any

from drf_spectacular.generators import SchemaGenerator

from tests.api.bad_requests import IDS
from tests.api.support import Asking

Schema = dict[str, Any]
FOLDED = "\N{ARABIC LIGATURE SALLALLAHOU ALAYHE WASALLAM}"
"""One character that folding makes eighteen of."""
MOST_LISTED = 1_000
DEEPEST = 5
STAGING = "/api/change-set/operations"
PATHS = {"assignment": "given-1", "operation": "1", "position": "1", "topic": "tides", "kind": "berth", "field": "dues"}


@dataclass(frozen=True)
class Largest:
    """One request, as it can be sent and told."""

    method: str
    path: str
    body: Any

    def send(self, asking: Asking) -> Any:
        return asking._send(self.method, self.path, self.body, {"If-Match": '"1"'})

    def __str__(self) -> str:
        return f"{self.method} {self.path}"


def largest_requests(there: Mapping[str, list[str]]) -> Iterator[Largest]:
    """Of each address; where operations are staged, of each kind of them. `there` has ids of what there is, by sort."""
    schema = SchemaGenerator().get_schema(request=None, public=True)
    making = _Making(schema["components"]["schemas"], there)
    for path, methods in sorted(schema["paths"].items()):
        for method, operation in sorted(methods.items()):
            content = operation.get("requestBody", {}).get("content", {}).get("application/json", {})
            if "schema" not in content:
                continue
            for parameter in operation.get("parameters", ()):
                if parameter["in"] == "path":
                    name = parameter["name"]
                    path = path.replace(f"{{{name}}}", PATHS.get(name, IDS.get(name, ["nothing"])[0]))
            for body in islice(making.bodies(content["schema"]), None if path == STAGING else 1):
                yield Largest(method, path.removeprefix("/api/"), body)


class _Making:
    def __init__(self, schemas: dict[str, Schema], there: Mapping[str, list[str]]) -> None:
        self.schemas = schemas
        self.known = {
            **dict.fromkeys(("node", "nodes", "branch", "branches", "parent", "to", "before"), there["nodes"]),
            **dict.fromkeys(("role", "roles", "hand_to", "copy_of", "builds_on"), there["roles"]),
            **dict.fromkeys(("account", "accounts", "id", "reviewers"), there["accounts"]),
            **dict.fromkeys(("group", "receivers"), there["groups"]),
            **dict.fromkeys(("topics", "into"), there["topics"]),
            "sites": ["harbour", "regatta"],
            "types": ["berth", "event", "notice", "section"],
            "type": ["berth"],
            "field": ["dues"],
            "capability": ["berth.edit", "event.edit"],
            "components": ["text", "table"],
            "component": ["text"],
            "actions": ["edit", "publish"],
            "assignment": ["given-1"],
            "limit": ["limit-1"],
            "says": ["all"],
        }

    def bodies(self, schema: Schema) -> Iterator[Any]:
        """A body of each shape that operations may have; else the one that there is."""
        shapes = self._shapes(schema)
        for shape in shapes or [None]:
            yield self.value(schema, "", 0, shape)

    def _shapes(self, schema: Schema) -> list[Schema]:
        read = self._read(schema)
        inner = read.get("properties", {}).get("operations", {}).get("items", {})
        return self._read(inner).get("oneOf", []) if inner else []

    def _read(self, schema: Schema) -> Schema:
        while "$ref" in schema:
            schema = self.schemas[schema["$ref"].rpartition("/")[2]]
        return schema

    def value(self, schema: Schema, name: str, depth: int, shape: Schema | None) -> Any:
        schema = self._read(schema)
        if "allOf" in schema:
            schema = self._read(schema["allOf"][0])
        if "oneOf" in schema:
            schema = self._read(shape or schema["oneOf"][0])
        if "enum" in schema:
            return schema["enum"][0]
        kind = schema.get("type")
        if depth > DEEPEST or kind is None:
            return None
        if kind == "object" and "properties" in schema:
            return {key: self.value(inner, key, depth + 1, shape) for key, inner in schema["properties"].items()}
        if kind == "object":
            inner = schema.get("additionalProperties")
            one = self.value(inner, name, depth + 3, shape) if isinstance(inner, dict) else FOLDED * 400
            return {f"key-{n}": one for n in range(1 if depth > 2 else 300)}
        if kind == "array":
            return self._list(schema, name, depth, shape)
        if kind == "string":
            return self._text(schema, name)
        return {"integer": schema.get("maximum", 100), "number": 1, "boolean": True}.get(kind)

    def _list(self, schema: Schema, name: str, depth: int, shape: Schema | None) -> list[Any]:
        most = min(schema.get("maxItems", MOST_LISTED), 2_000)
        items = self._read(schema["items"])
        if "enum" in items:
            return list(islice(cycle(items["enum"]), most))
        if name in self.known and items.get("type") == "string":
            return list(islice(cycle(self.known[name]), most))
        return [self.value(schema["items"], name, depth + 1, shape) for _ in range(most if depth < 3 else 20)]

    def _text(self, schema: Schema, name: str) -> str:
        if schema.get("format") == "date-time":
            return "2030-01-01T00:00:00Z"
        if name in self.known:
            return self.known[name][0]
        if name == "email":
            return "ines@sailloft.example"
        return FOLDED * min(schema.get("maxLength", 500), 60_000)
