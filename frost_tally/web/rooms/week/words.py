"""Words of the week: on which nights the cable goes in and why, who has it, what it costs, and what is short."""

from ....core.charge.plan import LOWER_SOC
from ....core.coming.night import Because, Cable
from ....services.week import Week, WeekNight
from ...units import Units
from ...words.sentence import Part, Verdict, percent

STATES = {Cable.IN: "in", Cable.OUT: "out", Cable.EITHER: "as you like"}


def week_verdict(week: Week, units: Units) -> Verdict:
    """On which nights to plug in, whose the others are, and what it costs."""
    plugged = [f"{each.night.stay.begin:%A}" for each in week.plugged]
    count, name = len(week.nights), week.owned.name
    whose = f" {name} in" if week.shared else " in"
    if not plugged:
        lead = [Part(f"No need to plug{whose}"), Part(f" in the coming {count} nights.")]
    elif len(plugged) == count:
        lead = [Part(f"Plug{whose} "), Part("every night", "strong"), Part(" of the coming week.")]
    else:
        lead = [Part(f"Plug{whose} on ")]
        for i, day in enumerate(plugged):
            lead += [Part((" and " if i == len(plugged) - 1 else ", ") if i else ""), Part(day, "strong")]
        lead.append(Part("; on the other nights the cable stays out."))
    then = [Part("The week costs "), Part(units.money(week.cost), "strong"), Part(".")]
    return Verdict(tuple(lead), tuple(then), tuple(_notes(week, units)))


def _notes(week: Week, units: Units) -> list[str]:
    """What else must be said: who is short, what is raised, how often the cable goes over, prices that are not known yet."""
    notes = [f"{_whose(each, week)}{_short(each, units)}" for each in week.short]
    notes += [
        f"{each.night.stay.begin:%A} goes to {percent(each.night.inputs.limit)}, above your limit, for that night alone."
        for each in week.plugged
        if each.night.raised
    ]
    likes = [f"{each.night.stay.begin:%A}" for each in week.nights if each.choice.cable is Cable.EITHER]
    if likes and len(likes) < len(week.nights):
        notes.append(f"As you like on {', '.join(likes)}: it changes less than a walk with the cable is worth.")
    if week.shared:
        notes.append(_second(week, units))
    if week.owned.pays.feed and not all(each.dated for each in week.plugged):
        notes.append("Dated prices are known for the first nights only; the painted week counts for the others.")
    return notes


def _whose(night: WeekNight, week: Week) -> str:
    """Which car, where several share the cable."""
    return f"{night.ahead.now.owned.name}, " if week.shared else ""


def _short(night: WeekNight, units: Units) -> str:
    """By how much a day is short, and what to do."""
    missing = percent(night.short_soc)
    return f"{day_line(night, units)}: {missing} short on its cautious side: drive slower, or charge on the way."


def _second(week: Week, units: Units) -> str:
    """How often the cable goes over, and what one for each car would change."""
    swaps = week.group.decided.swaps
    times = {0: "The cable never goes over", 1: "The cable goes over once"}.get(swaps, f"The cable goes over {swaps} times")
    saved = week.saved_a_year
    second = (
        "a second cable would save nothing worth speaking of"
        if saved < 1
        else f"a second cable would save about {units.money(saved, 0)} a year, the swaps counted"
    )
    return f"{times} in these {len(week.nights)} nights; {second}."


def evening_line(night: WeekNight, units: Units) -> str:
    """A night: its evening, and the day after it."""
    return f"{night.night.stay.begin:%A} night; {day_line(night, units)}"


def day_line(night: WeekNight, units: Units) -> str:
    """The day after a night: its weekday, what is listed, its kilometres."""
    away = night.night.stay.away is not None
    what = units.text(night.km, "distance") if night.km > 0 else "stays there" if away else "stays at home"
    what = f"way home, {what}" if away and night.km > 0 else what
    names = f"{' and '.join(night.names)}, " if night.names and night.km > 0 else ""
    return f"{night.night.stay.leaves:%A}, {names}{what}"


def state_words(night: WeekNight, units: Units) -> str:
    """Whether the cable goes in, and why."""
    choice, state = night.choice, STATES[night.choice.cable]
    more = choice.other_costs
    day = f"{night.night.stay.leaves:%A}"
    match choice.because:
        case Because.NEED:
            return f"{state}: without it a day is {percent(choice.other_short_soc)} short"
        case Because.CHEAPER:
            return f"{state}: leaving it out costs {units.money(more)} more"
        case Because.FULL:
            return f"{state}: the full charge of the week"
        case Because.KEPT:
            return f"{state}: as you kept it"
        case Because.HABIT:
            return f"{state}: as on every night"
        case Because.OTHER:
            return f"{state}: {_holder(night)} has the cable"
        case Because.AWAY:
            return f"{state}: elsewhere"
    if units.pays(more) and choice.cable is Cable.OUT:
        return f"{state}: enough for {day}; in would cost {units.money(more)} more"
    return f"{state}: enough for {day}" if night.km > 0 else f"{state}: nobody leaves"


def _holder(night: WeekNight) -> str:
    """Who has the cable on a night that is not this car's."""
    them = [each for each in night.ahead.group.cars if each is not night.ahead and each.turns[night.number].span is not None]
    return " and ".join(each.now.owned.name for each in them) or "another car"


def night_words(night: WeekNight) -> tuple[str, str]:
    """Beside a night: what it is charged to, and what the day leaves."""
    made = night.night
    out = "stays out" if made.stay.away is None else "elsewhere"
    charge = f"to {percent(made.plan.highest_soc)}" if made.plugged else f"{out}: {percent(made.soc)}"
    if night.short_soc > LOWER_SOC:
        return charge, f"{percent(night.short_soc)} short"
    return charge, f"home with {percent(made.home_soc)}" if night.km > 0 else "stays"
