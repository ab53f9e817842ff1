"""What is asked of a long day, and the plan it gets."""

from dataclasses import dataclass, field
from enum import StrEnum

from ..basis import Basis, figure
from ..car import Car
from ..charge.stop_table import Post
from ..drive.day import Start, Trip
from ..drive.road import Conditions
from ..errors import Refusal, require

STOP_MIN = figure("long_day.stop", 6.0, "min", Basis.COMMON_PRACTICE, "each stop: turn off, plug, pay, 5–8 min")
SMALL_SOC = figure("long_day.small_stop", 0.04, "", Basis.COMMON_PRACTICE, "a stop that adds less: a little slower spares it")
WINTER_C = figure("long_day.winter", -10.0, "°C", Basis.COMMON_PRACTICE, "an ordinary frosty day, to compare with")
SUMMER_C = figure("long_day.summer", 22.0, "°C", Basis.COMMON_PRACTICE, "an ordinary summer day, to compare with")
TIGHT_SOC = figure(
    "long_day.tight", 0.03, "", Basis.COMMON_PRACTICE, "hardly a reserve: what is tried where the asked one does not reach"
)
MOST_POSTS, MOST_STOPS = 500, 6
SPEEDS_KMH = (80.0, 90.0, 100.0, 110.0, 120.0, 130.0, 140.0, 150.0)
"""The motorway speeds that are compared."""


class Goal(StrEnum):
    """What is to be least."""

    TIME = "time"
    MONEY = "money"
    STOPS = "stops"


@dataclass(frozen=True)
class Grid:
    """Steps of the level (share) and of the pack's temperature (K); half the kelvin moved no drawn day by more than 0.04 min."""

    level: float = 0.01
    kelvin: float = 4.0


FINE, COARSE = Grid(), Grid(0.02, 4.0)


@dataclass(frozen=True, kw_only=True)
class LongDayRequest:
    """What is asked: a car on a way in conditions, from a start; posts in any order; levels 0 to 1.

    `reserve_soc` is kept at every arrival on the cautious side, `end_soc` likely at the end. `warms` whether the pack may be warmed on the
    way to a post; `before` how many fast charges it has seen; `exactly` how many stops there are to be (None: any).
    """

    car: Car
    way: Trip
    conditions: Conditions
    start: Start
    posts: tuple[Post, ...]
    reserve_soc: float = 0.1
    end_soc: float = 0.0
    goal: Goal = Goal.TIME
    stop_min: float = STOP_MIN
    warms: bool = True
    before: int = 0
    exactly: int | None = None
    grid: Grid = FINE

    def checked(self) -> "LongDayRequest":
        """The same. Raises: OutOfRange or Refusal with its field."""
        require(self.way.distance_km, 1, 2000, "The way", "km", "km")
        require(100 * self.start.soc, 1, 100, "Leaving with", "%", "leave_soc")
        require(100 * self.reserve_soc, 0, 50, "The reserve", "%", "reserve")
        require(100 * self.end_soc, 0, 100, "The level at the end", "%", "end_soc")
        require(self.stop_min, 0, 60, "A stop", "min", "stop_min")
        if len(self.posts) > MOST_POSTS:
            raise Refusal(f"{MOST_POSTS} posts are the most.", "posts")
        for post in self.posts:
            require(post.km, 0, self.way.distance_km, "A post", "km", "posts")
            require(post.kw, 0, 500, "A post’s power", "kW", "posts")
            require(post.shared_kw, 0, 500, "A shared post’s power", "kW", "posts")
            require(post.stands_min, 0, 1440, "A stop", "min", "posts")
        return self


@dataclass(frozen=True, kw_only=True)
class Stop:
    """A stop: where, levels on arrival (likely, and on both sides of the band, which begins anew with a look) and on leaving, minutes it
    stands, energy from the post (kWh), money, pack temperatures (°C), and whether the pack was warmed on the way to it.
    """

    post: Post
    arrive_soc: float
    low_soc: float
    high_soc: float
    leave_soc: float
    minutes: float
    kwh: float
    cost: float
    arrive_c: float
    leave_c: float
    warmed: bool

    @property
    def small(self) -> bool:
        """Whether it is made for hardly anything."""
        return self.post.stands_min <= 0 and self.leave_soc - self.arrive_soc < SMALL_SOC


@dataclass(frozen=True)
class Look:
    """A post that the plan drives past, likely with one level (`low_soc` on the cautious side), on to a mark (km) that the cautious side
    reaches with its reserve only from `needs_soc` on: who has less there stops there.
    """

    post: Post
    likely_soc: float
    low_soc: float
    needs_soc: float
    to_km: float


@dataclass(frozen=True, kw_only=True)
class LongDay:
    """The plan lived through: its stops, and looks at the level where it passes a post; driving and standing (min), door to door; level at
    the end with its band; energy used and put in (kWh), money. `reached` is false when no plan gets there: from `gap_from_km` a full pack
    (or the start) reaches `as_far_as_km` with the reserve, and the next mark is at `gap_to_km`; with no gap (0) the end is reached with
    `end_soc` at most.
    """

    request: LongDayRequest
    stops: tuple[Stop, ...]
    driving_min: float
    standing_min: float
    end_soc: float
    end_low: float
    end_high: float
    used_kwh: float
    charged_kwh: float
    cost: float
    reached: bool = True
    gap_from_km: float = 0.0
    as_far_as_km: float = 0.0
    gap_to_km: float = 0.0
    points: tuple[tuple[float, float, float], ...] = field(default_factory=tuple)
    looks: tuple[Look, ...] = ()

    @property
    def total_min(self) -> float:
        """Door to door, min."""
        return self.driving_min + self.standing_min
