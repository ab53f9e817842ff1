"""“Forget the socket: once a week at the fast post will do.”"""

from .known import Here, Post
from .said import MODELLED, PRICED, Said, Side, Turn, Verdict, about


def said(here: Here, post: Post) -> Said:
    """A year of weeks at a post beside the nights at home: money, hours and weeks with more than one visit."""
    made = post.made
    sides = [Side(key="post", numbers={"money": made.post_cost, "wear": made.post_wear, "hours": made.hours})]
    numbers = {"visits": float(made.visits), "hours": made.hours, "coldest_min": made.coldest_min, "busy": float(made.busy_weeks)}
    yearly = [about("minutes", -60.0 * made.hours, MODELLED)]
    if made.home_cost is None or made.home_wear is None:
        return Said(
            verdict=Verdict.HOLDS if made.busy_weeks < 10 else Verdict.TURNS,
            room="weekly",
            yearly=tuple(yearly),
            sides=tuple(sides),
            numbers=numbers,
            rests_on=("weekly.",),
        )
    sides.append(Side(key="at_home", numbers={"money": made.home_cost, "wear": made.home_wear, "hours": 0.0}))
    spared = made.home_cost + made.home_wear - made.post_cost - made.post_wear
    yearly.append(about("money", spared, PRICED))
    even = (made.home_cost + made.home_wear - made.post_wear) / max(made.kwh, 1e-9)
    paid = made.post_cost / max(made.kwh, 1e-9)
    xs = (0.0, 0.5 * paid, paid, 1.5 * paid)
    home = made.home_cost + made.home_wear
    lines = {"post": tuple(made.post_wear + made.kwh * each for each in xs), "at_home": (home,) * len(xs)}
    turn = Turn(axis="price", at=even if even > 0 else None, xs=xs, lines=lines, unit="money", own=paid)
    return Said(
        turn=turn,
        verdict=Verdict.HOLDS if spared > 0 else Verdict.NOT_HERE,
        room="weekly",
        yearly=tuple(yearly),
        sides=tuple(sides),
        numbers={**numbers, "spared": spared, "even": even},
        rests_on=("weekly.", "fast."),
    )
