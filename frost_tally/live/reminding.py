"""Look each minute whether somebody has to be reminded of something, and send it to those who said yes, once."""

from ..core.errors import Refusal
from ..services.shared.home import Household
from ..services.tonight.reminding import claim_told, due_now, note_problem
from ..web.units import units_for
from ..web.words.reminders import letter

LOOK_S = 60.0
"""How often to look."""


def remind(household: Household) -> int:
    """Send what is due now; returns how many reminders were due. A letter that cannot be sent is written down and not tried again, and
    keeps nobody else's from going out.
    """
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
            for person in people:
                try:
                    mail.send(letter(each, units_for(person), person.email))
                except Refusal as problem:
                    note_problem(household, each, problem.message)
    return told
