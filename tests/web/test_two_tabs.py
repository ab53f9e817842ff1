"""Two tabs: what one does while the other still shows what was; also across a bring-back of everything."""

import json
import re

from frost_tally.household.models import CarRow, OutletRow
from frost_tally.household.store import backup, restore
from frost_tally.services.log_data import room as my_data
from tests.homes import home_at, read
from tests.web.client import WebCase, hidden


class TwoTabs(WebCase):
    def document(self) -> str:
        return self.client.get("/log/data/everything.json").text

    def bring(self, document: str, name: str = "a.json") -> str:
        """The preview of a document in a tab of its own."""
        token = hidden(self.client.get("/log/data").text)["token"]
        return self.client.post("/log/data/bring", data={"token": token}, files={"file": (name, document.encode())}).text

    def renamed(self, name: str) -> str:
        found = json.loads(self.document())
        cars = found["tables"]["car"]
        cars["rows"][0][cars["columns"].index("name")] = name
        return json.dumps(found)

    def decide(self, name: str = "Sauna socket") -> None:
        with self.household.deciding(f"“{name}” named") as session:
            session.get_one(OutletRow, 2).name = name

    def car(self) -> str:
        with self.tables() as session:
            return str(session.get_one(CarRow, 1).name)

    def test_each_preview_puts_its_own_document_in_place(self) -> None:
        first, second = self.bring(self.renamed("Otter")), self.bring(self.renamed("Stoat"), "b.json")
        self.assertNotEqual(hidden(first)["ready"], hidden(second)["ready"])
        self.client.post("/log/data/back", data={**hidden(first), "how": "take"})
        self.assertEqual(self.car(), "Otter", "the second preview did not take the first one's place")
        late = self.client.post("/log/data/back", data={**hidden(second), "how": "take"})
        self.assertEqual((late.status_code, self.car()), (409, "Otter"))
        self.assertIn("All of the data was replaced", late.text)
        self.client.post("/log/data/back", data={**hidden(late.text), "how": "take"})
        self.assertEqual(self.car(), "Stoat")

    def test_a_decision_since_the_preview_is_told_and_the_document_goes_on_waiting(self) -> None:
        shown = self.bring(self.renamed("Otter"))
        self.decide()
        late = self.client.post("/log/data/back", data={**hidden(shown), "how": "take"})
        self.assertEqual((late.status_code, self.car()), (409, "Marten"))
        self.assertIn("“Sauna socket” named", late.text)
        self.assertIn("“a.json” would take the place", late.text)
        self.client.post("/log/data/back", data={**hidden(late.text), "how": "take"})
        self.assertEqual(self.car(), "Otter")
        self.assertEqual(my_data.waiting(self.settings.database), ())
        for number in ("", "../demo", "0" * 16):
            gone = self.client.post("/log/data/back", data={**hidden(late.text), "ready": number, "how": "take"})
            self.assertIn(gone.status_code, (409, 422), number)

    def test_an_old_tab_neither_overwrites_nor_takes_back_after_a_bring_back(self) -> None:
        document = self.document()
        form = self.fields("/garage/edit/place/1")
        self.decide("before")
        link = f"/garage?undo={self.read().revision}"
        with self.household.deciding("an outlet named") as session:
            session.get_one(OutletRow, 2).name = "Barn"
        old = str(session.number)
        page = self.client.get(f"/garage?undo={old}").text
        self.assertIn("an outlet named. ", re.sub(r"<[^>]+>", "", page).replace("\n", " "))
        self.client.post("/log/data/back", data={**hidden(self.bring(document)), "how": "take"})
        while int(self.read().revision) < int(form["revision"].split(".")[0]) + 6:
            self.decide(f"after {self.read().revision}")
        self.assertNotIn("Undo", self.client.get(f"/garage?undo={old}").text, "the number is of another store")
        self.assertNotIn("Undo", self.client.get(link).text)
        undone = self.client.post("/undo", data=hidden(page))
        self.assertEqual(undone.status_code, 409)
        kept = self.client.post("/garage/edit/place/1", data={**form, "name": "Old tab"})
        self.assertEqual(kept.status_code, 409)
        ours = {"sec-fetch-site": "same-origin"}
        kept = self.client.post("/garage/edit/place/1", data={**form, "name": "Old tab"}, headers=ours)
        self.assertIn("Your entries: Old tab", kept.text)
        self.assertNotIn("Send it again", kept.text, "its numbers are somebody else's by now")
        self.assertNotIn("Old tab", self.document())

    def test_numbers_never_fall_and_the_store_is_another_after_bring_back_delete_and_restore(self) -> None:
        copy, document = backup(self.settings.database, self.settings.backups), self.document()
        seen, undo, stores, home = 0, 0, set[str](), self.household
        for how in ("decide", "bring", "decide", "delete", "bring", "decide", "restore", "decide"):
            if how == "decide":
                with home.deciding("one more") as session:
                    pass
                self.assertGreater(int(session.number), undo)
                undo = int(session.number)
            elif how == "bring":
                ready = my_data.prepare_document(self.settings.database, document.encode())
                my_data.bring_back(home, self.settings.backups, ready.number, read(home).revision)
            elif how == "delete":
                my_data.delete_all(home, self.settings.backups, "delete")
            else:
                home.engine.dispose()
                restore(copy, self.settings.database, self.settings.backups)
                home = home_at(self.settings.database, self.settings.backups)
                self.addCleanup(home.engine.dispose)
            now = read(home).revision
            self.assertGreater(int(now), seen, how)
            self.assertEqual(now.store in stores, how == "decide" and bool(stores), how)
            seen = int(now)
            stores.add(now.store)

    def test_a_value_set_to_a_then_b_then_a_from_one_page_is_a(self) -> None:
        page, seen = self.fields("/warm-up?car=1"), ""
        for choice in ("nothing", "cabin", "nothing", "nothing"):
            answer = self.client.post("/warm-up/keep", data={**page, "show": choice})
            with self.tables() as session:
                if seen not in ("", choice):  # the page is of before: a second look, then it may be sent once more
                    self.assertEqual((answer.status_code, session.get_one(CarRow, 1).habit.warm_up), (409, seen))
                    self.client.post("/warm-up/keep", data={**self.fields("/warm-up?car=1"), "show": choice})
                session.expire_all()
                self.assertEqual(session.get_one(CarRow, 1).habit.warm_up, choice)
            seen = choice
        page = self.fields("/garage")
        for person in ("1", "2", "1"):
            self.client.post("/garage/look", data={**page, "person": person})
            self.assertEqual(self.client.cookies["frost_tally_person"], person)
