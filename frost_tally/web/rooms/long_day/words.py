"""Words of the long day: how many stops, how long it takes, where and how low, and what would make it shorter."""

from ....core.advice.long_way import Goal, LongDay, Look, Stop
from ....core.advice.road_speeds import bearable_kmh
from ....core.battery.cold import REGEN_FADES_SOC
from ....core.charge.stop_table import Post
from ....services.long_day.room import LongRoom, SideBySide
from ...units import Units
from ...words.sentence import NBSP, Part, Verdict, at_least, percent

GOALS = {Goal.TIME.value: "the shortest time", Goal.MONEY.value: "the least money", Goal.STOPS.value: "the fewest stops"}
SPEED_CAUTION = "Slower is only better while legal and safe; faster only where signs, snow and ice allow it: the road decides."
COUNTS = ("No stop", "One stop", "Two stops", "Three stops", "Four stops", "Five stops", "Six stops")


def span(minutes: float) -> str:
    """Minutes as hours and minutes."""
    whole = round(minutes)
    return f"{whole // 60}{NBSP}h{NBSP}{whole % 60:02d}{NBSP}min" if whole >= 60 else f"{whole}{NBSP}min"


def count_words(count: int) -> str:
    """How many stops."""
    return COUNTS[count] if count < len(COUNTS) else f"{count} stops"


def place_words(stop: Stop | Look, room: LongRoom, units: Units) -> str:
    """A stop by its name, else by its mark."""
    mark = units.text(stop.post.km + room.inputs.from_km, "distance")
    return f"{stop.post.name}, {mark}" if stop.post.name else f"at {mark}"


def long_verdict(room: LongRoom, units: Units) -> Verdict:
    """The plan in a sentence, then its stops, then what helps."""
    made = room.made
    if not made.reached:
        return _stranded(room, units)
    lead = (
        Part(count_words(len(made.stops)), "strong"), Part(f", {span(made.standing_min)} standing, " if made.stops else ", "),
        Part(span(made.total_min), "strong"), Part(" door to door; you arrive with "), Part(percent(made.end_soc), "strong"),
        Part(f" ({100 * made.end_low:.0f}–{100 * made.end_high:.0f})."),
    )  # fmt: skip
    said = [
        f"{place_words(each, room, units)}: from {percent(each.arrive_soc)} to {percent(each.leave_soc)} in {span(each.minutes)}"
        for each in made.stops
    ]
    then = f"{'; '.join(said)}. " if said else ""
    money = f"It costs {units.money(made.cost)} on the way." if units.pays(made.cost) else ""
    return Verdict(lead, (Part(then + money),), tuple(_notes(room, units)))


def _stranded(room: LongRoom, units: Units) -> Verdict:
    """What is out of reach, and what would bring it in."""
    made, levers = room.made, room.inputs
    if not made.gap_to_km:
        return _no_plan(room, units)
    begin, far, gap = (
        units.text(levers.from_km + km, "distance") for km in (made.gap_from_km, made.as_far_as_km, made.gap_to_km)
    )
    lead = (Part("It does not get there", "strong"), Part(" with these posts and this reserve."))
    there = any(abs(each.km - made.gap_to_km) < 0.05 for each in made.request.posts)
    where = f"the next post is at {gap}" if there else f"the end is at {units.text(levers.km, 'distance')}"
    full = f"From {begin} even a full pack reaches {far}" if made.gap_from_km > 0 else f"From here it reaches {far}"
    fuller = levers.leave_soc < 0.995 and not levers.from_km
    helps = ["a post more where the gap is", "a lower speed", "leaving fuller" if fuller else "a smaller reserve"]
    if made.request.end_soc > made.request.reserve_soc:
        helps.append("a lower level at the end")
    return Verdict(
        lead, (Part(f"{full} on the cautious side; {where}. What would help: {', '.join(helps)}."),), tuple(_tight(room, units))
    )


def _no_plan(room: LongRoom, units: Units) -> Verdict:
    """The end is within reach, but not with what is wanted there, or not in this cold."""
    made, wanted = room.made, room.made.request.end_soc
    helps = "a post nearer to the end, or at it; a lower speed; a lower level at the end"
    if made.end_soc < wanted:
        lead = (
            Part("It gets there, but not with "),
            Part(percent(wanted), "strong"),
            Part(f" left: {percent(made.end_soc)} at the most."),
        )
        return Verdict(lead, (Part(f"What would help: {helps}."),), tuple(_tight(room, units)))
    cold = (Part("No plan gets there", "strong"), Part(" with these posts: a pack this cold charges too slowly."))
    return Verdict(
        cold, (Part("What would help: a warm start, a stronger post, a smaller reserve."),), tuple(_tight(room, units))
    )


def _low_and_warm(room: LongRoom, units: Units) -> str:
    """Why to arrive low and warm, in this car's minutes."""
    each = room.low_and_warm
    if each is None or each.half_min < each.low_min + 1:
        return "In frost arrive low and warm: a cold, half full pack takes a fraction of what the post gives."
    half = span(each.half_min) if each.half_min < 600 else "hours"
    return (
        f"In frost arrive low and warm: {units.text(each.kwh, 'energy', 0)} at {units.text(each.post_kw, 'power', 0)} take "
        f"{span(each.low_min)} from 12{NBSP}% with a warm pack, {half} from half full at {units.text(each.cold_c, 'temperature', 0)}."
    )


def _tight(room: LongRoom, units: Units) -> list[str]:
    """What hardly any reserve would do, and which posts are left out."""
    notes = _without(room, units)
    if room.tight is not None and room.tight.reached and room.tight.stops:
        first = room.tight.stops[0]
        kept, asked = (percent(each.request.reserve_soc) for each in (room.tight, room.made))
        band = f"{100 * first.low_soc:.0f}–{100 * first.high_soc:.0f}"
        place = place_words(first, room, units)
        notes.insert(
            0,
            f"With {kept} kept instead of {asked} it does: {place} with {percent(first.arrive_soc)} ({band}). Drive slower until there.",
        )
    return notes


def _without(room: LongRoom, units: Units) -> list[str]:
    """Posts that are left out."""
    marks = ", ".join(units.text(each, "distance") for each in room.without)
    return [f"Without the post at {marks}: planned as if it were not there."] if marks else []


def _notes(room: LongRoom, units: Units) -> list[str]:
    """What else to know: warming on the way, the start, what was left out."""
    made, levers, notes = room.made, room.inputs, list[str]()
    if made.looks:
        each_needs = [f"{place_words(each, room, units)}: {at_least(each.needs_soc)}" for each in made.looks]
        notes.append(f"Drive on past these with so much or more, with less stop there: {'; '.join(each_needs)}.")
    small = [each for each in made.stops if each.small]
    if small:
        where, gain = place_words(small[0], room, units), 100 * (small[0].leave_soc - small[0].arrive_soc)
        notes.append(
            f"The stop at {where} adds only {gain:.0f}{NBSP}%: a little slower, the way needs that much less, and no stop there."
        )
    warmed = [each for each in made.stops if each.warmed]
    if warmed and room.without_warming is not None and room.without_warming.reached:
        first = warmed[0]
        gain = room.without_warming.total_min - made.total_min
        begin = units.text(max(0.0, first.post.km + levers.from_km - 0.5 * levers.motorway_kmh), "distance")
        if gain >= 1:
            notes.append(
                f"Warm the pack from {begin} on (name the post as the car’s destination): the day is {span(gain)} shorter than with a pack "
                "that nobody warms."
            )
    if room.without_slow is not None:
        names = ", ".join(each.post.name or "the slow post" for each in made.stops if each.post.fills_while_standing)
        if not room.without_slow.reached:
            notes.append(f"Charging at {names} while you stand there anyway is what makes it fit.")
        elif (minutes := room.without_slow.total_min - made.total_min) >= 1:
            money = room.without_slow.cost - made.cost
            pays = f" and {units.money(money)}" if money > 0 and units.pays(money) else ""
            notes.append(f"Charging at {names} while you stand there anyway saves {span(minutes)}{pays} at the other posts.")
    if levers.leave_soc > REGEN_FADES_SOC and not levers.from_km:
        notes.append(
            "Above 90 % the car brakes less with its motor at first; let a full charge end within the hour before you leave."
        )
    if (most := bearable_kmh(levers.limit_kmh, levers.out_c)) < levers.motorway_kmh - 0.5:
        planned, bound = (units.text(each, "speed", 0) for each in (levers.motorway_kmh, most))
        notes.append(f"Planned with {planned}: more than the {bound} that {_bears(most, levers.limit_kmh)}. {SPEED_CAUTION}")
    if levers.out_c < 5 and made.stops:
        notes.append(_low_and_warm(room, units))
    if any(each.leave_soc > 0.81 for each in made.stops):
        notes.append("Above 80 % a stop is slow: it leaves so full only because the next stretch needs it.")
    notes += _without(room, units)
    if not room.listed:
        every = units.text(levers.every_km, "distance")
        notes.append(f"No posts are listed for this way: one about every {every} is taken. List the real ones below.")
    if room.taught is not None:
        notes.append(f"Your own fast charges say {100 * room.taught:.0f}{NBSP}% of the car’s usual curve; counted in.")
    return notes


def side_words(side: SideBySide, units: Units) -> list[str]:
    """What the pictures say: a stop more in frost and in summer, and the speed that takes least."""
    said = []
    for name, counts in (("In frost", side.frost), ("In summer", side.summer)):
        known = {n: each for n, each in enumerate(counts) if each is not None}
        if not known:
            said.append(f"{name} it does not get there.")
            continue
        best = min(known, key=lambda n: known[n])
        more = known.get(best + 1)
        costs = (
            f"; one more, each shorter, costs {span(more - known[best])}"
            if more is not None and more - known[best] >= 0.5
            else ""
        )
        costs = costs or ("; one more costs nothing" if more is not None else "")
        take = "takes" if best == 1 else "take"
        said.append(f"{name} {count_words(best).lower()} {take} least, {span(known[best])}{costs}.")
    warm, cold = side.warmed
    if warm is not None and cold is not None:
        gain = f"gives {span(cold - warm)}" if cold - warm >= 1 else "gives nothing here: the stops follow each other closely"
        said.append(f"In frost, warming the pack on the way to a post {gain}.")
    charging, idle = side.slow
    if charging is not None and idle is not None and idle - charging >= 1:
        said.append(f"Charging where you stand anyway saves {span(idle - charging)}.")
    for name, column in (("frost", 1), ("summer", 2)):
        times = {row[0]: row[column] for row in side.speeds if row[column] is not None}
        if len(times) > 1:
            quick, most = min(times, key=lambda kmh: times[kmh] or 0.0), side.bounds[column - 1]
            bound = f"{_bears(most, side.inputs.limit_kmh)}, up to {units.text(most, 'speed', 0)}"
            said.append(
                f"The quickest motorway speed in {name} is {units.text(quick, 'speed', 0)}, {span(times[quick] or 0.0)}, of what {bound}."
            )
    return [*said, SPEED_CAUTION]


def _bears(most_kmh: float, limit_kmh: float) -> str:
    """What bounds the speeds that are a choice."""
    return "the roads allow" if most_kmh >= limit_kmh else "a road that may be icy bears"


def _power(post: Post, units: Units) -> str:
    """What a post gives."""
    if post.gives_kw < post.kw:
        return f"{units.text(post.gives_kw, 'power', 0)} of {units.text(post.kw, 'power', 0)}, shared"
    return units.text(post.kw, "power", 0) if post.kw else "–"


def stop_rows(made: LongDay, room: LongRoom, units: Units) -> list[tuple[str, ...]]:
    """The stops as a table."""
    return [
        (
            place_words(each, room, units), _power(each.post, units),
            f"{percent(each.arrive_soc)} ({100 * each.low_soc:.0f}–{100 * each.high_soc:.0f})", percent(each.leave_soc), span(each.minutes),
            units.text(each.kwh, "energy"), units.money(each.cost) if each.post.price_per_kwh else "–",
            f"{units.text(each.arrive_c, 'temperature', 0)}{', warmed' if each.warmed else ''}",
        )
        for each in made.stops
    ]  # fmt: skip
