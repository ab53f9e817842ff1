"""What is declared of a field once: row, column, check, form and the way back follow."""

import unittest
from dataclasses import dataclass, field, replace
from datetime import time
from enum import StrEnum
from typing import Annotated, Any

from sqlalchemy import create_engine
from sqlalchemy.orm import DeclarativeBase, Mapped, Session, mapped_column

from frost_tally.core.car import PRESETS, Car
from frost_tally.core.charge.supply import Supply
from frost_tally.core.fields import Field, declared, made_of_values, plain_values, with_values
from frost_tally.core.parts import BatteryFacts, Habit, Outlet, Person, Place, TwelveVoltFacts
from frost_tally.household.models.base import kept
from frost_tally.household.reader import as_value
from frost_tally.household.sound import CODES
from frost_tally.web.field_forms import form_of
from frost_tally.web.forms import parse, shown
from frost_tally.web.part_forms import PART_FORMS
from frost_tally.web.units import Units

PARTS = (Car, Habit, Outlet, Place, Person, BatteryFacts, TwelveVoltFacts)


class Wax(StrEnum):
    NONE = "none"
    HARD = "hard"


@dataclass(frozen=True)
class Runner:
    """What a part may be made of."""

    wax: Annotated[Wax, Field()] = Wax.NONE
    base_c: Annotated[float | None, Field("temperature", -30, 10, 0.5, column="wax_c")] = None


@dataclass(frozen=True, kw_only=True)
class Sledge:
    """A part that no home has."""

    id: int = 0
    name: Annotated[str, Field(longest=12)]
    runner: Runner = field(default_factory=Runner)
    steel: Annotated[bool, Field(empty=False)] = False
    people: Annotated[int, Field("count", 1, 4)] = 2
    out_at: Annotated[time, Field(empty=time(9))] = time(9)
    braked: Annotated[str, Field(codes=("heels", "rope"))] = "heels"


WORDS = {"": {name: (name.capitalize(), "") for name in ("name", "wax", "wax_c", "steel", "people", "out_at", "braked")}}


class Fields(unittest.TestCase):
    def test_a_part_goes_to_a_row_and_a_form_and_comes_back(self) -> None:
        class Base(DeclarativeBase):
            pass

        class SledgeRow(Base, kept(Sledge)):  # type: ignore[misc]
            __tablename__ = "sledge"
            id: Mapped[int] = mapped_column(primary_key=True)

        engine = create_engine("sqlite://")
        Base.metadata.create_all(engine)
        sledge = Sledge(name="Kick", runner=Runner(Wax.HARD, -10.0), steel=True, people=3, out_at=time(8, 30), braked="rope")
        with Session(engine) as session:
            session.add_all([SledgeRow(**plain_values(sledge)), SledgeRow(name="Plain")])
            session.commit()
            first, second = session.query(SledgeRow).order_by(SledgeRow.id)
            self.assertEqual(as_value(Sledge, first), replace(sledge, id=1))
            self.assertEqual(as_value(Sledge, second), Sledge(name="Plain", id=2))
        engine.dispose()
        form: Any = form_of("SledgeForm", declared(Sledge), WORDS)
        american = Units(temperature="F")
        texts = shown(plain_values(sledge), form, american)
        self.assertEqual((texts["wax_c"], texts["steel"], texts["out_at"]), ("14", "yes", "08:30"))
        read, errors = parse(form, texts, american)
        self.assertEqual(errors, {})
        self.assertEqual(with_values(Sledge(name=""), {name: getattr(read, name) for name in declared(Sledge)}), sledge)
        wrong = {**texts, "wax": "klister", "wax_c": "51", "people": "5", "name": "", "braked": "ice", "out_at": ""}
        self.assertEqual(sorted(parse(form, wrong, american)[1]), ["braked", "name", "people", "wax", "wax_c"])

    def test_every_part_is_its_values_and_every_form_has_the_ranges_of_its_fields(self) -> None:
        wiring = Supply(name="Wall", voltage_v=230.0, phases=3, breaker_a=20.0)
        made = (*PRESETS.values(), Habit(), Place(), Person(), BatteryFacts(), TwelveVoltFacts())
        outlet = made_of_values(
            Outlet, {**vars(wiring), "id": 3, "name": "Wall"}.__getitem__, lambda name: name in {**vars(wiring), "id": 3}
        )
        for part in (*made, outlet):
            self.assertEqual(with_values(part, plain_values(part)), part)
        self.assertEqual((outlet.supply, outlet.held.amps), (wiring, 0.0))
        for kind, form in PART_FORMS.items():
            of = next(each for each in PARTS if each.__name__.lower() == kind)
            for name, info in form.model_fields.items():
                if (each := declared(of).get(name)) and each.field.quantity:
                    limits = {key: getattr(rule, key) for rule in info.metadata for key in ("ge", "le") if hasattr(rule, key)}
                    self.assertEqual(limits, {"ge": each.field.low, "le": each.field.high}, name)
        self.assertEqual(CODES["habit.school"], ("late", "early", "cool"))
        self.assertEqual(CODES["car.ac_phases"], (1, 3))
