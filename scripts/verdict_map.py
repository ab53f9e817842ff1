"""Draw docs/guide/warm-up-map.svg: what the advice says over distance and temperature, by chemistry and supply."""

from datetime import datetime, time
from math import log
from pathlib import Path
from zoneinfo import ZoneInfo

from frost_tally.core.advice.warm_up import Advice, advise
from frost_tally.core.car import preset
from frost_tally.core.charge.night import NightRequest
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.charge.tariff import two_band
from frost_tally.core.drive.outing import Outing
from frost_tally.core.drive.road import Conditions
from frost_tally.core.heat.warm import WarmUpChoice

MAP = Path(__file__).parent.parent / "docs" / "guide" / "warm-up-map.svg"
ZONE = "Europe/Oslo"
EVENING = datetime(2027, 1, 14, 18, tzinfo=ZoneInfo(ZONE))
PRICES = two_band("two bands", ZONE, 0.12, dear=0.30, start=time(22, 30), end=time(6))
TEMPS_C = tuple(range(14, -29, -2))
PANELS = (
    ("compact_hatch", "NMC, 58 kWh, 11 kW", Supply(name="Wall unit", voltage_v=230, phases=3, breaker_a=16)),
    ("compact_hatch", "NMC, 58 kWh, socket 1.8 kW", Supply(name="Socket", voltage_v=230, phases=1, breaker_a=16, cable_a=8)),
    ("small_van", "LFP, 75 kWh, 7.4 kW", Supply(name="Wall unit", voltage_v=230, phases=3, breaker_a=32)),
    ("small_van", "LFP, 75 kWh, socket 1.8 kW", Supply(name="Socket", voltage_v=230, phases=1, breaker_a=16, cable_a=8)),
)
COLOURS = {
    WarmUpChoice.NOTHING: ("#f5f7f5", ""),
    WarmUpChoice.SEATS: ("#dde4df", "s"),
    WarmUpChoice.CABIN: ("#fbe3d3", "c"),
    WarmUpChoice.CABIN_AND_PACK: ("#b0440e", "p"),
    WarmUpChoice.LATE: ("#1f4f49", "l"),
}
WORDS = {
    WarmUpChoice.NOTHING: "nothing",
    WarmUpChoice.SEATS: "s: seats only",
    WarmUpChoice.CABIN: "c: cabin",
    WarmUpChoice.CABIN_AND_PACK: "p: cabin and pack",
    WarmUpChoice.LATE: "l: late charging",
}


def advice_at(car_class: str, supply: Supply, air_c: float, km: float = 20.0, trips: int = 2, parked_h: float = 8.0) -> Advice:
    """Advice for 07:00 after a night from 55 to 80 %, out and home, with all lengths of trip in `by_km`."""
    car = preset(car_class)
    departure = EVENING.replace(day=15, hour=7)
    rate = charge_rate(supply, car)
    request = NightRequest(
        now=EVENING,
        plug_in=EVENING,
        departure=departure,
        soc=0.55,
        target_soc=0.8,
        car=car,
        rate=rate,
        tariff=PRICES,
        ambient_c=lambda _: air_c,
        pack_c=air_c + 6.0,
    )
    return advise(
        request,
        Outing(km=km, town_km=5.0, country_km=20.0, motorway_kmh=110.0, trips=trips, parked_h=parked_h),
        Conditions(ambient_c=air_c, cabin_set_c=20.0),
    )


def draw() -> str:
    """The four panels as one SVG."""
    parts, wide, high, left = [], 520.0, 330.0, 58.0
    for number, (car_class, title, supply) in enumerate(PANELS):
        x0, y0 = (number % 2) * wide + left, (number // 2) * high + 40.0
        parts.append(f'<text x="{x0}" y="{y0 - 14}" font-weight="700">{title}</text>')
        for row, air_c in enumerate(TEMPS_C):
            places = advice_at(car_class, supply, float(air_c)).by_km
            per = (wide - left - 30) / len(places)
            y = y0 + row * 11
            if row % 2 == 0:
                parts.append(f'<text x="{x0 - 8}" y="{y + 10}" text-anchor="end">{str(air_c).replace("-", "−")} °C</text>')
            for i, (_, choice) in enumerate(places):
                colour, letter = COLOURS[choice]
                ink = "#f5f7f5" if choice in (WarmUpChoice.CABIN_AND_PACK, WarmUpChoice.LATE) else "#182a2c"
                x = x0 + i * per
                parts.append(f'<rect x="{x:.1f}" y="{y}" width="{per + 0.3:.1f}" height="11.3" fill="{colour}"/>')
                if letter and i % 2 == 0:
                    at = f'x="{x + per / 2:.1f}" y="{y + 9}" text-anchor="middle" font-size="9" fill="{ink}"'
                    parts.append(f"<text {at}>{letter}</text>")
        low, top = places[0][0], places[-1][0]
        for km in (1, 2, 5, 10, 20, 50, 100, 200):
            x = x0 + log(km / low) / log(top / low) * (wide - left - 30)
            parts.append(f'<text x="{x:.1f}" y="{y0 + 11 * len(TEMPS_C) + 16}" text-anchor="middle">{km}</text>')
    legend = "; ".join(WORDS.values())
    foot = f'<text x="{left}" y="{2 * high + 20}">{legend}. Blank: nothing. Across: km one way; down: outside.</text>'
    style = 'font-family="sans-serif" font-size="12" fill="#182a2c"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {2 * wide:.0f} {2 * high + 34:.0f}" {style}>'
        f'<rect width="100%" height="100%" fill="#f5f7f5"/>{"".join(parts)}{foot}</svg>\n'
    )


if __name__ == "__main__":
    MAP.write_text(draw(), encoding="utf-8")
    print(f"Wrote {MAP.name}.")
