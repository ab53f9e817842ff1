"""Sentences of the night: what to do, then why; numbers with units; bands in words."""

from collections.abc import Mapping
from datetime import datetime, timedelta

from ...core.advice.limit import Need
from ...core.advice.night_inputs import LISTED
from ...core.charge.plan import ABOUT_THE_SAME, LOWER_SOC
from ...core.charge.plug_in import Plug
from ...core.coming.event import Event
from ...core.coming.night import Because, Cable
from ...core.drive.certainty import LevelBand
from ...services.tonight.room import Tonight
from ..units import Units
from .day import alarm_words
from .faults import fault_words
from .hours import hour, hour_up
from .level import other_words
from .reasons import why_words
from .sentence import Part, Verdict, band_words, home_short, home_words, percent


def day_names(night: Tonight, others: Mapping[str, str]) -> dict[str, str]:
    """The days to choose from by key: the next outing of the list unless it is driven as a kept day, others, and the kept ones."""
    listed = {LISTED: " and ".join(each.listed.name for each in night.due)} if night.listed_day == LISTED else {}
    return {**listed, **others, **{key: name for key, (name, _) in night.days.items()}}


def night_title(night: Tonight, units: Units) -> str:
    """ "Night to Friday 15 January"."""
    return f"Night to {units.date(night.plan.request.departure.astimezone(night.zone), weekday='A', month='B')}"


def day_word(night: Tonight) -> str:
    """The day of the departure: "Today", "Tomorrow", or its weekday."""
    leaves = night.before_drive.stay.leaves
    days = (leaves.date() - night.now.date()).days
    return {0: "Today", 1: "Tomorrow"}.get(days, f"{leaves:%A}")


def verdict(night: Tonight, units: Units) -> Verdict:
    """The sentence of the room."""
    reached, (home, band) = percent(night.plan.highest_soc), home_words(night.arrival)
    short = (
        Part("To "), Part(reached, "strong"), Part(", home with "), Part(home, "strong"), Part(f", {band}, for "),
        Part(units.money(night.plan.cost), "strong"), Part("."),
    )  # fmt: skip
    lead, then = _lead(night, units), _then(night, units)
    if first := _event(night, units):
        lead, then = first, then if night.event is Event.LEAVE else [*lead, Part(" "), *then]
    return Verdict(tuple(lead), tuple(then), tuple(_notes(night, units)), short)


def _event(night: Tonight, units: Units) -> list[Part]:
    """What comes before the next plugging in: coming home, leaving, or the charging that is under way."""
    plan, level, leaves = night.plan, night.level, night.night.stay.leaves
    away = night.state.away
    if away is not None and away.staying is not None:
        charging = "" if away.staying.place_id is None else ", charging there"
        return [
            Part("Not here: "), Part(away.staying.name, "strong"), Part(f", on the way home {away.home_at:%A} at "),
            Part(units.clock(away.home_at), "strong"), Part(f"; now likely {percent(level.likely)}{charging}."),
        ]  # fmt: skip
    if away is not None and night.event is Event.AWAY:
        spare = away.spare_km(level.low, night.reserve)
        errand = f"; an errand of {units.text(spare, 'distance')} more keeps the reserve" if spare >= 1 else ""
        home = LevelBand(level.low, level.likely, level.high)
        return [
            Part("Away, home at about "), Part(units.clock(away.home_at), "strong"), Part(" with "), Part(percent(level.likely), "strong"),
            Part(f", {band_words(home)}{errand}."),
        ]  # fmt: skip
    if night.event is Event.LEAVE:
        warm = [Part(", warm-up at "), Part(hour(plan.warm_start, night.zone, units), "heat")] if plan.warm.lead_s > 0 else []
        return [
            Part("Leave at "), Part(units.clock(leaves), "strong"), Part(" with "), Part(percent(plan.soc_departure), "strong"), *warm,
            Part("."),
        ]  # fmt: skip
    if night.event is Event.UNDER_WAY:
        return [Part("Under way: by now it should have "), Part(percent(level.likely), "strong"), Part(".")]
    return []


def kept_words(night: Tonight, units: Units) -> str:
    """What is kept for the coming night; "" when nothing is."""
    kept = night.kept
    if kept is None:
        return ""
    then = _in_short(kept.limit, kept.departure.astimezone(night.zone), kept.km, kept.arrival, kept.cost, units=units)
    return f"Kept for this night at {hour(kept.kept_at, night.zone, units)}: {then}"


def moved_words(night: Tonight, units: Units) -> str:
    """What the night is now, where that is no longer what was kept; "" where it is."""
    if not night.moved:
        return ""
    it, km = night.night, 0.0 if night.night.stay.stays else night.night.inputs.km
    return f"As things are now: {_in_short(it.inputs.limit, it.stay.leaves, km, it.arrival, it.plan.cost, units=units)}"


def _in_short(limit: float, leaves: datetime, km: float, home: LevelBand, cost: float, *, units: Units) -> str:
    """A plan's limit, departure, kilometres, level at home and cost."""
    return (
        f"to {percent(limit)}, leaving {leaves:%A} at {units.clock(leaves)} for {units.text(km, 'distance')}, home with "
        f"{home_short(home)}, for {units.money(cost)}."
    )


def _lead(night: Tonight, units: Units) -> list[Part]:
    if night.idle:
        return [
            Part("No departure"), Part(" is listed in the coming week, so "), Part("nothing has to be ready", "strong"), Part("."),
        ]  # fmt: skip
    if night.started.blocked:
        return [
            Part("Not charging", "strong"), Part(": something is wrong with the start. What it has is "),
            Part(percent(night.inputs.soc_now), "strong"), Part("."),
        ]  # fmt: skip
    plan = night.plan
    parts = _plug_words(night, units) if night.in_turn else _out_words(night)
    if plan.blocks:
        times = [f"{hour(b.start, night.zone, units)}–{_until(b.end, night, units)}" for b in plan.blocks]
        parts.append(Part("Charging "))
        for i, each in enumerate(times[:3]):
            parts += [Part(", " if i else ""), Part(each, "strong")]
        parts += [Part(" and later" if len(times) > 3 else ""), Part(" to "), Part(percent(plan.highest_soc), "strong")]
    elif night.in_turn:
        parts.append(Part(f"No charging tonight: {why_words(plan.reason, units) or 'nothing to add'}"))
    if plan.warm.lead_s > 0:
        begins = ", warm-up at " if night.in_turn else "Warm-up at "
        parts += [Part(begins), Part(hour(plan.warm_start, night.zone, units), "heat")]
    return [*parts, Part(".")] if night.in_turn or plan.warm.lead_s > 0 else parts


def _out_words(night: Tonight) -> list[Part]:
    """That the cable stays out: whose it is, or that what the car has is enough."""
    leaves = night.plan.request.departure.astimezone(night.zone)
    which = "tonight" if night.plan.request.plug_in - night.now < timedelta(days=1) else f"before {leaves:%A}"
    if night.choice.because is Because.OTHER:
        return [Part("Leave the cable to "), Part(" and ".join(night.others_plugged), "strong"), Part(f" {which}. ")]
    return [Part(f"No need to plug in {which}. ", "strong")]


def _turn_words(night: Tonight, units: Units) -> list[str]:
    """When the cable comes from another car or goes over to one, and what the other way would cost on a night that is out."""
    request, turn = night.plan.request, night.night.turn
    if turn.span is None:
        more = night.choice.other_costs
        return (
            [f"Plugging in all the same would cost {units.money(more)} more."]
            if units.pays(more) and night.choice.because is Because.ENOUGH
            else []
        )
    said = []
    if night.comes_over:
        said.append(
            f"The cable comes over at {hour(request.plug_in, night.zone, units)}, from {' and '.join(night.others_plugged)}."
        )
    if request.unplug is not None:
        said.append(f"At {hour(request.unplug, night.zone, units)} the cable goes over to {' and '.join(night.others_plugged)}.")
    if night.choice.cable is Cable.EITHER:
        said.append("It would hardly matter if the cable stayed out: by habit it goes in.")
    return said


def _until(end: datetime, night: Tonight, units: Units) -> str:
    """When a block ends, rounded up, but never past the minute in which the warm-up begins."""
    late = night.plan.warm.lead_s > 0 and end + timedelta(seconds=59) > night.plan.warm_start
    return (hour if late else hour_up)(end, night.zone, units)


def _plug_words(night: Tonight, units: Units) -> list[Part]:
    """When to plug in, and what an hour later means where that is at stake."""
    if night.state.plugged:
        return [Part("Plugged in. ")]
    if night.event is Event.UNDER_WAY:
        return [Part("If the cable is out, plug in "), Part("now", "strong"), Part(". ")]
    it = night.plug_in(units.coin)
    if it.plug is Plug.LEAVE:
        return [Part("No need to plug in tonight. ", "strong")]
    if it.plug is Plug.EITHER:
        return [Part("Plug in or not, as you like. ")]
    stakes = f" (an hour later costs {units.money(it.more)} more)" if it.more else ""
    if it.lower_soc:
        stakes = f" (an hour later it ends at {percent(night.plan.highest_soc - it.lower_soc)})"
    idle = "" if night.state.away is not None else "No need to plug in tonight. "
    away = f"{idle}On {it.on:%A}, plug in" if it.on else "Plug in"
    match it.plug:
        case Plug.NOW:
            return [Part("Plug in "), Part("now", "strong"), Part(f"{stakes}. ")]
        case Plug.BED:
            return [Part(f"{away} "), Part("before bed", "strong"), Part(". ")]
    by_hand = night.control.kind.by_plug and night.control.at_bedtime(it.by) and it.by - night.now > ABOUT_THE_SAME
    bed = ", when you go to bed" if by_hand else ""
    word = "at" if it.plug is Plug.AT else "before"
    return [Part(f"{away} {word} "), Part(units.clock(it.by), "strong"), Part(f"{bed}{stakes}. ")]


def _then(night: Tonight, units: Units) -> list[Part]:
    plan = night.plan
    leaves = plan.request.departure.astimezone(night.zone)
    if night.idle:
        left = f"If you left at {units.clock(leaves)} all the same, the usual {units.text(night.inputs.km, 'distance')} would"
        begin = Part(f"Leave the cable out, or in. {left} ")
        if night.arrival.likely <= 0:
            return [begin, Part("be too far", "strong"), Part(f": {percent(-night.arrival.likely)} would be missing.")]
        return [begin, Part("leave you "), Part(percent(night.arrival.likely), "strong"), Part(f", {band_words(night.arrival)}.")]
    distance = f"{day_word(night)}’s {units.text(night.inputs.km, 'distance')}"
    parts = [Part(f"{distance} leave you ")]
    if night.arrival.likely <= 0:
        parts = [
            Part(f"{distance} are "),
            Part("too far", "strong"),
            Part(f" from this level: {percent(-night.arrival.likely)} are missing"),
        ]
    else:
        parts += [Part(percent(night.arrival.likely), "strong"), Part(f", {band_words(night.arrival)}")]
    parts += [Part(". The night costs "), Part(units.money(plan.cost), "strong")]
    if plan.cost_at_once > plan.cost + plan.no_matter:
        parts.append(Part(f"; charging at once would cost {units.money(plan.cost_at_once)}"))
    return [*parts, Part(".")]


def _notes(night: Tonight, units: Units) -> list[str]:
    """What else must be said: a shortfall, a level that is not enough, a falling level, regen near full."""
    plan, notes = night.plan, [*filter(None, [other_words(night, units)]), *(alarm_words(each, units) for each in night.alarms)]
    if night.owned.pays.typical and not night.other_tariff:
        notes.append("Its prices are typical ones from memory, for nobody knew yours: enter them under Garage, Tariffs.")
    if night.idle:
        return notes
    notes += _turn_words(night, units)
    if night.listed is not None and night.owned.by_list and night.before_drive.stay.leaves < night.listed:
        notes.append(
            f"No departure is listed before {night.listed:%A} at {units.clock(night.listed)}: this plan is for an earlier one."
        )
    if not plan.reaches_limit and night.in_turn:
        because = f": {why_words(plan.reason, units)}" if plan.blocks else ""
        notes.append(f"It ends {percent(plan.short_soc)} short of the limit{because}.")
    if plan.reason.code in ("pack_too_cold", "cold_takes_hours"):
        notes.append(
            "What helps: plug in as soon as you are home, while the pack is warm; a garage; charging right after a drive."
        )
    if not night.enough:
        notes.append(_not_enough(night, units))
    elif night.raised:
        notes.append(f"{_needs(night)}: the limit is raised for this night{_cold(night, units)}; it ends by itself.")
    elif night.fills or night.limit_advice.need is Need.FULL:
        notes.append(
            "An LFP pack wants a full charge about once a week, so that its level stays right: this night, before a long day."
        )
    if plan.warm.pack_kwh > 0.05:
        falls = plan.warm.pack_kwh / night.car.pack.usable_kwh
        level = f": the level falls by {percent(falls)} while plugged in" if falls > LOWER_SOC else ""
        taken = f"{units.text(plan.warm.pack_kwh, 'energy')} come from the pack"
        notes.append(
            f"The outlet is weaker than the warm-up{level}; {taken}."
            if plan.request.plugged
            else f"The warm-up runs without the wall: {taken}, {percent(falls)} of the level."
        )
    if plan.warm.reason:
        notes.append(f"Cabin only: {why_words(plan.warm.reason, units)}.")
    if plan.session.heating_kwh > 1.0:
        notes.append(f"The cold pack takes {units.text(plan.session.heating_kwh, 'energy')} of heat before it accepts charge.")
    notes += _frost(night, units)
    notes += fault_words(night, units)
    if plan.brakes_less:
        notes.append("Above 90 % the car brakes less with its motor at first.")
    if plan.last_part is not None:
        notes.append(
            f"The last part waits until {hour(plan.last_part.start, night.zone, units)}: near full the pack takes little in any hour, and "
            "standing full wears it."
        )
    if plan.stands_full:
        notes.append("A full pack should not stand for hours: drive soon after it is done.")
    return notes


def _frost(night: Tonight, units: Units) -> list[str]:
    """What waiting in the frost would do, and what a cheaper but colder plan would cost in the morning."""
    plan, said = night.plan, list[str]()
    late, cheapest = plan.late, plan.cheapest
    if late is None or cheapest is None or not plan.blocks:
        return said
    if plan.waiting_is_dearer:
        said.append(
            f"It does not wait for the latest cheap hours: a pack that waits in this frost cools and must be warmed again. From "
            f"{hour(late.start, night.zone, units)} it would cost {units.money(late.cost)}."
        )
    if plan.colder_is_cheaper:
        colder, warmer = (units.text(each, "temperature", 0) for each in (cheapest.pack_c, plan.warm.pack_c))
        said.append(
            f"Charging from {hour(cheapest.start, night.zone, units)} would cost {units.money(plan.cost - cheapest.cost)} less, but leave "
            f"the pack at {colder} instead of {warmer}: that warmth spares {units.money(cheapest.warmth_worth)} on the day."
        )
    return said


def _needs(night: Tonight) -> str:
    """What the day needs of the limit."""
    raised = night.inputs.limit if night.raised else night.limit_advice.target_soc
    return f"{day_word(night)} needs {percent(raised)}"


def _cold(night: Tonight, units: Units) -> str:
    """What the cold takes of it, where that is the reason."""
    if night.cold_km < 1:
        return ""
    air, km = units.text(night.conditions.ambient_c, "temperature", 0), units.text(night.cold_km, "distance")
    return f" ({air} takes {km} from {percent(night.inputs.limit)})"


def _not_enough(night: Tonight, units: Units) -> str:
    """The cautious end does not keep the reserve: what limit would, for this night alone."""
    advice = night.limit_advice
    if advice.need is Need.RAISE and night.plan.reaches_limit:
        return f"{_needs(night)}: raise the limit for this night{_cold(night, units)}; it ends by itself."
    low = night.arrival.low
    short = f"On the cautious side you arrive with {percent(low)}, under the {percent(night.reserve)} reserve"
    if low < 0:
        short = f"On the cautious side {percent(-low)} are missing, {percent(night.reserve - low)} with the reserve"
    if night.need_soc <= 1.0:
        return f"{short}. Leaving with {percent(min(1.0, night.need_soc + 0.005))} would keep it."
    lacks = f" would still lack {percent(advice.short_soc)}" if advice.short_soc > LOWER_SOC else " would just not keep it"
    best = " 100 % for this night is the best that can be done; for the rest drive" if night.raises else " Drive"
    return f"{short}; even a full pack{lacks}.{best} slower, shorten the day, or plan a stop to charge."
