"""A stranger's car: judged from what can be read and one drive, without adding it; from an empty household too; on one page of paper."""

import re
from html import unescape

import httpx2 as httpx

from frost_tally.core.advice.used_car import Drive, Found, UsedCar, judge
from frost_tally.core.battery.capacity import from_car
from frost_tally.core.car import preset
from tests.web.client import WebCase

PATH = "/battery/used"


def plain(answer: httpx.Response) -> str:
    """What a page says, without its marks."""
    text = re.sub(r"<[^>]+>", " ", unescape(answer.text)).replace("\xa0", " ").replace("\u2060", "")
    return " ".join(text.split())


class Judging(WebCase):
    def test_a_figure_and_a_drive_say_how_it_stands(self) -> None:
        """Arithmetic: 27.5 kWh over 54 % are 50.9 kWh, 88 % of 58."""
        cars = len(self.read().home.cars)
        nothing = plain(self.client.get(PATH))
        self.assertRegex(nothing, r"Nothing is tested yet: by age and distance about 9\d % of new are left")
        self.assertRegex(nothing, r"A drive from 90 to 20 %, about \d+ km, would tell it to ± \d\.\d kWh")
        worse = plain(self.client.get(f"{PATH}?figure=86&soc_from=92&soc_to=38&kwh=27.5&pack_c=20"))
        self.assertRegex(worse, r"Worse than most of its age: 8\d % of new are left \(likely \d\d–\d\d\)")
        self.assertRegex(worse, r"worth about €[\d,]+ of a new pack")
        usual = plain(self.client.get(f"{PATH}?figure=93"))
        self.assertIn("As usual for its age", usual)
        self.assertIn("A figure alone is the car’s own word for itself", usual)
        short = plain(self.client.get(f"{PATH}?soc_from=90&soc_to=80&kwh=5.4"))
        self.assertIn("What was read and driven tells too little", short)
        self.assertIn("counts once both levels and the kWh", plain(self.client.get(f"{PATH}?soc_from=90&soc_to=40")))
        self.assertEqual(len(self.read().home.cars), cars, "it is none of the home's cars")

    def test_what_cannot_be_says_so_at_its_field(self) -> None:
        for query, field in (
            ("soc_from=40&soc_to=90&kwh=20", "soc_to"), ("figure=20", "figure"),
            ("new_on=2099-01-01", "new_on"), ("new_on=2027-01-13", "new_on"), ("km=-1", "km"), ("km=9000000", "km"), ("preset=tank", "preset"),
            ("soc_from=90&soc_to=40&kwh=250", "kwh"), ("usable_kwh=1", "usable_kwh"), ("warranty_soh=nan", "warranty_soh"),
        ):  # fmt: skip
            answer = self.client.get(f"{PATH}/live?{query}")
            self.assertEqual(answer.status_code, 422, query)
            self.assertIn(field, self.errors(answer), query)

    def test_the_rules_at_their_edges(self) -> None:
        car = preset("compact_hatch")
        more = {"warranty": (0.7, 8.0, 160_000.0), "pack_per_kwh": 130.0, "air_c": 5.0}
        untested = judge(UsedCar(car=car, age_days=1461.0, km=60_000.0), **more)  # type: ignore[arg-type]
        self.assertEqual(
            (untested.found, untested.trend.health, untested.short_money), (Found.UNTESTED, untested.usual.health, 0.0)
        )
        older = judge(UsedCar(car=car, age_days=3500.0, km=200_000.0), **more)  # type: ignore[arg-type]
        self.assertLess(older.usual.health, untested.usual.health)
        self.assertEqual(older.warranty_days, 3500.0, "a warranty that is over ends today")
        found = {
            figure: judge(UsedCar(car=car, age_days=1461.0, km=60_000.0, figure=figure), **more)  # type: ignore[arg-type]
            for figure in (0.8, 0.93, 1.0)
        }
        self.assertEqual([each.found for each in found.values()], [Found.WORSE, Found.USUAL, Found.BETTER])
        ranks = [each.rank for each in found.values()]
        self.assertEqual(ranks, sorted(ranks))
        self.assertTrue(found[0.8].short_money > 0 > found[1.0].short_money)
        self.assertAlmostEqual(found[0.8].tests[0][2], from_car(0.8, 58.0).sigma_kwh / 58.0)
        drive = Drive(soc_from=0.9, soc_to=0.3, kwh=30.0, pack_c=20.0, air_c=5.0)
        both = judge(UsedCar(car=car, age_days=1461.0, km=60_000.0, figure=0.88, drive=drive), **more)  # type: ignore[arg-type]
        one = judge(UsedCar(car=car, age_days=1461.0, km=60_000.0, figure=0.88), **more)  # type: ignore[arg-type]
        self.assertLess(both.trend.sigma, one.trend.sigma)


class Empty(WebCase):
    demo = False

    def test_who_has_no_car_yet_may_ask(self) -> None:
        said = plain(self.client.get(f"{PATH}?figure=80"))
        self.assertIn("Worse than most of its age", said)
        self.assertIn("What to ask", said)
