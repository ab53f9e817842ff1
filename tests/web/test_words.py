"""Units and sentences."""

import ast
import re
import unittest
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock

from pydantic import BaseModel

import frost_tally.core
from frost_tally.core.basis import figures
from frost_tally.core.car import PRESETS, preset
from frost_tally.core.charge.house import DAY_SHAPES
from frost_tally.core.charge.night import Rival
from frost_tally.core.charge.supply import Limit
from frost_tally.core.charge.week import SHAPES
from frost_tally.core.drive import day_inputs
from frost_tally.core.drive.causes import CAUSES
from frost_tally.core.drive.certainty import LevelBand
from frost_tally.core.drive.day import Start
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.tally import fair_tally
from frost_tally.core.errors import Refusal
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.measures import CHOSEN, Unit
from frost_tally.core.why import why
from frost_tally.services.shared.home import Stale
from frost_tally.services.tonight.room import tonight
from frost_tally.web.forms import Filled, not_kept, number, number_words
from frost_tally.web.units import Units
from frost_tally.web.words.battery import CAUSE_WORDS
from frost_tally.web.words.causes import NAMES, TURNED, cause_words
from frost_tally.web.words.lists import CLASSES, DAYS, HOUSE_SHAPES, TARIFF_SHAPES
from frost_tally.web.words.night import verdict
from frost_tally.web.words.reasons import LIMITS, REASONS, why_words
from frost_tally.web.words.sentence import band_words, home_short, home_words
from tests.core.test_tally import DAY
from tests.web.client import ApartCase

OWNERS = Units(distance="mi", temperature="F", pressure="psi", currency="CAD")


class NotKept(unittest.TestCase):
    def test_a_reason_stands_at_its_field_or_over_all_and_what_was_typed_stays(self) -> None:
        class Length(BaseModel):
            cable_m: float = number("Cable", "length", 1, 100)

        typed = {"cable_m": "12"}
        at_field = not_kept(typed, Length, Refusal("Too short for the place.", "cable_m"), OWNERS)
        self.assertEqual(at_field, Filled(typed, {"cable_m": "Too short for the place."}, status=422))
        for elsewhere in ("", "car"):
            over_all = not_kept(typed, Length, Refusal("There is no such car.", elsewhere), OWNERS)
            self.assertEqual(over_all, Filled(typed, message="There is no such car.", status=422))
        overtaken = not_kept(typed, Length, Stale("“Wall unit” changed."), OWNERS)
        self.assertEqual((overtaken.typed, overtaken.errors, overtaken.status), (typed, {}, 409))
        self.assertTrue(overtaken.message.startswith("“Wall unit” changed. Nothing was saved"))


class OwnersUnits(unittest.TestCase):
    def test_values_come_out_and_back_in_the_owners_units(self) -> None:
        """Definitions: 1 mi = 1.609344 km, 1 psi = 6.894757 kPa, °F = °C · 9/5 + 32."""
        for quantity, si, shown in (("distance", 160.9344, "100\u00a0mi"), ("temperature", -40.0, "−40.0\u00a0°F"), ("pressure", 248.2113, "36.0\u00a0psi"),
                                    ("percent", 0.8, "80\u00a0%"), ("speed", 96.56064, "60\u00a0mph")):  # fmt: skip
            self.assertEqual(OWNERS.text(si, quantity), shown)
            self.assertAlmostEqual(OWNERS.of(quantity).read(OWNERS.of(quantity).show(si)), si, places=9)

    def test_fields_are_plain_and_zero_has_no_sign(self) -> None:
        self.assertEqual(Units().field(110.0, "speed"), "110")
        self.assertEqual(Units().field(-7.25, "temperature"), "-7.2")
        self.assertEqual(Units().field(None, "current"), "")
        self.assertEqual(Units().text(-0.004, "energy", 2), "0.00\u00a0kWh")
        self.assertEqual(OWNERS.of("price").label, "CAD/kWh")

    def test_limits_are_round_numbers_of_the_owners_unit_within_what_is_taken(self) -> None:
        for quantity, low, high, said in (
            ("distance", 0, 500, ("0", "310")), ("speed", 50, 160, ("32", "99")), ("temperature", -45, 35, ("-49", "95")), ("percent", 0.3, 1, ("30", "100")),
            ("pressure", 100, 550, ("15", "79")), ("distance", 0.5, 2000, ("0.32", "1200")), ("price", 0, 20, ("0", "20")),
        ):  # fmt: skip
            self.assertEqual(OWNERS.ends(low, high, quantity), said, quantity)
            for units in (OWNERS, Units(), Units(distance="mi", weight="lb", pressure="bar")):
                least, most = (units.read(each, quantity) for each in units.ends(low, high, quantity))
                self.assertTrue(low - 1e-9 <= least <= most <= high + 1e-9, quantity)
        self.assertIn("0 to 310 mi", number_words(0, 500, "distance", OWNERS))

    def test_a_third_unit_is_one_line_of_the_table(self) -> None:
        knots = {
            "distance": Unit("nmi", 0, 1 / 1.852),
            "speed": Unit("kn", 0, 1 / 1.852),
            "speed_mps": Unit("kn", 0, 3.6 / 1.852),
        }
        with mock.patch.dict(CHOSEN["distance"], {"nmi": knots}):  # 1 nautical mile is 1852 m (SI brochure, table 8 of 2006)
            at_sea = Units(distance="nmi")
            self.assertEqual(at_sea.text(185.2, "distance"), "100\xa0nmi")
            self.assertEqual(at_sea.say("at {18.52 km/h}"), "at 10\xa0kn")
            self.assertAlmostEqual(at_sea.per_100(10.0), 18.52)

    def test_values_in_texts_that_come_from_the_core_are_marked(self) -> None:
        """So that they are said in the owner's units: as temperatures, or as differences (K)."""
        bare = re.compile(r"(?<!\{)\b\d+(?:–\d+)?[ \xa0](?:km/h|km|°C|kPa|kg|K|m/s|m²)(?![\w/²·}])")
        hints = [info.description or "" for each in BaseModel.__subclasses__() for info in each.model_fields.values()]
        for said in (*(each.source for each in figures()), *hints, *(each[1] for each in CAUSE_WORDS.values())):
            self.assertIsNone(bare.search(said), said)

    def test_bands_and_money_in_words(self) -> None:
        self.assertEqual(band_words(LevelBand(0.294, 0.34, 0.408)).replace("\u2060", ""), "likely 29–41")
        self.assertEqual(band_words(LevelBand(-0.1, 0.02, 0.1)).replace("\u2060", ""), "likely 0–10")
        self.assertEqual(Units().money(-1.5), "−€1.50")
        self.assertEqual(Units(currency="NOK", exchange_rate=11.5).money(2.0, 0), "NOK\u00a023")


class Differences(unittest.TestCase):
    def test_a_level_below_nothing_is_what_is_missing(self) -> None:
        for likely, words, short in (
            (0.342, ("34\xa0%", "likely 29\u2060–\u206041"), "34\xa0% (29–41)"),
            (-0.05, ("nothing", "5\xa0% short"), "nothing, 5\xa0% short"),
        ):
            band = LevelBand(low=max(-0.1, likely - 0.055), likely=likely, high=likely + 0.065)
            self.assertEqual((home_words(band), home_short(band)), (words, short))

    def test_a_difference_is_not_turned_as_a_temperature(self) -> None:
        """ "Every 41.9 °F colder" was said. 1 K is 1.8 °F (definition)."""
        american, european = Units(temperature="F", pressure="psi"), Units()
        for units, said, heard in (
            (american, "every {5.5 K} colder take {7 kPa}", "every 9.9 °F colder take 1.015 psi"),
            (european, "every {5.5 K} colder take {7 kPa}", "every 5.5 °C colder take 7 kPa"),
            (american, "under {7 °C}, {10–20 K} warmer", "under 44.6 °F, 18–36 °F warmer"),
            (OWNERS, "{15 000 km} a year, {−10 °C}", "9321 mi a year, 14 °F"),
        ):
            self.assertEqual(units.say(said).replace("\xa0", " "), heard)
        self.assertEqual(american.text(10, "warmer").replace("\xa0", " "), "18 °F")


class Sentences(ApartCase):
    def said(self, query: str) -> str:
        return self.client.get(f"/tonight/live?{query}").text.replace("\u00a0", " ")

    def test_when_to_plug_in(self) -> None:
        """A time is only named where an hour is at stake, with what it costs; else before bed is early enough."""
        self.assertIn("Plug in <b>before bed</b>. Charging", self.said(""))
        self.assertRegex(self.said("plug_in=04:45"), r"Plug in at <b>04:45</b> \(an hour later it ends at 6\d.%\)")
        weak = self.said("soc_now=5&limit=100&plug_in=18:30&depart=05:00&car=2")
        self.assertRegex(weak, r"[Pp]lug in (at|before) <b>[\d:]+</b> \(an hour later")
        self.assertIn("as you like", self.said("soc_now=90&warm_up=nothing"))

    def test_what_else_must_be_said(self) -> None:
        self.household.world.clock.set(self.read().now + timedelta(days=1))  # type: ignore[attr-defined]
        self.assertIn("brakes less with its motor", self.said("limit=95"))
        self.assertIn("kWh of heat before it accepts charge", self.said("car=2&soc_now=55&out_now_c=-30&out_low_c=-30"))
        self.assertIn("level falls by", self.said("car=2&soc_now=55&warm_up=cabin_and_pack"))
        self.assertNotIn("whatever its hours cost", self.said("limit=100&control=timer"))
        self.assertNotIn("There is one start", self.said("limit=90&control=timer"))
        self.assertIn("too far", self.said("km=700"))
        self.assertIn("short of the limit", self.said("plug_in=06:00&soc_now=10"))


def rival(start: datetime, cost: float, pack_c: float, warmth_worth: float) -> Rival:
    return Rival(start=start, end=start, cost=cost, pack_c=pack_c, warmth_worth=warmth_worth)


class FrostWords(ApartCase):
    demo = True

    def test_what_waiting_would_do_and_what_warmth_is_worth(self) -> None:
        night = tonight(self.read(), override=lambda usual: replace(usual, warm_up=WarmUpChoice.CABIN_AND_PACK))
        start, cost = night.plan.blocks[0].start, night.plan.cost
        late = rival(start + timedelta(hours=4), cost + 0.63, 5.0, 0.0)
        cheap = rival(start - timedelta(hours=2), cost - 0.4, -14.0, 0.55)
        frost = replace(night.plan, frosty=True)
        vars(frost).update(late=late, cheapest=cheap)
        notes = " ".join(verdict(replace(night, night=replace(night.night, plan=frost)), Units()).notes)
        notes = notes.replace("\u00a0", " ")
        self.assertIn(f"From 07:48 it would cost €{cost + 0.63:.2f}.", notes)
        self.assertIn("would cost €0.40 less, but leave the pack at −14 °C instead of 15 °C: that warmth spares €0.55", notes)
        self.assertNotIn("this frost", " ".join(verdict(night, Units()).notes))


class Causes(unittest.TestCase):
    def test_every_cause_has_its_words_and_nothing_else_has(self) -> None:
        self.assertEqual(set(NAMES), set(CAUSES))
        self.assertLessEqual(set(TURNED), set(CAUSES))
        hot = fair_tally(preset("compact_hatch"), DAY, Conditions(ambient_c=33.0, cabin_set_c=20.0), Start(0.8, 30.0, 33.0)).steps
        said = [cause_words(step.cause, Units()) for step in hot]
        for name in ("thin air", "warm tyres", "cooling"):
            self.assertIn(name, said)


def sentences(path: Path) -> list[str]:
    """Texts of three words or more inside functions, but for docstrings, what an exception says and what a decision is called."""
    found, said = [], set[int]()
    tree = ast.parse(path.read_text())
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            said.add(id(node.value))
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") in (
            "Refusal",
            "Missing",
            "Stale",
            "Doubtful",
            "OutOfRange",
            "ValueError",
            "require",
            "figure",
        ):
            said |= {id(each) for each in ast.walk(node)}
        if isinstance(node, ast.Call) and getattr(node.func, "attr", "") == "deciding":
            said |= {id(each) for each in ast.walk(node)}
        if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]).split(".")[-1] == "words":
            said |= {id(each) for each in ast.walk(node)}
    for function in (node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)):
        texts = (
            each for line in function.body for each in ast.walk(line) if isinstance(each, ast.Constant) and id(each) not in said
        )
        found += [
            f"{path.name}: {each.value}" for each in texts if isinstance(each.value, str) and each.value.strip().count(" ") > 1
        ]
    return found


class Reasons(unittest.TestCase):
    def test_core_and_services_speak_in_codes(self) -> None:
        """What their refusals say is for a person (the faults of a tariff are such a text, as are the names in a supply's checks)."""
        root = Path(frost_tally.core.__file__).parent.parent
        paths = [path for part in ("core", "services") for path in (root / part).rglob("*.py")]
        found = [each for path in paths if path.name not in ("tariff.py", "supply.py") for each in sentences(path)]
        self.assertEqual(found, [])

    def test_every_code_of_the_core_has_its_words(self) -> None:
        folder = Path(frost_tally.core.__file__).parent
        codes = {code for path in folder.rglob("*.py") for code in re.findall(r'\bwhy\("(\w+)"', path.read_text())} | {
            "no_pack_heat",
            "pack_heat_unknown",
        }
        self.assertEqual(codes, set(REASONS))
        self.assertEqual(set(LIMITS), set(Limit))
        self.assertEqual(
            why_words(why("weak_outlet", pack_kw=1.234, limit="lead"), Units()),
            "the outlet is too weak for the window: 1.2\u00a0kW reach the pack, limited by the lead",
        )
        self.assertEqual(why_words(why(""), Units()), "")
        self.assertEqual(
            (set(CLASSES), set(HOUSE_SHAPES), set(TARIFF_SHAPES), set(DAYS)),
            (set(PRESETS), set(DAY_SHAPES), set(SHAPES), set(day_inputs.PRESETS)),
        )
