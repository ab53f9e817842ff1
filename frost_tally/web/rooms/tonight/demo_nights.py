"""Nights of the made-up household that show a judgement each, by the levers that make them."""

DEMO_NIGHTS = (
    ("a work day in frost", "car=1"),
    ("a market day that wants a full pack", "car=2&km=237&out_low_c=-20"),
    ("no need to plug in", "car=1&charges=as_needed&soc_now=78&warm_up=nothing"),
    ("a short window", "car=1&plug_in=02:30&depart=05:00&soc_now=20"),
    ("half-hourly prices", "car=1&tariff=3"),
    ("by hand", "car=1&control=hand"),
    ("by a timer", "car=1&control=timer"),
    ("above 95 %", "car=1&limit=100"),
    ("the house needs its power", "car=1&held_from=03:00&held_until=05:15"),
)
