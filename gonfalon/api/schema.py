"""What the OpenAPI schema says of every operation: that it may answer with a problem (RFC 9457)."""

from typing import Any

PROBLEM = {
    "type": "object",
    "required": ["status", "reason", "title", "detail"],
    "properties": {
        "status": {"type": "integer"},
        "reason": {"type": "string"},
        "title": {"type": "string"},
        "detail": {"type": "string"},
        "errors": {
            "type": "array",
            "items": {
                "type": "object",
                "required": ["pointer", "message"],
                "properties": {"pointer": {"type": "string"}, "message": {"type": "string"}},
            },
        },
        "trail": {"type": "array", "items": {"type": "object"}},
        "theirs": {"type": "object", "additionalProperties": True},
    },
}


def add_problems(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """A drf-spectacular hook: give every operation a default answer that is a problem."""
    result["components"]["schemas"]["Problem"] = PROBLEM
    problem = {
        "description": "A refusal or an error",
        "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }
    for methods in result["paths"].values():
        for operation in methods.values():
            operation["responses"]["default"] = problem
    return result
