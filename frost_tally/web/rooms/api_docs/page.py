"""Garage, for scripts: every address of the API with what it takes and answers, from its own schema."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from ...api.routes import schema
from ...once import Router
from ...page import render

router = Router()
Schema = Mapping[str, Any]


@dataclass(frozen=True)
class Value:
    """A value that is sent or answered: its name, its kind in words, whether it must be there, and what it is for."""

    name: str
    kind: str
    needed: bool
    about: str


@dataclass(frozen=True, kw_only=True)
class Operation:
    """An address with a method: what it is for, what it takes, what it answers."""

    method: str
    path: str
    about: str
    takes: tuple[Value, ...]
    answers: str


@router.get("/api/docs")
def docs(request: Request) -> Response:
    """All of it on one page."""
    described = schema()
    parts = described["components"]["schemas"]
    shapes = {name: _values(parts[name], parts) for name in sorted(parts) if name not in ("Problem", "BadValue")}
    return render(request, "api_docs/room.html", room="garage", tab="people", operations=_operations(described), shapes=shapes,
        about={name: parts[name].get("description", "") for name in shapes}, base=str(request.base_url).rstrip("/"))  # fmt: skip


def _operations(described: Schema) -> tuple[Operation, ...]:
    parts, found = described["components"]["schemas"], []
    for path, methods in described["paths"].items():
        for method, each in methods.items():
            sent = each.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
            body = _values(_resolved(sent, parts), parts) if sent else ()
            answer = next(
                told["content"]["application/json"]["schema"]
                for code, told in each["responses"].items()
                if code in ("200", "201")
            )
            asked = tuple(
                Value(p["name"], _kind(p["schema"]), p.get("required", False), p.get("description", ""))
                for p in each.get("parameters", ())
            )
            words = {"about": each.get("description") or f"{each['summary']}.", "answers": _kind(answer)}
            found.append(Operation(method=method.upper(), path=path, takes=asked + body, **words))
    return tuple(found)


def _resolved(told: Schema, parts: Schema) -> Schema:
    found: Schema = parts[told["$ref"].rpartition("/")[2]] if "$ref" in told else told
    return found


def _values(told: Schema, parts: Schema) -> tuple[Value, ...]:
    needed = told.get("required", ())
    return tuple(
        Value(name, _kind(each), name in needed, each.get("description", "")) for name, each in told.get("properties", {}).items()
    )


def _kind(told: Schema) -> str:
    """A value's kind, in words."""
    if "$ref" in told:
        return str(told["$ref"].rpartition("/")[2])
    if "anyOf" in told:
        return " or ".join(_kind(each) for each in told["anyOf"])
    if "enum" in told or "const" in told:
        return " | ".join(f"“{each}”" for each in told.get("enum", [told.get("const")]))
    if told.get("type") == "array":
        return f"list of {_kind(told.get('items') or told.get('prefixItems', [{}])[0])}"
    if told.get("type") == "object" and "additionalProperties" in told:
        return f"object of {_kind(told['additionalProperties'])}"
    kind = {"number": "number", "integer": "whole number", "string": "text", "boolean": "yes or no", "null": "null"}.get(
        str(told.get("type")), "object"
    )
    kind = {"date-time": "time, ISO 8601", "date": "date", "time": "time of day"}.get(str(told.get("format")), kind)
    low, high = told.get("minimum"), told.get("maximum")
    return f"{kind}, {low:g} to {high:g}" if low is not None and high is not None and high < 1e8 else kind
