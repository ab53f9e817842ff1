"""Words of the rota: who has the cable when, who is short, and what a second cable would change."""

from datetime import timedelta

from ...core.charge.rota import NOBODY, SAME_SOC
from ...services.rota import SharedCable
from ..units import Units
from .sentence import Part, Verdict, percent


def rota_verdict(shared: SharedCable, units: Units) -> Verdict:
    """Who has the cable tonight and how often it goes over; who is short."""
    rota, names = shared.rota, [name for _, name in shared.cars]
    tonight = names[rota.nights[0]] if rota.nights[0] != NOBODY else "nobody"
    swaps = {0: "No swap", 1: "One swap"}.get(rota.swaps, f"{rota.swaps} swaps")
    lead = (
        Part("Tonight "), Part(tonight, "strong"), Part(f" has the cable of “{shared.outlet}”. {swaps} in the coming week"),
        Part(f", at {units.clock(shared.swap_at)}." if rota.swaps else "."),
    )  # fmt: skip
    return Verdict(lead, (Part(" ".join((_nights(shared), _short(shared), _second(shared, units)))),))


def _nights(shared: SharedCable) -> str:
    """The nights of each car."""
    said = []
    for number, (_, name) in enumerate(shared.cars):
        days = [f"{day:%a}" for day, has in zip(shared.evenings, shared.rota.nights, strict=True) if has == number]
        said.append(f"{name}: {', '.join(days)}" if days else f"{name}: no night")
    return f"{'; '.join(said)}."


def _short(shared: SharedCable) -> str:
    """Who is short on which day, and by how much."""
    said = []
    for number, (_, name) in enumerate(shared.cars):
        for night, short in enumerate(shared.rota.short_soc[number].tolist()):
            if short > SAME_SOC:
                day = shared.evenings[night] + timedelta(days=1)
                said.append(f"{name} is {percent(short)} short on {day:%A}")
    return f"{'; '.join(said)}: charge on the way, or raise the limit before." if said else "Nobody is short."


def _second(shared: SharedCable, units: Units) -> str:
    """What a second cable would change."""
    if not shared.rota.feasible and shared.each.feasible:
        return "With a cable for each nobody would be."
    saved = shared.saved_a_year
    if saved < 1:
        return "A second cable would save nothing worth speaking of."
    return f"A second cable would save about {units.money(saved, 0)} a year, the swaps counted."
