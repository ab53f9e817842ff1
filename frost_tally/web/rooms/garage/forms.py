"""What is edited in the Garage: the form of each kind of part, and its groups of fields."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ...part_forms import CarForm, HabitForm, OutletPartForm, PersonForm, PlaceForm
from ...words.fields import CAR, HABIT, OUTLET, PERSON, PLACE, Words


@dataclass(frozen=True)
class EditedPart:
    """How one kind of part is edited: its form, its title, the kind that is kept, and the words of its fields by heading."""

    form: type[BaseModel]
    title: str
    kind: str
    words: Words

    @property
    def groups(self) -> tuple[tuple[str, tuple[str, ...]], ...]:
        """Its fields by heading."""
        return tuple((heading, tuple(fields)) for heading, fields in self.words.items())


PARTS: Mapping[str, EditedPart] = {
    "car": EditedPart(CarForm, "Car", "car", CAR),
    "day": EditedPart(HabitForm, "Usual day", "car", HABIT),
    "outlet": EditedPart(OutletPartForm, "Outlet", "outlet", OUTLET),
    "place": EditedPart(PlaceForm, "Place", "place", PLACE),
    "person": EditedPart(PersonForm, "Units", "person", PERSON),
}
