"""What does not go together in a car's log, and what would mend it. Every rule looks at neighbours in time."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..basis import Basis, figure
from ..car import Car
from ..drive.road import Conditions, consumption_wh_per_km
from .facts import Fact
from .idle_intervals import idle_intervals

LEAST_SHARE = figure(
    "log.least_use", 0.5, "", Basis.COMMON_PRACTICE, "of the use at {40 km/h} in summer: with less nobody drives a whole day"
)
MOST_SHARE = figure(
    "log.most_use",
    4.0,
    "",
    Basis.COMMON_PRACTICE,
    "times the use at {110 km/h} in frost: more is a slip, but for the shortest trips",
)
SHORT_KM = figure("log.short", 5.0, "km", Basis.COMMON_PRACTICE, "on shorter drives heating and rounding hide the use")
ROUNDING_SOC = figure("log.rounding", 0.015, "", Basis.COMMON_PRACTICE, "a level is read to whole per cents, twice")
GAP_SHARE = figure(
    "log.gap_share", 0.15, "", Basis.COMMON_PRACTICE, "the odometer’s kilometres and those of the drives differ so much"
)
GAP_KM = figure("log.gap", 15.0, "km", Basis.COMMON_PRACTICE, "and by so many at least, before a drive is missing")
MOST_STRETCH = figure("log.stretch", 2.0, "", Basis.COMMON_PRACTICE, "times its length at most a noted drive may be off")


@dataclass(frozen=True, kw_only=True)
class Anomaly:
    """Something that hardly can be: `code` says what, `fact` is the entry to look at, `before` the one that it does not follow.

    `values` are the numbers to say it with (levels 0 to 1, km, seconds since 1970); those named `mend_…` would mend it.
    """

    code: str
    fact: Fact
    before: Fact | None = None
    values: Mapping[str, float]

    @property
    def mendable(self) -> bool:
        """Whether it can be mended without asking what happened."""
        return self.code in ("level_up", "odometer_back") or any(name.startswith("mend_") for name in self.values)


def anomalies(facts: Sequence[Fact], car: Car) -> tuple[Anomaly, ...]:
    """All anomalies about a car's entries, in the order of time; those that the owner has called right are left out."""
    known = sorted(facts, key=lambda each: (each.begun_s, each.ended_s))
    usual = consumption_wh_per_km(car, 80.0, Conditions(ambient_c=5.0), climate_kw=1.0)
    per_km = usual / 1000 / car.pack.usable_kwh
    found = [*_use(known, car, per_km), *_overlaps(known), *_levels(known, per_km), *_odometers(known)]
    return tuple(sorted((each for each in found if each.code not in each.fact.sure), key=lambda each: each.fact.begun_s))


def _use(facts: Sequence[Fact], car: Car, soc_per_km: float) -> Iterator[Anomaly]:
    """Drives that took hardly anything, or far too much: "140 km with 3 %"."""
    summer, frost = Conditions(ambient_c=20.0), Conditions(ambient_c=-15.0)
    least = LEAST_SHARE * consumption_wh_per_km(car, 40.0, summer)
    most = MOST_SHARE * consumption_wh_per_km(car, 110.0, frost)
    for each, km, start, used in _used(facts):
        low, high = (1000 * (used + step) * car.pack.usable_kwh / km for step in (ROUNDING_SOC, -ROUNDING_SOC))
        if low < least or high > most:
            right = round(start - soc_per_km * km, 2)
            mend = {"mend_soc": right} if right >= 0 else {}
            yield Anomaly(code="odd_use", fact=each, values={"km": km, "used": used} | mend)


def _overlaps(facts: Sequence[Fact]) -> Iterator[Anomaly]:
    """Drives and charges that begin while another one of the car goes on."""
    spans = [each for each in facts if each.kind in ("drive", "charge")]
    for before, each in pairwise(spans):
        if each.begun_s < before.ended_s - 60:
            yield Anomaly(
                code="overlap", fact=each, before=before, values={"mend_end_s": each.begun_s, "ended_s": before.ended_s}
            )


def _levels(facts: Sequence[Fact], soc_per_km: float) -> Iterator[Anomaly]:
    """Levels that rose without a charge, or fell without a drive."""
    for each in idle_intervals(facts):
        values = {"was": each.was, "now": each.now}
        if each.rose:
            yield Anomaly(code="level_up", fact=each.after, before=each.before, values=values)
        elif each.fell:
            mend = {"mend_km": (each.was - each.now) / soc_per_km}
            yield Anomaly(code="level_down", fact=each.after, before=each.before, values=values | mend)


def _odometers(facts: Sequence[Fact]) -> Iterator[Anomaly]:
    """Clocks that went back, and kilometres that no drive accounts for."""
    clocks = [(each, each.odometer_km) for each in facts if each.odometer_km is not None]
    for (before, was_km), (each, now_km) in pairwise(clocks):
        went = now_km - was_km
        if went < 0:
            yield Anomaly(code="odometer_back", fact=each, before=before, values={"was_km": was_km, "went": -went})
            continue
        driven = _driven_km(facts, before, each)
        if abs(went - driven) > max(GAP_KM, GAP_SHARE * max(went, driven)):
            mend = {"mend_factor": went / driven} if driven and 1 / MOST_STRETCH <= went / driven <= MOST_STRETCH else {}
            yield Anomaly(code="km_gap", fact=each, before=before, values={"went": went, "driven": driven} | mend)


def _driven_km(facts: Sequence[Fact], before: Fact, after: Fact) -> float:
    """What the drives between two readings of the clock come to, km."""
    drives = [each for each in facts if each.kind == "drive" and before.begun_s < each.ended_s <= after.begun_s + 60]
    return sum((each.km or 0.0 for each in drives), 0.0)


def _used(facts: Sequence[Fact]) -> Iterator[tuple[Fact, float, float, float]]:
    """Drives that are no errands, with their km, the level that they began with and what they took."""
    for each in (each for each in facts if each.kind == "drive" and (each.km or 0.0) > SHORT_KM):
        if each.soc_start is not None and each.soc_end is not None:
            yield each, each.km or 0.0, each.soc_start, each.soc_start - each.soc_end
