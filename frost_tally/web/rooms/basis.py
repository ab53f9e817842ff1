"""Why this number: every constant of the core with its unit, its basis and its source."""

from itertools import groupby

from fastapi import Request
from fastapi.responses import Response

from ...core.basis import figures
from ...core.car import SPANS
from ...services.setup import own_numbers
from ..once import Router
from ..page import home_of, render
from ..words.lists import CLASSES

router = Router()
PARTS = {
    "air": "Air",
    "bench": "Outlets bench",
    "cabin": "Cabin",
    "certainty": "Certainty",
    "climate": "Climate",
    "comfort": "Comfort",
    "cycles": "Drive schedules",
    "extras": "What stands in the air",
    "hills": "Hills",
    "house": "House",
    "learn": "Learning",
    "remedy": "Effort of what would help",
    "night": "Night plan",
    "pack": "Pack",
    "parked": "Parked",
    "preheat": "Warm-up",
    "rating": "Ratings",
    "road": "Road",
    "session": "Charging session",
    "style": "Driving style",
    "supply": "Supply",
    "tally": "Tally",
    "tariff": "Tariffs",
    "trip": "Trip",
    "tyres": "Tyres",
    "units": "Constants",
    "warm_up": "Whether to warm up",
    "wear": "Wear",
}


@router.get("/basis")
def room(request: Request) -> Response:
    """All figures by part."""
    grouped = [
        (PARTS.get(part, part), list(items)) for part, items in groupby(figures(), key=lambda each: each.key.split(".")[0])
    ]
    return render(
        request, "basis/room.html", room="basis", groups=grouped, own=own_numbers(home_of(request)), spans=SPANS, classes=CLASSES
    )
