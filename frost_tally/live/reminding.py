"""Look each minute whether somebody has to be reminded of something, and send it to those who said yes, once."""

import threading
import time
from collections.abc import Callable

from ..core.errors import Refusal
from ..services.shared.home import Household
from ..services.tonight.reminding import claim_told, due_now, note_problem
from ..web.units import units_for
from ..web.words.reminders import letter

LOOK_S = 60.0


def remind(household: Household) -> int:
    """Send what is due now; returns how many reminders went out. What cannot be sent is written down, and not tried again."""
    with household.reading() as snapshot:
        found, people, mail = (
            due_now(snapshot),
            [each for each in snapshot.home.people if each.mailed and each.email],
            snapshot.world.mail,
        )
    if mail is None or not people:
        return 0
    told = 0
    for each in found:
        if claim_told(household, each):
            told += 1
            try:
                for person in people:
                    mail.send(letter(each, units_for(person), person.email))
            except Refusal as problem:
                note_problem(household, each, problem.message)
    return told


def every_minute(household: Household, failed: Callable[[Exception], object]) -> threading.Thread:
    """Look for as long as the process lives; `failed` hears what went wrong."""

    def look() -> None:
        while True:
            try:
                remind(household)
            except Exception as problem:  # noqa: BLE001 - whatever it is, the next minute is tried again
                failed(problem)
            time.sleep(LOOK_S)

    thread = threading.Thread(target=look, name="reminders", daemon=True)
    thread.start()
    return thread
