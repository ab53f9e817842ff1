"""A tariff's draft as one form: everything that is painted travels in it, so that nothing is kept before it is asked for.

Why: docs/decisions/0014.
"""

from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import date, time

from ....core.charge.prices import CELLS_PER_DAY
from ....core.charge.tariff import DAY_NAMES, HOLIDAY, MONTHS, WEEKDAYS, WEEKEND, MonthDay, year_days
from ....core.charge.week import MOST_BANDS, NONE, Colour, week_of
from ....core.errors import Refusal
from ....formats import values
from ....services.shared.home import holidays_of
from ....services.tariffs import Draft, DraftSeason
from ...forms import FieldView, number_words, time_field
from ...page import whole_number
from ...units import Units
from .strokes import Stroke, stroke_of

MOST_SEASONS = 5
DAYS: Mapping[str, tuple[str, frozenset[int]]] = {
    "week": ("Monday to Friday", WEEKDAYS),
    "end": ("Saturday and Sunday", WEEKEND),
    "all": ("every day", WEEKDAYS | WEEKEND),
    "free": ("Sunday and public holidays", frozenset({6, HOLIDAY})),
    **{str(i): (name, frozenset({i})) for i, name in enumerate(DAY_NAMES)},
}


@dataclass
class TypedTariff:
    """A draft as it was typed, what will not do, and where the painter stands (season and colour)."""

    draft: Draft
    errors: dict[str, str] = field(default_factory=dict)
    shown: int = 0
    colour: int = 0
    stroke: Stroke | None = None

    @property
    def lacking(self) -> tuple[str, ...]:
        """Where else what was painted last may be meant: seasons and holidays that have none of it."""
        if self.stroke is None:
            return ()
        found = self.stroke.lacking(self.draft, bool(self.draft.region))
        seasons = [self.draft.seasons[i].name for i, rows in found.items() if rows != {HOLIDAY}]
        return (*seasons, *(("public holidays",) if any(HOLIDAY in rows for rows in found.values()) else ()))


def read(fields: Mapping[str, str], units: Units) -> TypedTariff:
    """The draft of a form. Fields that will not do are named and keep a harmless value. Raises: Refusal for torn weeks."""
    errors: dict[str, str] = {}
    palette = _palette(fields, units, errors)
    seasons = _seasons(fields, len(palette), errors)
    region = fields.get("region", "").strip().upper()
    try:
        if region:
            holidays_of(region)
    except Refusal as refusal:
        errors["region"], region = refusal.message, ""
    draft = Draft(
        name=fields.get("name", "").strip(),
        palette=palette,
        seasons=seasons,
        standing_per_day=_number(fields, "standing", "money", low=0, high=50, units=units, errors=errors),
        region=region,
        valid_from=_date(fields, "valid_from", errors),
        valid_to=_date(fields, "valid_to", errors),
        feed="stand-in" if fields.get("feed") == "stand-in" else "",
        number=whole_number(fields.get("number")),
    )
    if not 1 <= len(draft.name) <= 40:
        errors["name"] = "Enter a name of up to 40 letters."
    shown = whole_number(fields.get("shown"), 0)
    colour = fields.get("colour", "0")
    number = NONE if colour == "none" else min(whole_number(colour, 0), len(palette) - 1)
    stroke = stroke_of(fields.get("last_stroke", ""), len(palette))
    return TypedTariff(draft, errors, min(shown, len(seasons) - 1), number, stroke)


def _palette(fields: Mapping[str, str], units: Units, errors: dict[str, str]) -> tuple[Colour, ...]:
    found = []
    for i in range(MOST_BANDS):
        if f"c{i}_name" not in fields:
            break
        name = fields[f"c{i}_name"].strip()
        if not 1 <= len(name) <= 30:
            errors[f"c{i}_name"] = "Enter a name of up to 30 letters."
        found.append(
            Colour(name or f"band {i + 1}", _number(fields, f"c{i}_price", "price", low=-5, high=20, units=units, errors=errors))
        )
    if len({each.name for each in found}) < len(found):
        errors[f"c{len(found) - 1}_name"] = "Two bands have the same name."
    return tuple(found) or (Colour("all day", 0.2),)


def _seasons(fields: Mapping[str, str], colours: int, errors: dict[str, str]) -> tuple[DraftSeason, ...]:
    found = [DraftSeason("All year", None, None, week_of(fields.get("s0_week", ""), colours))]
    for i in range(1, MOST_SEASONS + 1):
        if f"s{i}_week" not in fields:
            break
        name = fields.get(f"s{i}_name", "").strip()
        if not 1 <= len(name) <= 30:
            errors[f"s{i}_name"] = "Enter a name of up to 30 letters."
        ends = []
        for end, otherwise in (("first", (11, 1)), ("last", (3, 31))):
            try:
                ends.append(day_of(fields.get(f"s{i}_{end}", "")))
            except Refusal as refusal:
                errors[f"s{i}_{end}"] = refusal.message
                ends.append(otherwise)
        found.append(DraftSeason(name or f"Season {i}", ends[0], ends[1], week_of(fields[f"s{i}_week"], colours)))
    return tuple(found)


def day_of(text: str) -> MonthDay:
    """A day of the year as people write it: "1 Nov", "1 November", "11-01". Raises: Refusal."""
    words = text.replace(".", " ").replace("-", " ").split()
    found = None
    first, second = (whole_number(each) for each in (*words, "", "")[:2])
    if len(words) == 2 and first is not None:
        if second is not None:
            found = (first, second)
        else:
            month = next(
                (i for i, name in enumerate(MONTHS, 1) if len(words[1]) >= 3 and name.lower().startswith(words[1].lower())), 0
            )
            found = (month, first)
    if found not in year_days():
        raise Refusal(f"“{text[:20]}” is not a day of the year: enter one such as 1 Nov.")
    return found


def day_text(day: MonthDay | None) -> str:
    """A day of the year for a field: "1 Nov"."""
    return f"{day[1]} {MONTHS[day[0] - 1][:3]}" if day else ""


def _number(
    fields: Mapping[str, str], name: str, quantity: str, *, low: float, high: float, units: Units, errors: dict[str, str]
) -> float:
    raw = fields.get(name, "").strip()
    try:
        value = units.read(raw, quantity)
        if not low <= value <= high:
            raise ValueError("outside")
        return value
    except ValueError:
        errors[name] = f"“{raw[:20]}” will not do: {number_words(low, high, quantity, units)}"
        return 0.0


def _date(fields: Mapping[str, str], name: str, errors: dict[str, str]) -> date | None:
    raw = fields.get(name, "").strip()
    try:
        return values.day(raw) if raw else None
    except ValueError:
        errors[name] = f"“{raw[:20]}” is not a date such as 2027-01-31, up to the year {values.LAST.year}."
        return None


def acted(typed: TypedTariff, fields: Mapping[str, str], units: Units) -> TypedTariff:
    """The draft after one action: a stroke, a band or season more or less, another season shown."""
    action, _, which = fields.get("action", "").partition(":")
    number = whole_number(which, -1)
    draft = typed.draft
    if action in ("paint", "stroke"):
        return _painted(typed, fields, action, units)
    if action == "spread" and typed.stroke is not None:
        typed.draft, typed.stroke = replace(draft, seasons=typed.stroke.spread(draft, bool(draft.region))), None
        return typed
    if action in ("add_band", "drop_band", "drop_season"):
        typed.stroke = None
    if action == "add_band" and len(draft.palette) < MOST_BANDS:
        typed.draft = replace(draft, palette=(*draft.palette, Colour(_new_name(draft), draft.palette[-1].price_per_kwh)))
        typed.colour = len(draft.palette)
    elif action == "drop_band" and 0 <= number < len(draft.palette) and len(draft.palette) > 1:
        weeks = tuple(replace(each, week=each.week.without(number)) for each in draft.seasons)
        typed.draft = replace(draft, palette=(*draft.palette[:number], *draft.palette[number + 1 :]), seasons=weeks)
        typed.colour = 0
        typed.errors = {name: said for name, said in typed.errors.items() if not name.startswith("c")}
    elif action == "add_season" and len(draft.seasons) <= MOST_SEASONS:
        winter = DraftSeason(f"Season {len(draft.seasons)}", (11, 1), (3, 31), draft.seasons[0].week)
        typed.draft, typed.shown = replace(draft, seasons=(*draft.seasons, winter)), len(draft.seasons)
    elif action == "drop_season" and 0 < number < len(draft.seasons):
        typed.draft = replace(draft, seasons=(*draft.seasons[:number], *draft.seasons[number + 1 :]))
        typed.shown = 0
        typed.errors = {name: said for name, said in typed.errors.items() if not name.startswith("s")}
    elif action == "show" and 0 <= number < len(draft.seasons):
        typed.shown = number
    return typed


def _new_name(draft: Draft) -> str:
    taken = {each.name for each in draft.palette}
    return next(name for name in (f"band {i}" for i in range(len(taken) + 1, 99)) if name not in taken)


def _painted(typed: TypedTariff, fields: Mapping[str, str], action: str, units: Units) -> TypedTariff:
    """One stroke: from the painter's pointer in cells, or from the fields in days and times."""
    try:
        if action == "stroke":
            rows = frozenset(values.whole(each, 0, 7) for each in fields.get("stroke_rows", "").split(","))
            first, after = (values.whole(fields.get(f"stroke_{end}", ""), 0, 96) for end in ("first", "after"))
        else:
            if fields.get("paint_days") not in DAYS:
                raise Refusal("Choose the days to paint.", "paint_days")
            rows = DAYS[fields["paint_days"]][1]
            first, after = (_cell(fields.get(f"paint_{end}", ""), f"paint_{end}", units) for end in ("from", "to"))
        season = typed.draft.seasons[typed.shown]
        week = season.week.painted(rows, first % 96 if action == "paint" else first, after, typed.colour)
    except Refusal as refusal:
        typed.errors[refusal.field or "paint_from"] = refusal.message
        return typed
    except ValueError:
        typed.errors["paint_from"] = "The stroke could not be read; paint it again."
        return typed
    typed.stroke = Stroke(rows, first % CELLS_PER_DAY, after, typed.colour) if typed.colour != NONE else None
    seasons = list(typed.draft.seasons)
    seasons[typed.shown] = replace(season, week=week)
    typed.draft = replace(typed.draft, seasons=tuple(seasons))
    return typed


def _cell(text: str, name: str, units: Units) -> int:
    """A time on a quarter hour as a cell; 24:00, or midnight, is 96."""
    with suppress(ValueError):
        if text.strip() in ("24:00", "midnight"):
            return CELLS_PER_DAY
        at = values.typed_clock(text)
        if at.minute % 15 == 0:
            return at.hour * 4 + at.minute // 15
    raise Refusal(f"“{text[:12]}” will not do: enter a quarter hour such as {units.clock(time(22, 30))}, or 24:00.", name)


def texts(typed: TypedTariff, units: Units) -> dict[str, str]:
    """Everything of the draft as a form has it."""
    draft = typed.draft
    found = {
        "name": draft.name,
        "standing": units.field(draft.standing_per_day, "money"),
        "region": draft.region,
        "valid_from": draft.valid_from.isoformat() if draft.valid_from else "",
        "valid_to": draft.valid_to.isoformat() if draft.valid_to else "",
    }
    for i, colour in enumerate(draft.palette):
        found |= {f"c{i}_name": colour.name, f"c{i}_price": units.field(colour.price_per_kwh, "price")}
    for i, season in enumerate(draft.seasons):
        found |= {f"s{i}_name": season.name, f"s{i}_first": day_text(season.first), f"s{i}_last": day_text(season.last)}
    return found


def views(typed: TypedTariff, raw: Mapping[str, str], units: Units) -> dict[str, FieldView]:
    """The form's fields; what will not do keeps what was typed."""
    have, found = texts(typed, units), {}
    for each in (*_head(units), *_bands(typed.draft, units), *_painting(units)):
        error = typed.errors.get(each.name, "")
        text = raw.get(each.name, have.get(each.name, each.value)) if error or each.name not in have else have[each.name]
        found[each.name] = replace(each, value=text, error=error)
    return found


def _head(units: Units) -> Iterator[FieldView]:
    yield FieldView("name", "Name", "text", hint="What the bill calls it.")
    yield FieldView("standing", "Standing charge", "number", unit=f"{units.currency} a day", hint="0 if there is none.")
    region = "NO for a country, DE-BY for a part of one; empty if they count as other days."
    yield FieldView("region", "Public holidays of", "text", hint=region)
    yield FieldView("valid_from", "First day", "date", hint="Empty if it has always held.")
    yield FieldView("valid_to", "Last day", "date", hint="Empty if it goes on.")
    yield FieldView("replaces_from", "First day", "date")


def _bands(draft: Draft, units: Units) -> Iterator[FieldView]:
    for i in range(len(draft.palette)):
        yield FieldView(f"c{i}_name", f"Band {i + 1}", "text")
        yield FieldView(f"c{i}_price", f"Price {i + 1}", "number", unit=f"{units.currency}/kWh")
    for i in range(1, len(draft.seasons)):
        yield FieldView(f"s{i}_name", "Season", "text")
        yield FieldView(f"s{i}_first", "From", "text", hint="Such as 1 Nov.")
        yield FieldView(f"s{i}_last", "To", "text", hint="This day included.")


def _painting(units: Units) -> Iterator[FieldView]:
    yield FieldView("paint_days", "Days", "choice", "week", options={key: words for key, (words, _) in DAYS.items()})
    yield FieldView("paint_from", "From", "text", time_field(time(22), units))
    yield FieldView("paint_to", "To", "text", time_field(time(6), units))
