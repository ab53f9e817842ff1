"""Forms at the edge: Pydantic models whose fields know their quantity, and messages that stand beside the field."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import time
from typing import Any, TypeVar

from pydantic import BaseModel, Field, ValidationError
from pydantic.fields import FieldInfo

from ..formats import values
from .units import Units

Form = TypeVar("Form", bound=BaseModel)
NONE = "none"
"""The text of several things to tick when none is."""


def number(label: str, quantity: str, low: float, high: float, hint: str = "", default: Any = ..., step: float = 1.0) -> Any:
    """A number field in SI between low and high; shown and typed in the owner's unit."""
    return Field(
        default,
        ge=low,
        le=high,
        title=label,
        description=hint,
        allow_inf_nan=False,
        json_schema_extra={"quantity": quantity, "kind": "number", "step": step},
    )


def choice(label: str, options: Mapping[str, str], hint: str = "", default: Any = ...) -> Any:
    """One of some named options."""
    return Field(default, title=label, description=hint, json_schema_extra={"kind": "choice", "options": dict(options)})


def picks(label: str, default: Any = ...) -> Any:
    """Some of several things, each by its number; they come as one text of numbers with commas between them."""
    return Field(default, title=label, json_schema_extra={"kind": "picks"})


def text(label: str, longest: int = 60, hint: str = "", default: Any = ...) -> Any:
    """A short text."""
    return Field(default, min_length=1, max_length=longest, title=label, description=hint, json_schema_extra={"kind": "text"})


def clock(label: str, hint: str = "", default: Any = ...) -> Any:
    """A time of day."""
    return Field(default, title=label, description=hint, json_schema_extra={"kind": "time"})


def day(label: str, hint: str = "", default: Any = ...) -> Any:
    """A date."""
    return Field(default, title=label, description=hint, json_schema_extra={"kind": "date"})


@dataclass(frozen=True, kw_only=True)
class FieldView:
    """One field as the template draws it; low and high are in the owner's unit, `usual` a lever's text before it is pulled."""

    name: str
    label: str
    kind: str
    value: str
    unit: str
    hint: str
    error: str
    low: str = ""
    high: str = ""
    step: str = "any"
    options: Mapping[str, str] = field(default_factory=dict)
    usual: str | None = None


def parse(model: type[Form], typed: Mapping[str, str], units: Units) -> tuple[Form | None, dict[str, str]]:
    """The checked form, or None and a message for each field that will not do. What was typed is not changed."""
    found, errors = checked(model, typed, units)
    return (None, errors) if errors else (model.model_construct(**found), {})


def checked(model: type[BaseModel], typed: Mapping[str, str], units: Units) -> tuple[dict[str, Any], dict[str, str]]:
    """The values of the fields that will do, in SI, and a message for each that will not. A field nobody has to fill may be empty."""
    found: dict[str, Any] = {}
    errors: dict[str, str] = {}
    for name, info in model.model_fields.items():
        raw = typed.get(name, "").strip()
        if not raw and not info.is_required():
            continue
        try:
            found[name] = _read(raw, info, units)
        except ValueError:
            errors[name] = _message(info, units, raw)
    while True:
        try:
            form = model.model_validate(found)
            return {name: getattr(form, name) for name in found}, errors
        except ValidationError as problem:
            wrong = {str(each["loc"][0]) for each in problem.errors()}
            for name in wrong - errors.keys():
                errors[name] = _message(model.model_fields[name], units, typed.get(name, "").strip())
            if not wrong & found.keys():
                return {}, errors
            found = {name: value for name, value in found.items() if name not in wrong}


def _read(raw: str, info: FieldInfo, units: Units) -> Any:
    """A text as its field's kind. Raises: ValueError for one that is none."""
    extra = _extra(info)
    match extra["kind"]:
        case "number":
            return units.of(extra["quantity"]).read(values.number(raw))
        case "time":
            return values.clock(raw)
        case "date":
            return values.day(raw)
        case "text":
            return values.words(raw, _longest(info))
        case "picks":
            return () if raw == NONE else tuple(sorted(values.whole(each) for each in raw.split(",")))
    if raw not in extra["options"]:
        raise ValueError("not one of the choices")
    return raw


def views(model: type[BaseModel], texts: Mapping[str, str], errors: Mapping[str, str], units: Units) -> dict[str, FieldView]:
    """All fields of a form for its template."""
    return {
        name: _view(name, info, texts.get(name, ""), errors.get(name, ""), units) for name, info in model.model_fields.items()
    }


def shown(form: BaseModel | Mapping[str, Any], model: type[BaseModel], units: Units) -> dict[str, str]:
    """The values of a form (or of a mapping in SI) as text in the owner's units."""
    given = form.model_dump() if isinstance(form, BaseModel) else form
    return {name: _shown(given.get(name), info, units) for name, info in model.model_fields.items()}


def _shown(value: Any, info: FieldInfo, units: Units) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, time):
        return value.strftime("%H:%M")
    if isinstance(value, tuple):
        return ",".join(str(each) for each in sorted(value)) or NONE
    quantity = _extra(info).get("quantity")
    return units.field(float(value), quantity) if quantity else str(value)


def _view(name: str, info: FieldInfo, value: str, error: str, units: Units) -> FieldView:
    extra = _extra(info)
    quantity = extra.get("quantity")
    low, high = _limits(info)
    unit = units.of(quantity) if quantity else None
    return FieldView(
        name=name,
        label=info.title or name,
        kind=extra.get("kind", "text"),
        value=value,
        unit=unit.label if unit else "",
        hint=info.description or "",
        error=error,
        low=units.field(low, quantity) if quantity and low is not None else "",
        high=units.field(high, quantity) if quantity and high is not None else "",
        step=str(extra.get("step", "any")),
        options=extra.get("options", {}),
    )


def _extra(info: FieldInfo) -> dict[str, Any]:
    return info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}


def _limits(info: FieldInfo) -> tuple[float | None, float | None]:
    low = next((rule.ge for rule in info.metadata if hasattr(rule, "ge")), None)
    high = next((rule.le for rule in info.metadata if hasattr(rule, "le")), None)
    return low, high


def _longest(info: FieldInfo) -> int:
    return next((rule.max_length for rule in info.metadata if hasattr(rule, "max_length")), 60)


def _message(info: FieldInfo, units: Units, raw: str) -> str:
    """What is wrong and what is right, for one field."""
    extra = _extra(info)
    begun = f"“{raw[:40]}” will not do: " if raw else "Nothing entered: "
    if extra.get("kind") == "number":
        low, high = _limits(info)
        quantity = extra["quantity"]
        if low is not None and high is not None:
            unit = units.of(quantity).label
            ends = (units.field(each, quantity).replace("-", "−") for each in (low, high))
            return f"{begun}enter a number from {' to '.join(ends)}{' ' + unit if unit else ''}."
        return f"{begun}enter a number."
    if extra.get("kind") == "time":
        return f"{begun}enter a time such as 07:10."
    if extra.get("kind") == "picks":
        return f"{begun}tick some of them."
    if extra.get("kind") == "date":
        return f"{begun}enter a day such as 2027-01-16, up to the year {values.LAST.year}."
    if extra.get("kind") == "choice":
        return f"{begun}choose one of {', '.join(extra['options'].values())}."
    return f"{begun}enter up to {_longest(info)} letters, in one line."
