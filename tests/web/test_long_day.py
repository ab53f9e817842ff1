"""The long day through its routes: winter and summer, a post that does not work, ways with posts, files, stops noted, the curve learnt."""

import re
from dataclasses import replace
from html import unescape
from xml.etree import ElementTree

from frost_tally.core.advice.long_way import Goal
from frost_tally.core.charge.stop_table import Post
from frost_tally.core.errors import Refusal
from frost_tally.formats.posts import read_posts, read_waypoints, write_posts
from frost_tally.household.models import CarRow, ChargeRow, WayRow
from frost_tally.services.long_day.room import LongInputs, LongRoom, long_day
from frost_tally.services.weekly import weekly_room
from tests.web.client import WebCase

GPX = b"""<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="t"><wpt lat="60.5" lon="10.01"><name>Pass top</name>
<desc>150 kW</desc></wpt><wpt lat="61.9" lon="10.0"><name>Sound 50kW</name></wpt><wpt lat="60.5" lon="14.0"><name>far away</name></wpt>
<trk><trkseg><trkpt lat="60.0" lon="10.0"/><trkpt lat="60.5" lon="10.0"/><trkpt lat="61.0" lon="10.0"/><trkpt lat="62.0" lon="10.0"/></trkseg></trk></gpx>"""


class Rooms(WebCase):
    def said(self, query: str = "way=1") -> str:
        text = re.sub(r"<[^>]+>", " ", unescape(self.client.get(f"/day/long/live?{query}").text))
        return " ".join(text.replace("\xa0", " ").split())

    def room(self, **changes: object) -> LongRoom:
        def pull(usual: LongInputs) -> LongInputs:
            return LongInputs(**{**usual.__dict__, **changes})

        return long_day(self.read(), 1, pull, 1, ())


class WinterAndSummer(Rooms):
    def test_the_advice_turns_with_the_season_and_the_saw_is_drawn(self) -> None:
        frost, summer = self.said("way=1&out_c=-12"), self.said("way=1&out_c=22")
        for words in (frost, summer):
            self.assertRegex(words, r"(Two|Three) stops , .* standing, \d h \d\d min door to door; you arrive with \d+ %")
        self.assertIn("arrive low and warm", frost)
        self.assertNotIn("arrive low and warm", summer)
        cold, warm = self.room(out_c=-12.0).made, self.room(out_c=22.0).made
        self.assertGreater(cold.standing_min, warm.standing_min)
        page = self.client.get("/day/long?way=1").text
        saws = [each for each in re.findall(r"<svg viewBox.*?</svg>", page, re.S) if "The way as a saw" in each]
        self.assertEqual(len(saws), 2)
        for each in saws:
            ElementTree.fromstring(each)
            self.assertEqual(each.count('class="stand"'), len(self.room().made.stops))

    def test_other_goals_and_levers(self) -> None:
        quick, cheap, few = (self.room(goal=goal).made for goal in (Goal.TIME, Goal.MONEY, Goal.STOPS))
        self.assertLessEqual(cheap.cost, quick.cost + 0.02)
        self.assertLessEqual(len(few.stops), len(quick.stops))
        self.assertLessEqual(quick.total_min, min(cheap.total_min, few.total_min) + 0.5)
        meal = self.room(meal_km=180.0, meal_min=40.0).made
        self.assertTrue(any(each.post.kw == 0 and each.minutes >= 40 for each in meal.stops))
        with self.household.deciding("dinner at the inn") as session:
            way = session.get_one(WayRow, 1)
            way.posts = [[*each[:4], 90.0 if each[3] == "Mill inn" else 0.0] for each in way.posts]
        self.assertRegex(self.said(), r"Charging at Mill inn while you stand there anyway saves \d+ min")
        with self.household.deciding("busy posts") as session:
            way = session.get_one(WayRow, 1)
            way.posts = [[*each[:5], 40.0] for each in way.posts]
        self.assertGreater(self.room().made.total_min, self.room(alone=True).made.total_min + 10)
        self.assertIn("40 kW of 150 kW, shared", self.said())
        self.assertGreaterEqual(self.room(end_soc=0.5).made.end_soc, 0.489)
        for query in (
            "km=5",
            "every_km=2",
            "leave_soc=1",
            "out_c=-80",
            "goal=fun",
            "from_km=420&way=1",
            "meal_min=30&meal_km=900",
        ):
            answer = self.client.get(f"/day/long/live?{query}")
            self.assertTrue(answer.status_code == 422 and self.errors(answer), query)

    def test_out_of_reach_says_what_would_make_it_so(self) -> None:
        words = self.said("way=1&motorway_kmh=130&without=62,118,171,203,262,318&out_c=-15")
        self.assertIn("It does not get there", words)
        self.assertRegex(
            words, r"From here it reaches \d+ km on the cautious side; the next post is at 371 km. What would help: a post more"
        )

    def test_a_post_that_does_not_work_is_planned_around_from_here(self) -> None:
        page = unescape(self.client.get("/day/long?way=1").text)
        link = re.search(r'href="(/day/long\?[^"]*without=[^"]*)"', page)
        assert link
        first = self.room().made.stops[0]
        anew = self.client.get(link[1])
        text = re.sub(r"<[^>]+>", " ", unescape(anew.text)).replace("\xa0", " ")
        self.assertIn(f"Without the post at {first.post.km:.0f} km", text)
        self.assertNotIn(f"{first.post.name}, ", " ".join(text.split()).split("Without the post")[0].split("door to door")[1])

    def test_side_by_side(self) -> None:
        text = re.sub(r"<[^>]+>", " ", unescape(self.client.get("/day/long/side?way=1&now=1").text)).replace("\xa0", " ")
        self.assertRegex(text, r"In frost \w+ stops take least, \d h \d\d min")
        self.assertIn("In summer one stop takes least", self.client.get("/day/long/side?now=1").text)
        self.assertRegex(text, r"In frost, warming the pack on the way to a post gives")
        self.assertRegex(text, r"The quickest motorway speed in summer is \d+ km/h, .*, of what the roads allow, up to 110 km/h")

    def test_no_speed_is_a_choice_that_the_roads_do_not_allow_or_frost_does_not_bear(self) -> None:
        """The demo's country allows 110 km/h; with 130 allowed, frost bears 110, and the caution stands beside."""
        quickest = r"The quickest motorway speed in (frost|summer) is (\d+) km/h"
        for query, least, most in (("", 110, 110), ("&limit_kmh=130", 110, 130), ("&limit_kmh=90", 90, 90)):
            page = self.client.get(f"/day/long/side?way=1&now=1&km=420{query}").text
            text = re.sub(r"<[^>]+>", " ", unescape(page)).replace("\xa0", " ")
            found = {name: int(kmh) for name, kmh in re.findall(quickest, text)}
            self.assertLessEqual(found["frost"], least)
            self.assertLessEqual(found["summer"], most)
            self.assertIn("Slower is only better while legal and safe", text)
        self.assertIn("more than the 110 km/h that the roads allow", self.said("way=1&motorway_kmh=130"))
        self.assertEqual(self.client.get("/day/long/live?limit_kmh=300").status_code, 422)


class OnceAWeek(Rooms):
    def test_a_year_at_a_post_beside_home(self) -> None:
        here = weekly_room(self.read(), 1, lambda usual: usual, 60.0).made
        self.assertGreaterEqual(here.visits, 52)
        self.assertGreater(here.coldest_min, here.mildest_min)
        self.assertAlmostEqual(here.post_cost, 0.6 * here.kwh, delta=1e-6)
        assert here.home_cost is not None
        self.assertGreater(here.post_cost, here.home_cost)
        strong = weekly_room(self.read(), 1, lambda usual: replace(usual, post_kw=200.0), 60.0).made
        self.assertLess(strong.hours, here.hours)
        page = unescape(self.client.get("/day/long/weekly?now=1").text)
        self.assertIn("visits a year to the post cost", page)
        self.assertEqual(self.client.get("/day/long/weekly/live?post_kw=5").status_code, 422)


class Ways(Rooms):
    def test_a_way_is_typed_refused_with_its_line_kept_and_undone(self) -> None:
        wrong = self.post(
            "/day/long/way", page="/day/long/way", name="North", km="300", country_km="20", posts="120; 150; 0.6; Top\n200; many"
        )
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("Line 2: kW is no number: “many”", unescape(wrong.text))
        both = self.post("/day/long/way", page="/day/long/way", name="North", km="3", country_km="20", posts="120; many")
        self.assertEqual(both.text.count('aria-invalid="true"'), 2, "all that is wrong at once")
        self.assertIn("120; 150; 0.6; Top", unescape(wrong.text))
        for posts, field in (("400; 50", "beyond the end"), ("-5; 50", "must lie between"), ("50; 900", "must lie between")):
            answer = self.post("/day/long/way", page="/day/long/way", name="North", km="300", country_km="20", posts=posts)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(field, unescape(answer.text))
        kept = self.post(
            "/day/long/way", page="/day/long/way", name="North", km="300", country_km="20", posts="120; 150; 0.6; Top"
        )
        self.assertIn("North", kept.text)
        with self.tables() as session:
            self.assertEqual(
                [each.posts for each in session.query(WayRow).filter_by(name="North")], [[[120.0, 150.0, 0.6, "Top", 0.0, 0.0]]]
            )
        self.undo(kept)
        with self.tables() as session:
            self.assertEqual(session.query(WayRow).filter_by(name="North", withdrawn=False).count(), 0)

    def test_hundreds_of_posts_one_of_them_at_the_goal_and_the_limit_of_its_motorways(self) -> None:
        posts = "\n".join(f"{km}; 150; 0.6; Post {km}" for km in range(2, 421, 2))
        typed = {"name": "Dense", "km": "420", "country_km": "20", "limit_kmh": "90", "posts": posts}
        kept = self.post("/day/long/way", page="/day/long/way", **typed)
        self.assertEqual(kept.status_code, 200)
        way = int(re.search(r"way=(\d+)", str(kept.url))[1])  # type: ignore[index]
        self.assertRegex(self.said(f"way={way}&end_soc=80&out_c=-8"), r"door to door; you arrive with 80 %")
        self.assertIn(
            'value="90"', re.findall(r'<input[^>]*name="limit_kmh"[^>]*>', self.client.get(f"/day/long?way={way}").text)[0]
        )
        sparse = {**typed, "name": "Sparse", "posts": "150; 150; 0.6; First\n290; 150; 0.6; Second", "limit_kmh": ""}
        few = int(re.search(r"way=(\d+)", str(self.post("/day/long/way", page="/day/long/way", **sparse).url))[1])  # type: ignore[index]
        said = self.said(f"way={few}&end_soc=80&out_c=5")
        self.assertRegex(said, r"It gets there, but not with 80 % left: \d\d % at the most")
        self.assertNotIn("even a full pack", said)

    def test_a_track_larger_than_a_form_brings_its_posts(self) -> None:
        large = GPX.replace(b"<trk>", b"<trk><!--" + b"x" * 300_000 + b"-->")
        sent = {**self.fields("/day/long/way"), "name": "North", "km": "222", "country_km": "20", "posts": ""}
        read = self.client.post("/day/long/way", data=sent, files={"file": ("way.gpx", large)})
        self.assertEqual(read.status_code, 200, read.text)
        self.assertIn("150; 0; Pass top", read.text)

    def test_posts_from_lines_csv_and_waypoints(self) -> None:
        plain = read_posts(b"km,kw,price,name,stands_min,shared_kw\n120,150,0.62,Top,0,75\n60,11,0.3,Inn,45\n")
        self.assertEqual(
            plain,
            (
                Post(km=60.0, kw=11.0, price_per_kwh=0.3, name="Inn", stands_min=45.0),
                Post(km=120.0, kw=150.0, price_per_kwh=0.62, name="Top", shared_kw=75.0),
            ),
        )
        self.assertEqual(read_posts(write_posts(plain).encode()), plain)
        self.assertEqual(read_posts(b"62,5; 50; 0,52; Alder"), (Post(km=62.5, kw=50.0, price_per_kwh=0.52, name="Alder"),))
        self.assertEqual(
            read_posts(b"62; 50\n80, 100, 0.6\n90\t11\n"),
            (Post(km=62.0, kw=50.0), Post(km=80.0, kw=100.0, price_per_kwh=0.6), Post(km=90.0, kw=11.0)),
        )
        miles = read_posts(b"75; 150; 0.6; Alder", 1.609344)
        self.assertAlmostEqual(miles[0].km, 120.7008)
        self.assertEqual(write_posts(miles, 1.609344), "75; 150; 0.6; Alder")
        self.assertEqual([read_posts(each, 1.609344)[0].km for each in (b"mi;kw\n75;50", b"km;kw\n75;50")], [75 * 1.609344, 75.0])
        km, posts = read_waypoints(GPX)
        self.assertAlmostEqual(km, 222.4, delta=0.5)  # two degrees of latitude on a sphere
        self.assertEqual([(each.name, each.kw) for each in posts], [("Pass top", 150.0), ("Sound 50kW", 50.0)])
        self.assertAlmostEqual(posts[0].km, 55.6, delta=0.3)
        for bad in (b"<gpx/>", GPX.replace(b'lat="60.0"', b'lat="x"'), b"km;kw\nx;50", b"\xff\xfe"):
            with self.assertRaisesRegex(Refusal, "The file holds no track|A point has no lat|Line|The file is UTF-"):
                (read_waypoints if bad[:1] == b"<" else read_posts)(bad)
        shown = self.client.post(
            "/day/long/way",
            data={**self.fields("/day/long/way"), "name": "Up"},
            files={"file": ("way.gpx", GPX, "application/gpx+xml")},
        )
        self.assertIn("55.6; 150; 0; Pass top", unescape(shown.text))


class Stops(Rooms):
    def test_a_stop_is_noted_in_one_tap_and_three_teach_the_curve(self) -> None:
        self.assertIsNone(self.room().taught)
        for soc_to in ("58", "57", "59"):
            noted = self.post(
                "/day/long/note", page="/day/long?way=1", place="Pass top", soc_from="20", soc_to=soc_to, minutes="22", kw="150"
            )
            self.assertIn("Stop noted", noted.text)
        taught = self.room().taught
        assert taught is not None
        self.assertTrue(0.5 < taught < 1.4, taught)
        self.assertIn("of the car’s usual curve; counted in", self.said())
        with self.tables() as session:
            rows = session.query(ChargeRow).filter_by(site="fast").all()
            rows = [each for each in rows if each.place == "Pass top"]
            self.assertEqual(len(rows), 3)
            stood = [(each.ended_at - each.begun_at).total_seconds() for each in rows if each.ended_at]
            self.assertTrue(all(abs(each - 22 * 60) < 5 for each in stood), stood)
        self.undo(noted)
        self.assertIsNone(self.room().taught, "two are too few")
        fast = self.room().before
        for kw, note in (("11", "slow"), ("150", "the owner’s own words")):
            self.post("/day/long/note", page="/day/long?way=1", place=note, soc_from="20", soc_to="58", minutes="22", kw=kw)
        with self.tables() as session:
            kept = (
                session.query(ChargeRow)
                .filter(ChargeRow.place.in_(["slow", "the owner’s own words"]))
                .order_by(ChargeRow.post_kw)
                .all()
            )
            self.assertEqual(
                [(each.site, each.post_kw, each.note) for each in kept], [("elsewhere", 11.0, ""), ("fast", 150.0, "")]
            )
        self.assertEqual(self.room().before, fast + 1, "a slow stop wears nothing off the peak")
        for wrong in ({"soc_to": "10"}, {"minutes": "0"}, {"kw": "x"}):
            typed = {"place": "Top", "soc_from": "20", "soc_to": "50", "minutes": "20", "kw": "100", **wrong}
            self.assertEqual(self.post("/day/long/note", page="/day/long?way=1", **typed).status_code, 422, wrong)

    def test_an_own_curve(self) -> None:
        before = self.room().made.total_min
        self.post("/day/long/curve", page="/day/long", points="5 40; 50 35; 90 20")
        self.assertGreater(self.room().made.total_min, before + 5)
        for bad in ("5", "5 x; 50 40", "120 50; 10 20"):
            self.assertEqual(self.post("/day/long/curve", page="/day/long", points=bad).status_code, 422, bad)
        self.post("/day/long/curve", page="/day/long", points="")
        with self.tables() as session:
            self.assertEqual(session.get_one(CarRow, 1).fast_points, [])
