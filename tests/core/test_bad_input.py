"""What cannot be is refused at its field, with the range that is right."""

import doctest
import unittest
from dataclasses import replace
from importlib import import_module
from pathlib import Path

import frost_tally
from frost_tally.core import basis
from frost_tally.core.car import PRESETS, preset
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.errors import OutOfRange

PACKAGE = Path(frost_tally.__file__).parent


class Wiring(unittest.TestCase):
    def test_each_impossible_supply_names_its_field(self) -> None:
        good = Supply(name="s", voltage_v=230, phases=1, breaker_a=16)
        for changes, field in (({"breaker_a": 0}, "breaker_a"), ({"voltage_v": 120, "phases": 3}, "phases"), ({"phases": 2}, "phases"),
                               ({"cable_a": 10, "selector_a": 16}, "selector_a"), ({"voltage_v": 12}, "voltage_v"), ({"cable_a": 2}, "cable_a")):  # fmt: skip
            with self.subTest(changes=changes), self.assertRaises(OutOfRange) as refused:
                replace(good, **changes).checked()  # type: ignore[arg-type]
            self.assertEqual(refused.exception.field, field)

    def test_overhead_can_eat_it_all(self) -> None:
        car = preset("compact_hatch")
        greedy = replace(car, charger=replace(car.charger, overhead_kw=2.0))
        self.assertEqual(charge_rate(Supply(name="s", voltage_v=230, phases=1, breaker_a=8), greedy).pack_kw, 0.0)


class Cars(unittest.TestCase):
    def test_presets_are_sound(self) -> None:
        for key in PRESETS:
            self.assertEqual((preset(key).checked().name, preset(key, "Birch").name), (key, "Birch"))

    def test_each_impossible_number_names_its_field(self) -> None:
        car = preset("family_saloon")
        for bad, field in ((replace(car, pack=replace(car.pack, usable_kwh_new=2)), "usable_kwh_new"), (replace(car, pack=replace(car.pack, soh=2)), "soh"),
                           (replace(car, body=replace(car.body, mass_kg=5)), "mass_kg"), (replace(car, tyres=replace(car.tyres, placard_kpa=20)), "placard_kpa")):  # fmt: skip
            with self.assertRaises(OutOfRange) as refused:
                bad.checked()
            self.assertEqual(refused.exception.field, field)


class Figures(unittest.TestCase):
    def test_every_figure_has_a_source_and_a_key_is_declared_once(self) -> None:
        import_module("frost_tally.core.drive.air")
        self.assertGreater(len(basis.figures()), 40)
        self.assertTrue(all(each.source for each in basis.figures()))
        with self.assertRaises(ValueError):
            basis.figure("air.gas_constant", 1.0, "", basis.Basis.ENTERED, "x")

    def test_the_examples_in_the_docstrings_hold(self) -> None:
        sources = [path for path in sorted(PACKAGE.rglob("*.py")) if ">>>" in path.read_text()]
        self.assertGreater(len(sources), 10)
        for path in sources:
            module = import_module(".".join(("frost_tally", *path.relative_to(PACKAGE).with_suffix("").parts)))
            done = doctest.testmod(module)
            self.assertEqual((done.failed, done.attempted > 0), (0, True), path)
