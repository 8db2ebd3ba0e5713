"""Questions in one form, so that two that ask the same are the same (§8)."""

from collections.abc import Mapping
from datetime import UTC
from typing import Any

from gonfalon.core.document.errors import read_time
from gonfalon.core.document.requests import RANGES
from gonfalon.core.document.writer import write_time

_TIMES = ("at", "from", "until")
_SETS = ("types", "topics", "groups")


def normal(question: Mapping[str, Any]) -> dict[str, Any]:
    """A question that can be asked, without what says nothing, its sets in order and its times in UTC."""
    said = {key: value for key, value in question.items() if value is not None and value is not False}
    if "roles" not in said and not said.keys() & set(RANGES):
        said.setdefault("account", None)
    for key in _TIMES:
        if key in said:
            said[key] = in_utc(said[key])
    for key in _SETS:
        if key in said and not (key == "groups" and not said[key]):
            said[key] = sorted(set(said[key]))
    if not said.get("groups", True):
        del said["groups"]
    if said.get("types") == []:
        said.pop("whose", None)
    if "roles" in said:
        said["roles"] = [_role(role) for role in said["roles"]]
    if "scope" in said:
        said["scope"] = _scope(said["scope"])
        if not said["scope"]:
            del said["scope"]
    if "for" in said:
        inner = normal({**said["for"], "action": ""})
        said["for"] = {key: value for key, value in inner.items() if key != "action"}
    return said


def in_utc(time: str) -> str:
    """A time as it is written in UTC."""
    return write_time(read_time(time).astimezone(UTC)) or ""


def _role(said: Any) -> Any:
    if isinstance(said, str):
        return said
    scope = _scope(said.get("scope") or {})
    return {"role": said["role"], "scope": scope} if scope else said["role"]


def _scope(said: Mapping[str, Any]) -> dict[str, list[str]]:
    return {key: sorted(set(said[key])) for key in sorted(said) if said[key] is not None}
