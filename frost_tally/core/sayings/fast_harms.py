"""“Fast charging harms”, or “it is harmless”."""

from .known import Here, Post, Winter
from .said import Said, Side, Verdict, Yearly, about


def said(here: Here, post: Post, winter: Winter) -> Said:
    """The model’s wear of a year at a fast post beside one at home, and the share that the log has; public data do not agree."""
    made, share = post.made, winter.fast_kwh / winter.all_kwh if winter.all_kwh > 0 else 0.0
    numbers = {"share": share, "post_wear": made.post_wear}
    sides, yearly = [Side(key="all_fast", numbers={"wear": made.post_wear})], list[Yearly]()
    if made.home_wear is not None:
        numbers["more"] = made.post_wear - made.home_wear
        sides.append(Side(key="all_home", numbers={"wear": made.home_wear}))
        yearly.append(about("money", (made.home_wear - made.post_wear) * share, 1.0))
    return Said(
        verdict=Verdict.NOBODY_KNOWS,
        room="weekly",
        yearly=tuple(yearly),
        numbers=numbers,
        sides=tuple(sides),
        rests_on=("wear.", "weekly."),
    )
