"""Words of the week: on which nights the cable goes in, what they cost, and what is short."""

from ...core.advice.limit import Charges
from ...core.charge.plan import LOWER_SOC
from ...services.week import Week, WeekNight
from ..units import Units
from .sentence import Part, Verdict, percent


def week_verdict(week: Week, units: Units) -> Verdict:
    """On which nights to plug in, and what the others save."""
    plugged = [f"{each.evening:%A}" for each in week.plugged]
    count = len(week.nights)
    if not plugged:
        lead = [Part("No need to plug in"), Part(f" in the coming {count} nights.")]
    elif len(plugged) == count:
        lead = [Part("Plug in "), Part("every night", "strong"), Part(" of the coming week.")]
    else:
        lead = [Part("Plug in on ")]
        for i, day in enumerate(plugged):
            lead += [Part((" and " if i == len(plugged) - 1 else ", ") if i else ""), Part(day, "strong")]
        lead.append(Part("; on the other nights the cable can stay out."))
    then = [Part("The week costs "), Part(units.money(week.cost), "strong")]
    if len(plugged) < count and units.pays(week.every_costs_more):
        then.append(
            Part(
                f"; plugging in every night would cost {units.money(week.every_costs_more)} more, what is left at the end counted"
            )
        )
    notes = [
        f"{day_line(each, units)}: {percent(each.short_soc)} short on its cautious side: drive slower, or charge on the way."
        for each in week.nights
        if each.short_soc > LOWER_SOC
    ]
    raised = [
        each
        for each in week.plugged
        if each.plan
        and each.plan.request.target_soc > week.owned.habit.limit + LOWER_SOC
        and week.owned.habit.charges is not Charges.AS_NEEDED
    ]
    notes += [
        f"{each.evening:%A} goes to {percent(each.plan.request.target_soc)}, above your limit, for that night alone."
        for each in raised
        if each.plan
    ]
    if week.owned.pays.feed and not all(each.dated for each in week.plugged):
        notes.append("Dated prices are known for the first nights only; the painted week counts for the others.")
    return Verdict(tuple(lead), (*then, Part(".")), tuple(notes))


def evening_line(night: WeekNight, units: Units) -> str:
    """A night: its evening, and the day after it."""
    return f"{night.evening:%A} night; {day_line(night, units)}"


def day_line(night: WeekNight, units: Units) -> str:
    """The day after a night: its weekday, what is listed, its kilometres."""
    what = f"{units.text(night.km, 'distance')}" if night.km > 0 else "stays at home"
    names = f"{' and '.join(dict.fromkeys(night.listed))}, " if night.listed and night.km > 0 else ""
    return f"{night.departure:%A}, {names}{what}"


def night_words(night: WeekNight) -> tuple[str, str]:
    """Beside a night: what it is charged to, and what the day leaves."""
    charge = f"to {percent(night.plan.highest_soc)}" if night.plan else f"no need: {percent(night.soc)}"
    if night.short_soc > LOWER_SOC:
        return charge, f"{percent(night.short_soc)} short"
    return charge, f"home with {percent(night.returns_soc)}" if night.km > 0 else "stays"
