"""The forms of the log, made from the columns of its kinds; a moment is a day and a time on the clock of the home."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, date, datetime, time
from functools import lru_cache
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import BaseModel, create_model

from ....core.errors import Refusal
from ....core.log.kinds import CHOICE, KINDS, MOMENT, OUTLET, TEXT, YES_NO, Column, Entry
from ...forms import FieldView, choice, clock, day, number, parse, shown, text, views
from ...units import Units
from ...words.log import LABELS, OPTIONS
from ...words.log import YES_NO as ANSWERS

NOWHERE, CAR, OF_A_FIGURE = 0, "car", ("at", "note")


class EntryForm:
    """The form of a kind of entry in a home: its fields, what they show, and the values that come of them.

    `whole_kwh`: for a car's own figure of its battery, what each was when new; then the percentage alone is asked.
    """

    def __init__(
        self,
        kind: str,
        cars: tuple[tuple[int, str], ...],
        outlets: Mapping[int, str],
        zone: ZoneInfo,
        units: Units,
        *,
        whole_kwh: Mapping[int, float] | None = None,
    ) -> None:
        self.kind, self.zone, self.units, self.whole_kwh = KINDS[kind], zone, units, whole_kwh
        self.model = _model(kind, cars, tuple(outlets.items()), whole_kwh is not None)

    def texts(self, values: Mapping[str, Any], car_id: int) -> dict[str, str]:
        """The fields' texts for some values."""
        known: dict[str, Any] = {"car": car_id}
        if self.whole_kwh and values.get("kwh"):
            known["soh"] = values["kwh"] / (values["soc_from"] - values["soc_to"]) / self.whole_kwh.get(car_id, values["kwh"])
        for column in self.kind.columns:
            value = values.get(column.name)
            if column.quantity == MOMENT:
                local = value.astimezone(self.zone) if value is not None else None
                known |= {
                    f"{column.name}_day": local and local.date(),
                    f"{column.name}_time": local and local.timetz().replace(tzinfo=None),
                }
            else:
                known[column.name] = (value or NOWHERE) if column.quantity == OUTLET else value
        return shown(known, self.model, self.units)

    def views(
        self, texts: Mapping[str, str], errors: Mapping[str, str], assumed: frozenset[str] = frozenset()
    ) -> dict[str, FieldView]:
        """The fields for a template; an error of a moment stands at its time."""
        moments = {each.name for each in self.kind.columns if each.quantity == MOMENT}
        placed = {f"{name}_time" if name in moments else name: said for name, said in errors.items()}
        found = views(self.model, texts, placed, self.units)
        return {
            name: replace(each, assumed=name.removesuffix("_day").removesuffix("_time") in assumed)
            for name, each in unlimited(found).items()
        }

    def read(self, fields: Mapping[str, str], known: Entry | None) -> tuple[Entry | None, dict[str, str]]:
        """The entry that was typed, or a message for each field that will not do; what was not touched stays as exact as it is stored."""
        listed = OPTIONS["item"].get(fields.get("item", "")) if fields.get("item") else None
        if listed and not fields.get("note", "").strip():
            fields = {**fields, "note": listed}
        form, errors = parse(self.model, fields, self.units)
        if form is None:
            return None, errors
        was = self.texts(known.values, known.car_id) if known else {}
        if self.whole_kwh is not None:
            return self._figure(form, known)
        values: dict[str, Any] = {}
        for column in self.kind.columns:
            names = [f"{column.name}_day", f"{column.name}_time"] if column.quantity == MOMENT else [column.name]
            if known is not None and all(fields.get(name, "").strip() == was[name] for name in names):
                values[column.name] = known.values[column.name]
                continue
            try:
                values[column.name] = self._value(column, form)
            except Refusal as refusal:
                errors[refusal.field] = refusal.message
        if errors:
            return None, errors
        car_id = int(dict(form)["car"])
        if known is not None:
            return replace(known, values=values, car_id=car_id), {}
        return Entry(kind=self.kind.key, car_id=car_id, values=values), {}

    def _figure(self, form: Any, known: Entry | None) -> tuple[Entry | None, dict[str, str]]:
        """A car's own figure: the energy between full and empty that it comes to."""
        new_kwh = (self.whole_kwh or {}).get(int(form.car))
        if new_kwh is None:
            return None, {"car": "This car is no longer there."}
        try:
            at = self._moment(self.kind.columns[0], form.at_day, form.at_time)
        except Refusal as refusal:
            return None, {refusal.field: refusal.message}
        values = {"at": at, "how": CAR, "soc_from": 1.0, "soc_to": 0.0, "kwh": form.soh * new_kwh, "note": form.note}
        made = known or Entry(kind=self.kind.key, car_id=0, values={})
        return replace(made, car_id=int(form.car), values=values), {}

    def _value(self, column: Column, form: BaseModel) -> Any:
        if column.quantity == MOMENT:
            return self._moment(column, getattr(form, f"{column.name}_day"), getattr(form, f"{column.name}_time"))
        value = getattr(form, column.name)
        if column.quantity == OUTLET:
            return int(value) or None
        return value == "yes" if column.quantity == YES_NO else value

    def _moment(self, column: Column, on: date | None, at: time | None) -> datetime | None:
        """A day and a time of the home's clock. Raises: Refusal for half of them, and for a time that the clock leaves out."""
        if on is None and at is None and not column.needed:
            return None
        if on is None or at is None:
            raise Refusal("Enter both the day and the time, or neither.", f"{column.name}_{'day' if on is None else 'time'}")
        local = datetime.combine(on, at, self.zone)
        if local.astimezone(UTC).astimezone(self.zone).replace(tzinfo=None) != local.replace(tzinfo=None):
            raise Refusal(f"{self.units.clock(at)} does not exist on that day: the clocks go forward.", f"{column.name}_time")
        return local.astimezone(UTC)


def unlimited(fields: Mapping[str, FieldView]) -> dict[str, FieldView]:
    """The fields without the range in their hints: only a slip of the finger is out of it."""
    return {name: replace(each, low="", high="") for name, each in fields.items()}


@lru_cache(maxsize=64)
def _model(kind: str, cars: tuple[tuple[int, str], ...], outlets: tuple[tuple[int, str], ...], figure: bool) -> type[BaseModel]:
    fields: dict[str, Any] = {"car": (str, choice("Car", {str(key): name for key, name in cars}))}
    if figure:
        fields["soh"] = (float, number("Health", "percent", 0.4, 1.05, "As the car says it."))
    for column in KINDS[kind].columns:
        if figure and column.name not in OF_A_FIGURE:
            continue
        fields |= _fields(column, {str(NOWHERE): "none of ours", **{str(key): name for key, name in outlets}})
    return create_model(f"{kind.title()}Form", **fields)


def _fields(column: Column, outlets: Mapping[str, str]) -> dict[str, Any]:
    label, hint = LABELS[column.name]
    if column.quantity == MOMENT:
        otherwise = ... if column.needed else None
        kinds = (date, time) if column.needed else (date | None, time | None)
        return {
            f"{column.name}_day": (kinds[0], day(label, hint, otherwise)),
            f"{column.name}_time": (kinds[1], clock("at", "", otherwise)),
        }
    if column.quantity == OUTLET:
        return {column.name: (str, choice(label, outlets, hint, str(NOWHERE)))}
    if column.quantity == CHOICE:
        options = {key: OPTIONS[column.name][key] for key in column.options if (column.name, key) != ("how", CAR)}
        return {column.name: (str, choice(label, options, hint, ... if column.needed else column.empty))}
    if column.quantity == YES_NO:
        return {column.name: (str, choice(label, ANSWERS, hint, "no"))}
    if column.quantity == TEXT:
        return {column.name: (str, text(label, int(column.high), hint, ... if column.needed else ""))}
    otherwise = ... if column.needed else None
    kind = float if column.needed else float | None
    return {column.name: (kind, number(label, column.quantity, column.low, column.high, hint, default=otherwise))}
