"""Sentences of warming up: the verdict, what each choice costs and saves, the way home, departures."""

from dataclasses import replace
from datetime import timedelta

from ...core.advice.worth import COMFORT_C, Option
from ...core.car import Car, Preheats
from ...core.charge.plan import LOWER_SOC
from ...core.heat.own_minutes import APART_K, WarmNote
from ...core.heat.warm import WarmUpChoice, pack_target_c
from ...core.why import NOTHING_TO_SAY
from ...services.warmup.minutes import PackMinutes
from ...services.warmup.room import WarmUpRoom
from ..units import Units
from .sentence import Part, Verdict, percent

CHOICES = {
    WarmUpChoice.NOTHING: "nothing",
    WarmUpChoice.SEATS: "seats only",
    WarmUpChoice.CABIN: "cabin",
    WarmUpChoice.CABIN_AND_PACK: "cabin and pack",
    WarmUpChoice.LATE: "late charging",
}
WARM_UPS = {each.value: words for each, words in CHOICES.items()}
PARTS = {
    "night": ("the wall", "charging and warm-up at the prices of their hours"),
    "level": (
        "level",
        "energy left in the evening, less the heat that the next charge needs, at what a kWh in the pack costs tonight",
    ),
    "scarce": ("on the way", "level missing to the floor on the cautious side, charged on the way at its price"),
    "wear": ("wear", "energy through the pack, what goes in cold counting more, in money of a new one"),
    "comfort": ("cold", "kelvin-minutes too cold, at what people spend on warmth"),
}
MOSTLY = 0.5
"""From this share of its heat out of the pack on, a warm-up is told to come from it."""
UNKNOWN = (
    "Nobody knows yet whether this car warms its pack when it warms the cabin, so only the cabin is planned. To find out, watch the "
    "regen bars and the consumption of the first ten minutes on frosty mornings with and without a warm-up, then say it in the Garage."
)
CAUTIONS = (
    "Screens and lights must be clear, and people warm, before range is saved; clear the roof, as many places require by law.",
    "Unplug before driving. No boiling water on ice, no force on a frozen flap.",
    "A plan is advice: the car’s own limits and manual win.",
)


def clock_words(room: WarmUpRoom, units: Units, before_s: float = 0.0) -> str:
    """The local time so long before departure."""
    moment = room.request.departure - timedelta(seconds=before_s)
    return units.clock(moment.astimezone(room.zone))


def verdict(room: WarmUpRoom, units: Units) -> Verdict:
    """What to warm for the next departure, and why."""
    best, leaves = room.advice.best, clock_words(room, units)
    lead: tuple[Part, ...]
    warm = best.plan.warm
    if best.choice is WarmUpChoice.SEATS:
        lead = (Part(f"For {leaves}: "), Part("seats only", "strong"), Part(". Leave cabin and pack heating off on the way."))
    elif best.choice is WarmUpChoice.NOTHING:
        lead = (Part(f"For {leaves}: warm "), Part("nothing", "strong"), Part(" before you go; heat as you drive."))
    else:
        what = {WarmUpChoice.CABIN: "cabin", WarmUpChoice.CABIN_AND_PACK: "cabin and pack"}.get(best.choice, "cabin")
        late = (
            "Charge late in the hours the price allows, for the pack’s warmth; then warm "
            if best.choice is WarmUpChoice.LATE
            else "Warm "
        )
        lead = (
            Part(f"{late}the "),
            Part(what, "strong"),
            Part(" from "),
            Part(clock_words(room, units, warm.lead_s), "heat"),
            Part(f", ready at {leaves}."),
        )
    return Verdict(lead, (Part(" ".join(_because(room, units))),), tuple(_notes(room, units)))


def _because(room: WarmUpRoom, units: Units) -> list[str]:
    """The reason, from what the best choice costs and saves against the other kind."""
    advice, best = room.advice, room.advice.best
    km = units.text(room.inputs.km, "distance")
    if best.choice is WarmUpChoice.SEATS:
        cabin = advice.option(WarmUpChoice.CABIN)
        said = [f"{km} are over before a warm car pays: the cabin would cost {units.money(cabin.plan.warm_cost)} at the wall."]
        if advice.seats_to_km is not None and advice.seats_to_km > room.inputs.km:
            said.append(f"That holds to about {units.text(advice.seats_to_km, 'distance')} one way.")
    elif best.choice is WarmUpChoice.NOTHING:
        said = ["Warming would cost more than the comfort and the level that it keeps are worth."]
    else:
        said = [_spares(best, units)]
        if best.choice is not WarmUpChoice.CABIN_AND_PACK:
            said.append(_not_the_pack(room, units))
    if advice.pack_from_km is not None:
        way = "a warm pack pays from" if room.inputs.km < advice.pack_from_km else "a warm pack pays, as it does from"
        said.append(f"At this temperature {way} {units.text(advice.pack_from_km, 'distance')} one way on.")
    return said


def _from_the_pack(room: WarmUpRoom) -> list[str]:
    """Why a warm pack pays later, or never, on a weak outlet (common practice, and `tests/reference/test_warm_up.py`: never from a shorter
    distance), and why hard frost does not always bring that distance nearer.
    """
    warm = room.advice.option(WarmUpChoice.CABIN_AND_PACK).plan.warm
    taken = warm.pack_kwh / max(warm.pack_kwh + warm.wall_kwh, 1e-9)
    if not room.inputs.plugged or warm.pack_lead_s <= 0 or taken < MOSTLY:
        return []
    later = "no distance gives it back" if room.advice.pack_from_km is None else "it pays later than on a stronger outlet"
    return [
        f"On this outlet {percent(taken)} of what warms cabin and pack come out of the pack itself, more the colder it is: {later}, and "
        "hard frost can put it off further instead of bringing it nearer."
    ]


def _spares(best: Option, units: Units) -> str:
    parts, warm, least = best.parts, best.plan.warm, best.plan.no_matter
    gains = []
    if best.gained_km >= 0.5:
        gains.append(f"keeps {units.text(best.gained_km, 'distance')} more in the pack")
    if -parts["wear"] > least:
        gains.append(f"spares wear worth {units.money(-parts['wear'])}")
    if -parts["comfort"] > least:
        gains.append(f"spares you a cold start, counted with {units.money(-parts['comfort'])}")
    if -parts["scarce"] > least:
        gains.append(f"saves {units.money(-parts['scarce'])} of charging on the way")
    kwh = warm.wall_kwh + warm.pack_kwh
    price = f", {units.money(best.plan.warm_cost)} at that hour’s price" if warm.wall_kwh > 0.005 else " from the pack"
    took = f"It takes {units.text(kwh, 'energy')}{price}"
    whole = f" In all it saves {units.money(-best.total)} against doing nothing." if -best.total > least else ""
    if not gains:
        return f"{took}.{whole}"
    *first, last = gains
    return f"{took}; it {', '.join(first)} and {last}.{whole}" if first else f"{took}; it {last}.{whole}"


def _not_the_pack(room: WarmUpRoom, units: Units) -> str:
    pack = room.advice.option(WarmUpChoice.CABIN_AND_PACK)
    if pack.reason:
        return ""
    best = room.advice.best
    cost, more = pack.parts["night"] - best.parts["night"], pack.total - best.total
    if pack.plan.warm.pack_lead_s <= 0:
        return "The pack is warm enough as it is."
    if cost <= 0 or not units.pays(cost):
        kwh = pack.plan.warm.pack_kwh - best.plan.warm.pack_kwh
        return (
            f"Warming the pack would take {units.text(kwh, 'energy')} out of it, {units.money(more)} more than that gives back."
        )
    saved, health = max(cost - more, 0.0), best.parts["wear"] - pack.parts["wear"]
    own = (
        f", {units.money(health)} of it wear: warm it for its health if you like"
        if units.pays(health) and 0 < health <= saved
        else ""
    )
    back = f"give {units.money(saved)} of it back on this day{own}" if units.pays(saved) else "give nothing back on this day"
    return f"The pack too would cost {units.money(cost)} more and {back}."


def _notes(room: WarmUpRoom, units: Units) -> list[str]:
    """What else must be said: a falling level, a car that nobody knows, several trips, the habit, the switch-off."""
    best, notes = room.advice.best, list[str]()
    warm, pack = best.plan.warm, room.car.pack
    if room.idle:
        notes.append("No departure is listed in the coming week; this is for the usual one, if you left all the same.")
    if room.listed is not None and room.listed - room.now > timedelta(days=1):
        notes.append(f"The next departure on the list is on {room.listed:%A} at {units.clock(room.listed)}.")
    if best.arrival_soc <= 0:
        notes.append("This day is farther than the pack reaches with any warm-up: plan a charge on the way, or a shorter day.")
    if warm.pack_kwh > 0.05:
        falls = warm.pack_kwh / pack.usable_kwh
        level = f": the level falls by {percent(falls)}" if falls > LOWER_SOC else ""
        share = f"{units.text(warm.wall_kwh, 'energy')} come from the wall, {units.text(warm.pack_kwh, 'energy')} from the pack"
        if room.inputs.plugged:
            notes.append(f"{share}{level}{' while plugged in' if level else ''}.")
        else:
            notes.append(f"Unplugged, all of it comes from the pack{level}.")
    if pack.preheats is Preheats.UNKNOWN:
        notes.append(UNKNOWN)
    elif pack.preheats is Preheats.NO or pack.preheater_kw <= 0:
        notes.append("This car does not warm its pack before departure: warming the cabin does not warm the pack.")
    notes += _from_the_pack(room)
    if room.outing.trips > 2 and best.choice is WarmUpChoice.CABIN_AND_PACK:
        notes.append(
            "Once, before the first trip: a pack loses half its warmth in about eight hours, so the later trips find it warm."
        )
    elif room.outing.trips > 2 and room.advice.option(WarmUpChoice.CABIN_AND_PACK).reason is NOTHING_TO_SAY:
        pack_too = room.advice.option(WarmUpChoice.CABIN_AND_PACK).total - best.total
        notes.append(
            "Several short trips: the trade warms the pack once, before the first. By this car’s figures that costs "
            f"{units.money(pack_too)} more than it gives back."
        )
    if room.planned.choice is not best.choice and room.inputs == replace(room.defaults, show=room.inputs.show):
        notes.append(
            f"Tonight plans for {CHOICES[room.planned.choice]}, as this departure or your habit says, until you change it below."
        )
    return notes


def home_words(room: WarmUpRoom, units: Units) -> str:
    """The way home, unplugged."""
    back = room.home
    if back is None:
        return ""
    at, minutes = units.clock(back.at.astimezone(room.zone)), max(1, round(back.lead_s / 60))
    if back.lead_s <= 0:
        return f"At {at} the cabin is warm enough by itself."
    begin = units.clock((back.at - timedelta(seconds=back.lead_s)).astimezone(room.zone))
    later = f" for the {room.outing.trips - 1} later trips" if room.outing.trips > 2 else ""
    price = f"{units.text(back.kwh, 'energy')} from the pack, {units.text(max(back.km, 0.0), 'distance', 1)} of range{later}"
    pack = f"Leave the pack as it is: it still has {units.text(back.pack_c, 'temperature', 0)}"
    counted = "It is counted in the day." if room.inputs.warm_home else "It is not counted in the day unless you switch it on."
    return f"At {at}, unplugged: cabin only, {minutes} minutes from {begin}, {price}. {pack}. {counted}"


def missed_words(room: WarmUpRoom, units: Units) -> str:
    """What a departure costs that does not happen."""
    off = units.clock((room.request.departure + timedelta(minutes=20)).astimezone(room.zone))
    if room.advice.best.plan.warm.lead_s <= 0:
        return "Nothing is warmed, so nothing is lost if you stay."
    warm = room.advice.best.plan.warm
    whole = units.text(warm.wall_kwh + warm.pack_kwh + room.missed_kwh, "energy")
    return f"If you stay: it is held warm until {off}, then switched off; {whole} would be spent for nothing."


def own_words(takes: PackMinutes, cold_c: float, car: Car, units: Units) -> str:
    """How long the pack takes in some cold (°C), by the owner's minutes and by its class; "" where nothing warms it."""
    if car.pack.preheats is Preheats.NO or takes.by_class <= 0:
        return ""
    air, own = units.text(cold_c, "temperature", 0), takes.own
    if own is None:
        guess = f"{takes.by_class:.0f} minutes at {air} by its class, which is a guess"
        return f"The pack would take {guess}. Many cars heat with less power, or further: type what yours takes, and that counts."
    took, apart = units.text(own.low_kwh, "energy"), units.text(APART_K, "warmer", 0)
    if own.high_kwh - own.low_kwh > 0.05:
        took = f"{units.plain(own.low_kwh, 1)} to {units.text(own.high_kwh, 'energy')}, for it may heat further instead of slower"
    sure = "as your notes tell" if own.told else f"a second note {apart} apart, or a kWh, would tell the two apart"
    way = f"{units.text(own.power_kw, 'power')} to {units.text(own.target_c, 'temperature', 0)}"
    minutes = f"{takes.by_own:.0f} minutes at {air}, not {takes.by_class:.0f} as its class would"
    return f"By your minutes the pack takes {minutes}: {way}; {sure}. The last time it took {took}."


def note_words(note: WarmNote, units: Units) -> str:
    """A note of minutes in a line."""
    used = f", {units.text(note.kwh, 'energy')}" if note.kwh is not None else ""
    return f"{note.minutes:.0f} minutes at {units.text(note.soak_c, 'temperature')}{used}"


def target_words(room: WarmUpRoom, units: Units) -> str:
    """The targets the course aims at."""
    pack = units.text(pack_target_c(room.car.pack), "temperature", 0)
    cabin, coat = units.text(room.inputs.cabin_c, "temperature", 0), units.text(COMFORT_C, "temperature", 0)
    return f"cabin to {cabin}, pack to {pack}; in a coat {coat} will do"
