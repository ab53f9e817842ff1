"""Forms at the edge: Pydantic models whose fields know their quantity, and messages that stand beside the field.

Why: docs/decisions/0035.
"""

from collections.abc import Mapping
from contextlib import suppress
from copy import copy
from dataclasses import KW_ONLY, dataclass, field, replace
from datetime import date, time
from functools import cache, lru_cache
from typing import Any, TypeVar, cast

from pydantic import BaseModel, Field, ValidationError, create_model
from pydantic.fields import FieldInfo

from ..core.errors import Refusal
from ..formats import values
from ..services.shared.home import Stale
from .units import Units

Form = TypeVar("Form", bound=BaseModel)
STALE = "{} Nothing was saved; what you typed is still here. Look at what changed, then send it again."
NONE = "none"
"""The text of several things to tick when none is."""


def number(label: str, quantity: str, low: float, high: float, hint: str = "", *, default: Any = ..., step: float = 1.0) -> Any:
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


@dataclass(frozen=True)
class FieldView:
    """One field as the template draws it; low and high are in the owner's unit, `usual` a lever's text before it is pulled;
    `assumed` that nobody read it. `longest` is how many letters it takes.
    """

    name: str
    label: str
    kind: str
    value: str = ""
    _: KW_ONLY
    unit: str = ""
    hint: str = ""
    error: str = ""
    low: str = ""
    high: str = ""
    step: str = "any"
    options: Mapping[str, str] = field(default_factory=dict)
    usual: str | None = None
    assumed: bool = False
    longest: int = 60


@dataclass(frozen=True)
class Filled:
    """What a form is shown with: the texts that were typed, what will not do by field and as a whole, and the answer’s status."""

    typed: Mapping[str, str] = field(default_factory=dict)
    errors: Mapping[str, str] = field(default_factory=dict)
    message: str = ""
    status: int = 200


def not_kept(typed: Mapping[str, str], form: type[BaseModel], problem: Refusal | Stale, units: Units) -> Filled:
    """A form that the household did not take: the reason stands at its field where the form has it, else over all of them; nothing that
    was typed is lost. 409 for a page that was overtaken by another.
    """
    if isinstance(problem, Stale):
        return Filled(typed, message=STALE.format(problem), status=409)
    words = units.refusal(problem)
    if problem.field in form.model_fields:
        return Filled(typed, {problem.field: words}, status=422)
    return Filled(typed, message=words, status=422)


def parse(model: type[Form], typed: Mapping[str, str], units: Units) -> tuple[Form | None, dict[str, str]]:
    """The checked form, or None and a message for each field that will not do. What was typed is not changed.

    A form's own `cross_checks`, and those of the forms that it is made of, say what does not go together.
    """
    found, errors = checked(model, typed, units)
    for base in model.__mro__:
        for name, message in cast(Any, base).cross_checks(found, units) if "cross_checks" in vars(base) else ():
            errors.setdefault(name, message)
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
            form = _partial(model).model_validate(found)
            return {name: getattr(form, name) for name in found}, errors
        except ValidationError as problem:
            wrong = {str(each["loc"][0]) for each in problem.errors()}
            for name in wrong - errors.keys():
                errors[name] = _message(model.model_fields[name], units, typed.get(name, "").strip())
            found = {name: value for name, value in found.items() if name not in wrong}


@cache
def _partial(model: type[BaseModel]) -> type[BaseModel]:
    """The same form, of which any field may be missing."""
    fields: dict[str, Any] = {}
    for name, info in model.model_fields.items():
        free = copy(info)
        free.default = None
        fields[name] = (info.annotation, free)
    return create_model(model.__name__, __base__=model, **fields)


def _read(raw: str, info: FieldInfo, units: Units) -> Any:
    """A text as its field's kind. Raises: ValueError for one that is none."""
    extra = _extra(info)
    match extra["kind"]:
        case "number":
            return units.read(raw, extra["quantity"])
        case "time":
            return values.typed_clock(raw)
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
    empty = _empty(model, units).items()
    return {name: replace(each, value=texts.get(name, ""), error=errors.get(name, "")) for name, each in empty}


@lru_cache(maxsize=256)
def _empty(model: type[BaseModel], units: Units) -> dict[str, FieldView]:
    """The fields as nobody typed anything: labels and ends are the same on every page."""
    return {name: _view(name, info, units) for name, info in model.model_fields.items()}


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
        return time_field(value, units)
    if isinstance(value, tuple):
        return ",".join(str(each) for each in sorted(value)) or NONE
    if isinstance(value, date):
        return value.isoformat()
    quantity = _extra(info).get("quantity")
    return units.field(float(value), quantity) if quantity else str(value)


def time_field(at: time, units: Units) -> str:
    """A time of day as a field has it."""
    return units.clock(at).replace("\u00a0", " ")


def _view(name: str, info: FieldInfo, units: Units) -> FieldView:
    extra = _extra(info)
    quantity = extra.get("quantity")
    low, high = _limits(info)
    unit = units.of(quantity) if quantity else None
    ends = units.ends(low, high, quantity) if quantity and low is not None and high is not None else ("", "")
    return FieldView(
        name=name,
        label=info.title or name,
        kind=extra.get("kind", "text"),
        value="",
        unit=unit.label if unit else "",
        hint=units.say(info.description or ""),
        error="",
        low=ends[0],
        high=ends[1],
        step=str(extra.get("step", "any")),
        options=extra.get("options", {}),
        longest=_longest(info),
    )


def _extra(info: FieldInfo) -> dict[str, Any]:
    return info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}


def _limits(info: FieldInfo) -> tuple[float | None, float | None]:
    low = next((rule.ge for rule in info.metadata if hasattr(rule, "ge")), None)
    high = next((rule.le for rule in info.metadata if hasattr(rule, "le")), None)
    return low, high


def _longest(info: FieldInfo) -> int:
    return next((rule.max_length for rule in info.metadata if hasattr(rule, "max_length")), 60)


def number_words(low: float, high: float, quantity: str, units: Units) -> str:
    """What a number field wants: "enter a number from 0 to 500 mi, such as 12 mi."."""
    unit = units.of(quantity).label
    ends = " to ".join(each.replace("-", "−") for each in units.ends(low, high, quantity))
    return f"enter a number from {ends}{' ' + unit if unit else ''}, such as {units.example(quantity, low, high)}."


def _message(info: FieldInfo, units: Units, raw: str) -> str:
    """What is wrong and what is right, for one field."""
    extra = _extra(info)
    begun = f"“{raw[:40]}” will not do: " if raw else "Nothing entered: "
    if extra.get("kind") == "number":
        low, high = _limits(info)
        quantity = extra["quantity"]
        if low is not None and high is not None:
            return begun + number_words(low, high, quantity, units)
        return f"{begun}enter a number."
    if extra.get("kind") == "time":
        return f"{begun}enter a time such as {units.clock(time(7, 10))}."
    if extra.get("kind") == "picks":
        return f"{begun}tick some of them."
    if extra.get("kind") == "date":
        return f"{begun}enter a day such as 2027-01-16, up to the year {values.LAST.year}."
    if extra.get("kind") == "choice":
        return f"{begun}choose one of {', '.join(extra['options'].values())}."
    return f"{begun}enter up to {_longest(info)} letters, in one line."


def carried(
    model: type[BaseModel],
    typed: Mapping[str, str],
    units: tuple[Units, Units],
    known: tuple[Mapping[str, Any], Mapping[str, Any]],
) -> dict[str, str]:
    """The texts of a form after its units, or what it starts from, became others: before and after of each.

    What was typed stays, in the new unit; what still is as it was known becomes what is known now; what is no number stays a text.
    """
    was, now = (shown(each, model, unit) for each, unit in zip(known, units, strict=True))
    texts = {}
    for name, info in model.model_fields.items():
        text = typed.get(name, was[name]).strip()
        if text == was[name]:
            text = now[name]
        elif units[0] != units[1]:
            with suppress(ValueError):
                text = _shown(_read(text, info, units[0]), info, units[1]) if _extra(info)["kind"] in ("number", "time") else text
        texts[name] = text
    return texts
