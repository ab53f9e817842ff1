"""Forms at the edge: Pydantic models whose fields know their quantity, and messages that stand beside the field."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import time
from typing import Any, TypeVar

from pydantic import BaseModel, Field, ValidationError
from pydantic.fields import FieldInfo

from .units import Units

Form = TypeVar("Form", bound=BaseModel)


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


def text(label: str, longest: int = 60, hint: str = "", default: Any = ...) -> Any:
    """A short text."""
    return Field(default, min_length=1, max_length=longest, title=label, description=hint, json_schema_extra={"kind": "text"})


def clock(label: str, hint: str = "", default: Any = ...) -> Any:
    """A time of day."""
    return Field(default, title=label, description=hint, json_schema_extra={"kind": "time"})


def day(label: str, hint: str = "", default: Any = ...) -> Any:
    """A date."""
    return Field(default, title=label, description=hint, json_schema_extra={"kind": "date"})


@dataclass(frozen=True)
class FieldView:
    """One field as the template draws it; low and high are in the owner's unit."""

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


def parse(model: type[Form], typed: Mapping[str, str], units: Units) -> tuple[Form | None, dict[str, str]]:
    """The checked form, or None and a message for each field that will not do. What was typed is not changed."""
    values: dict[str, Any] = {}
    errors: dict[str, str] = {}
    for name, info in model.model_fields.items():
        raw = typed.get(name, "").strip()
        if not raw and not info.is_required():
            continue
        quantity = _extra(info).get("quantity")
        options = _extra(info).get("options")
        if options and raw not in options:
            errors[name] = _message(info, units, raw)
            continue
        try:
            values[name] = units.of(quantity).read(_plain_number(raw)) if quantity else raw
        except ValueError:
            errors[name] = _message(info, units, raw)
    try:
        return (None, errors) if errors else (model.model_validate(values), {})
    except ValidationError as problem:
        for each in problem.errors():
            name = str(each["loc"][0]) if each["loc"] else ""
            errors[name] = _message(model.model_fields[name], units, typed.get(name, "").strip()) if name else each["msg"]
        return None, errors


def views(model: type[BaseModel], values: Mapping[str, str], errors: Mapping[str, str], units: Units) -> dict[str, FieldView]:
    """All fields of a form for its template."""
    return {
        name: _view(name, info, values.get(name, ""), errors.get(name, ""), units) for name, info in model.model_fields.items()
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
    quantity = _extra(info).get("quantity")
    return units.field(float(value), quantity) if quantity else str(value)


def _view(name: str, info: FieldInfo, value: str, error: str, units: Units) -> FieldView:
    extra = _extra(info)
    quantity = extra.get("quantity")
    low, high = _limits(info)
    unit = units.of(quantity) if quantity else None
    return FieldView(
        name,
        info.title or name,
        extra.get("kind", "text"),
        value,
        unit.label if unit else "",
        info.description or "",
        error,
        units.field(low, quantity) if quantity and low is not None else "",
        units.field(high, quantity) if quantity and high is not None else "",
        str(extra.get("step", "any")),
        extra.get("options", {}),
    )


def _extra(info: FieldInfo) -> dict[str, Any]:
    return info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}


def _limits(info: FieldInfo) -> tuple[float | None, float | None]:
    low = next((rule.ge for rule in info.metadata if hasattr(rule, "ge")), None)
    high = next((rule.le for rule in info.metadata if hasattr(rule, "le")), None)
    return low, high


def _plain_number(raw: str) -> float:
    """A number as people type it: comma or point, true minus or hyphen."""
    return float(raw.replace("−", "-").replace(",", ".").replace("\u00a0", ""))


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
    if extra.get("kind") == "date":
        return f"{begun}enter a day such as 2027-01-16."
    if extra.get("kind") == "choice":
        return f"{begun}choose one of {', '.join(extra['options'].values())}."
    return f"{begun}enter up to 60 letters."
