"""What all answers to scripts share: SI units in the names, levels 0 to 1, times ISO 8601 on the clock of the car's place."""

from datetime import datetime, time
from typing import Annotated

from pydantic import BaseModel, ConfigDict, PlainSerializer, WithJsonSchema

from ...core.drive.certainty import LevelBand


def _rounded(digits: int) -> PlainSerializer:
    return PlainSerializer(lambda value: round(float(value), digits), return_type=float)


Moment = Annotated[
    datetime,
    PlainSerializer(lambda at: at.isoformat(timespec="seconds"), return_type=str),
    WithJsonSchema({"type": "string", "format": "date-time"}),
]
Clock = Annotated[
    time,
    PlainSerializer(lambda at: f"{at:%H:%M}", return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^([01]\d|2[0-3]):[0-5]\d$", "examples": ["07:10"]}),
]
"""A time of day on the clock of a place: OpenAPI's own format of a time wants an offset."""
Level = Annotated[float, _rounded(4)]
Kwh = Annotated[float, _rounded(3)]
Money = Annotated[float, _rounded(4)]
Short = Annotated[float, _rounded(2)]


class Answer(BaseModel):
    """What is answered, and nothing else."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Band(Answer):
    """A likely value with its cautious (10 %) and hopeful (90 %) ends."""

    low: Level
    likely: Level
    high: Level


def band(level: LevelBand) -> Band:
    """A band, none of it below empty."""
    return Band(low=max(0.0, level.low), likely=max(0.0, level.likely), high=max(0.0, level.high))


class OfCar(Answer):
    """What is said of a car, in the sentences of its room."""

    car_id: int
    car: str
    sentence: str
    notes: tuple[str, ...]


class Done(Answer):
    """What was done, and the number that takes it back."""

    decision: str
    words: str
