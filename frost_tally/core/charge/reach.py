"""Whether a lead reaches: from the post round the parked car to its port, nose in or tail in."""

from dataclasses import dataclass
from enum import StrEnum
from math import hypot

from ..basis import Basis, figure
from ..errors import require

GAP_M = figure("reach.gap", 0.5, "m", Basis.COMMON_PRACTICE, "between the wall and the end of the car that faces it")
SLACK = figure("reach.slack", 1.10, "", Basis.COMMON_PRACTICE, "a lead lies in bows, and must not pull at the plug")
PORT_M = figure("reach.port_height", 0.8, "m", Basis.FROM_MEMORY, "height of a port above the floor")
FRONT_SHARE = figure("reach.front_port", 0.17, "", Basis.FROM_MEMORY, "place of a port in the front wing, share of the length")
REAR_SHARE = figure("reach.rear_port", 0.86, "", Basis.FROM_MEMORY, "place of a port in the rear wing, share of the length")


class Port(StrEnum):
    """Where a car's port is, seen by its driver."""

    FRONT_LEFT = "front_left"
    FRONT_RIGHT = "front_right"
    REAR_LEFT = "rear_left"
    REAR_RIGHT = "rear_right"
    NOSE = "nose"


@dataclass(frozen=True, kw_only=True)
class Bay:
    """A parking bay before a wall (m): the post is on the wall, `post_m` from the bay's middle, to the left when negative."""

    width_m: float
    post_m: float
    post_height_m: float
    car_length_m: float
    car_width_m: float

    def checked(self) -> "Bay":
        """The same bay. Raises: OutOfRange with its field."""
        require(self.width_m, 2, 10, "The bay", "m", "bay_m")
        require(self.post_m, -10, 10, "The post", "m", "post_m")
        require(self.post_height_m, 0, 3, "The height", "m", "height_m")
        require(self.car_length_m, 2, 8, "The car", "m", "length_m")
        return self


@dataclass(frozen=True)
class Way:
    """One way to park: the lead's path on the floor (points in m, x from the bay's middle, y from the wall), and the length it needs."""

    nose_in: bool
    path: tuple[tuple[float, float], ...]
    needed_m: float


def ways(bay: Bay, port: Port, aside_m: float = 0.0) -> tuple[Way, Way]:
    """Nose in and tail in, for a car in the middle of the bay, or `aside_m` to its right (a second bay on the same post).

    The lead goes straight where the car is not in its way, else round the corner that faces the wall. Needed is its path on the
    floor with the drop from the post and the rise to the port, and some slack. Source: plane geometry.
    """
    bay.checked()
    return _way(bay, port, aside_m, nose_in=True), _way(bay, port, aside_m, nose_in=False)


_SHARES = {port: FRONT_SHARE if port.value.startswith("front") else REAR_SHARE for port in Port} | {Port.NOSE: 0.0}
"""Where a port is, from the nose, as a share of the car's length."""


def _way(bay: Bay, port: Port, aside_m: float, *, nose_in: bool) -> Way:
    share = _SHARES[port]
    along = share if nose_in else 1 - share
    right = port.value.endswith("right") == nose_in  # the driver's right is the other side when the tail faces the wall
    middle, post = aside_m, bay.post_m
    side = middle if port is Port.NOSE else middle + (0.5 if right else -0.5) * bay.car_width_m
    goal = (side, GAP_M + along * bay.car_length_m)
    path = [(post, 0.0)]
    if aside_m > 0 and post < 0.5 * bay.car_width_m:  # past the end of the car in the first bay
        path.append((0.5 * bay.car_width_m, GAP_M))
    from_x = path[-1][0]
    if port is Port.NOSE:
        path += _round_the_nose(from_x, middle, bay.car_width_m, goal[1]) if not nose_in else []
    elif from_x < side if right else from_x > side:
        path.append((side, GAP_M))
    path.append(goal)
    floor = sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in zip(path, path[1:], strict=False))
    return Way(nose_in, tuple(path), SLACK * (floor + bay.post_height_m + PORT_M))


def _round_the_nose(from_x: float, middle: float, width_m: float, goal_y: float) -> list[tuple[float, float]]:
    """Round the nearer side of a car whose tail faces the wall, to its nose."""
    corner = middle + (-0.5 if from_x < middle else 0.5) * width_m
    return [(corner, GAP_M), (corner, goal_y)]
