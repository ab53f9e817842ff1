"""Sentences of the sayings about how full a pack is kept and what ages it."""

from collections.abc import Mapping

from ....core.sayings.said import Said, Verdict
from .written import Says, Sentence


def _eighty(said: Said, n: Says) -> str:
    return (
        f"80 % keeps {n('points', 'points')} points ({n('low', 'points')} to {n('high', 'points')} by the cell) over "
        f"{n('years', 'count')} years "
        f"against 100 %. Raised nights and stops counted, {n('best', 'share')} is worth the most for you."
    )


def _fifty(said: Said, n: Says) -> str:
    gain = said.numbers["money"]
    return (
        f"{n('points', 'points')} points more in {n('years', 'count')} years, for {n('raised', 'count')} more nights a "
        f"year on which you raise "
        f"it: {n.units.money(abs(gain), 0)} {'won' if gain > 0 else 'lost'} in all."
    )


def _twenty(said: Said, n: Says) -> str:
    return (
        f"The upper end keeps {n('points', 'points')} points. The lower end spares the pack nothing that is known; it "
        f"is room for a closed road. "
        f"From 80 %, {n('days', 'count')} days of your year end under 20 %."
    )


def _full(said: Said, n: Says) -> str:
    return (
        f"At your {n('limit', 'share')} it stands full {n('late_h', 'hours')} a day so, {n('early_h', 'hours')} when charged at once: "
        f"{n('points', 'points')} points in {n('years', 'count')} years."
    )


def _weekly_full(said: Said, n: Says) -> str:
    if "points" not in n:
        return "Your cells are not iron phosphate: their display finds its level without."
    points = n.units.plain(100 * said.numbers["points"], 2)
    return f"It takes {points} points in {n('years', 'count')} years, and keeps the display honest: do it before a long day."


def _shallow(said: Said, n: Says) -> str:
    if said.numbers["apart"] < 2:
        return "Your days need every night: there is nothing to choose."
    return (
        f"Every night against one night in {n('apart', 'count')}: {n('points', 'points')} points in {n('years', 'count')} "
        f"years. Shallow cycles are "
        "kinder, but a pack that is kept high stands longer at a high level."
    )


def _stored(said: Said, n: Says) -> str:
    return (
        f"{n('weeks', 'count')} weeks at {n.units.text(15, 'temperature', 0)} take "
        f"{n.units.plain(100 * said.numbers['half'], 2)} points at half, "
        f"{n.units.plain(100 * said.numbers['full'], 2)} at full."
    )


def _cool(said: Said, n: Says) -> str:
    cold, warm = (n.units.plain(100 * said.numbers[each], 2) for each in ("cold", "warm"))
    return (
        f"{n('weeks', 'count')} weeks at 70 % take {cold} points at {n.units.text(5, 'temperature', 0)}, {warm} at "
        f"{n.units.text(35, 'temperature', 0)}. "
        f"Your year has {n('days', 'count')} days above {n.units.text(25, 'temperature', 0)}."
    )


def _fast(said: Said, n: Says) -> str:
    more = said.numbers.get("more")
    than = (
        "" if more is None else f", {n('more', 'money')} more than at home" if more > 0 else ", no more than at home in the cold"
    )
    return (
        f"{n('share', 'share')} of your energy came from fast posts. A year of it all fast would wear {n('post_wear', 'money')} by our "
        f"model{than}. Public data do not agree with each other."
    )


def _calibrate(said: Said, n: Says) -> str:
    if said.verdict is Verdict.HOLDS:
        return "Your log says that the display may have drifted: the guide leads through it."
    return "Nothing in your log says that the display has drifted: never mind."


def _pack(said: Said, n: Says) -> str:
    return (
        f"A quarter more spares {n('fewer', 'count')} days a year that the night does not carry and costs "
        f"{n('extra', 'money')} by the pack’s "
        f"price; a fifth less would add {n('more', 'count')}."
    )


def _garage(said: Said, n: Says) -> str:
    return (
        f"Against standing outdoors it spares {n('spared', 'money')} a year on the car’s bill. What heats a garage is not in it."
    )


PACK: Mapping[str, tuple[str, Sentence]] = {
    "eighty": ("Charge to 80 % and no further", _eighty),
    "fifty": ("Fifty is kinder still", _fifty),
    "twenty_to_eighty": ("Keep it between 20 and 80", _twenty),
    "full_before_leaving": ("Full only just before leaving", _full),
    "weekly_full": ("Iron phosphate wants 100 % once a week", _weekly_full),
    "shallow": ("Charge little and often, or seldom and much?", _shallow),
    "stored_half": ("Leave it half full for weeks", _stored),
    "cool_pack": ("Heat ages a pack, cold does not", _cool),
    "fast_harms": ("Fast charging harms, or is it harmless?", _fast),
    "calibrate": ("Empty and fill it monthly for the display, or never mind?", _calibrate),
    "pack_size": ("The larger pack, or the smaller one?", _pack),
    "garage": ("A garage saves charge", _garage),
}
"""Title and sentence of each, by the core’s key."""
