"""Forms made from the fields that a part declares, and their words."""

from collections.abc import Collection, Mapping
from datetime import date, time
from typing import Any

from pydantic import BaseModel, create_model

from ..core.fields import NEEDED, Declared
from .forms import choice, clock, day, number, text
from .words.fields import CODES, YES_NO, Words


def form_of(
    title: str, of: Mapping[str, Declared], words: Words, /, *bases: type[BaseModel], only: Collection[str] = (), **empty: object
) -> Any:
    """The form of the fields of a part that have words (or `only` some of them), in their order; what an `empty` one means here."""
    named = {column: each for group in words.values() for column, each in group.items() if column in (only or of)}
    made: Any = {column: _entry(column, of[column], *each, empty) for column, each in named.items() if column in of}
    return create_model(title, __base__=bases or BaseModel, **made)


def _entry(column: str, each: Declared, label: str, hint: str, empty: Mapping[str, object]) -> tuple[Any, Any]:
    """The kind and the form's field of one."""
    field = each.field
    optional = each.optional or field.empty is None
    otherwise = empty.get(column, (None if optional else ...) if field.empty is NEEDED else field.empty)
    kind: Any = each.kind | None if optional else each.kind
    if field.quantity:
        return kind, number(label, field.quantity, field.low, field.high, hint, default=otherwise, step=field.step)
    if each.kind is bool:
        return kind, choice(label, YES_NO, hint, otherwise)
    if each.codes:
        codes = [str(code) for code in each.codes]
        options = {code: words for code, words in CODES.get(column, {}).items() if code in codes} or {
            code: code for code in codes
        }
        return kind, choice(label, options, hint, otherwise)
    if each.kind in (time, date):
        return kind, (clock if each.kind is time else day)(label, hint, otherwise)
    return kind, text(label, field.longest, hint, otherwise)
