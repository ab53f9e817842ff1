"""Fields: what is entered of a part and kept, declared once where the value stands.

    limit: Annotated[float, Field("percent", 0.3, 1.0)] = 0.8

Checks, columns of the store, forms, rows and what a document may have follow from these; words stand in `web/words/fields.py`.
Why: docs/decisions/0069.
"""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import KW_ONLY, MISSING, dataclass, fields, is_dataclass, replace
from enum import StrEnum
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, TypeVar, Union, cast, get_args, get_origin, get_type_hints

from .measures import units_of

Value = TypeVar("Value")
NEEDED: Any = object()
"""Stands for a field that must be entered."""


@dataclass(frozen=True, kw_only=True)
class Declared:
    """A field where it stands: the names that lead to it from its part, its kind, whether there may be none, its default (or MISSING)."""

    path: tuple[str, ...]
    kind: type
    optional: bool
    default: Any
    field: "Field"

    @property
    def codes(self) -> tuple[Any, ...]:
        """What it may be, where that is listed; yes and no are not."""
        return tuple(self.kind) if issubclass(self.kind, StrEnum) else self.field.codes


@dataclass(frozen=True)
class Field:
    """What is entered: the quantity of a number ("" for all else) with its range in SI and the step of its lever; `column` is its name in
    store and forms (its own when ""), `what` how a refusal calls it, `longest` the letters of a text, `codes` what else it may be; what an
    `empty` one means.
    """

    quantity: str = ""
    low: float = 0.0
    high: float = 0.0
    step: float = 1.0
    _: KW_ONLY
    column: str = ""
    what: str = ""
    longest: int = 60
    codes: tuple[Any, ...] = ()
    empty: Any = NEEDED

    @property
    def unit(self) -> str:
        """The core's unit of its numbers; a share has none."""
        return "" if self.quantity in ("", "percent") else units_of(self.quantity)[0].label


def declared(kind: type) -> Mapping[str, Declared]:
    """The fields of a part, and of what it is made of, by column in their order."""
    return _declared(cast(Hashable, kind))


@cache
def _declared(kind: Any) -> Mapping[str, Declared]:
    found: dict[str, Declared] = {}
    for each in fields(kind):
        hint, marks = _marked(_hints(cast(Hashable, kind))[each.name])
        base, optional = _optional(hint)
        default = each.default if each.default_factory is MISSING else each.default_factory()
        for field in marks:
            found[field.column or each.name] = Declared(
                path=(each.name,), kind=base, optional=optional, default=default, field=field
            )
        if not marks and _has_fields(base):
            for column, inner in declared(base).items():
                found[column] = replace(inner, path=(each.name, *inner.path), default=_within(default, inner))
    return found


@cache
def _hints(kind: Any) -> dict[str, Any]:
    return get_type_hints(kind, include_extras=True)


def _within(default: Any, inner: Declared) -> Any:
    """The default of a field of what a part is made of."""
    if default is MISSING:
        return inner.default
    for name in inner.path:
        default = getattr(default, name)
    return default


def _marked(hint: Any) -> tuple[Any, list[Field]]:
    if get_origin(hint) is not Annotated:
        return hint, []
    base, *marks = get_args(hint)
    return base, [each for each in marks if isinstance(each, Field)]


def _optional(hint: Any) -> tuple[Any, bool]:
    """The kind of a value, and whether there may be none."""
    if get_origin(hint) not in (Union, UnionType):
        return hint, False
    return next(each for each in get_args(hint) if each is not NoneType), True


def plain_values(part: Any) -> dict[str, Any]:
    """All fields of a part as they are kept, by column."""
    found = {}
    for column, each in declared(type(part)).items():
        value = part
        for name in each.path:
            value = getattr(value, name)
        found[column] = value.value if isinstance(value, StrEnum) else value
    return found


def with_values(part: Value, values: Mapping[str, Any]) -> Value:
    """The part with some fields changed, from kept values by column."""
    return _changed(part, {declared(type(part))[column].path: _of_kind(part, column, value) for column, value in values.items()})


def _of_kind(part: Any, column: str, value: Any) -> Any:
    return _coded(declared(type(part))[column].kind, value)


def _changed(part: Value, changes: Mapping[tuple[str, ...], Any]) -> Value:
    inner: dict[str, dict[tuple[str, ...], Any]] = {}
    own = {path[0]: value for path, value in changes.items() if len(path) == 1}
    for path, value in changes.items():
        if len(path) > 1:
            inner.setdefault(path[0], {})[path[1:]] = value
    return replace(part, **own, **{name: _changed(getattr(part, name), each) for name, each in inner.items()})  # type: ignore[type-var]


def made_of_values(kind: type[Value], get: Callable[[str], Any], has: Callable[[str], bool], **more: Any) -> Value:
    """A part from kept values: `get` gives one by its column, or by its name where it is no field; what `has` not keeps its default."""
    own = {each.path[0]: column for column, each in declared(kind).items() if len(each.path) == 1}
    values: dict[str, Any] = dict(more)
    for name in (each.name for each in fields(kind) if each.name not in more):  # type: ignore[arg-type]
        column, base = own.get(name, name), _optional(_marked(_hints(cast(Hashable, kind))[name])[0])[0]
        if name not in own and _has_fields(base):
            values[name] = made_of_values(base, get, has)
        elif has(column):
            values[name] = _coded(base, get(column))
    return kind(**values)


def _has_fields(kind: Any) -> bool:
    return isinstance(kind, type) and is_dataclass(kind) and bool(declared(kind))


def _coded(kind: Any, value: Any) -> Any:
    """A kept value as its kind has it: a code as the member that it names."""
    return kind(value) if value is not None and isinstance(kind, type) and issubclass(kind, StrEnum) else value
