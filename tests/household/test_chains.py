"""Random chains of everything that changes a store, in two tabs: it always equals a model that is kept beside it."""

import unittest
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

import numpy as np

from frost_tally.core.errors import Refusal
from frost_tally.household.models import DepartureRow
from frost_tally.household.store import restore
from frost_tally.household.unit_of_work import Household, undoable
from frost_tally.services.log_data import room as my_data
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from frost_tally.services.shared.home import Stale
from tests.drilled import count, seed_of
from tests.homes import home_at, read, tables
from tests.household.test_log_store import table
from tests.household.test_store import InFolder

STEPS = 30


@dataclass
class Model:
    """What the store should have: names of departures, begins of charges that files brought, and the decisions that can be undone."""

    departures: dict[str, str] = field(default_factory=dict)
    charges: set[str] = field(default_factory=set)
    undoable: dict[int, tuple[str, object]] = field(default_factory=dict)

    def apart(self) -> "Model":
        """The same, for another time; whether numbers of before still undo then is another test's."""
        return Model(dict(self.departures), set(self.charges))


class Chains(InFolder):
    home: Household

    def test_the_store_is_the_model_after_any_chain(self) -> None:
        seed, tried = seed_of(self.id()), set[str]()
        for number in range(count(20)):
            folder = self.folder / str(number)
            self.database, self.backups = folder / "household.db", folder / "backups"
            self.home = self.household()
            chain = Chain(self, np.random.default_rng((seed, number)))
            for step in range(STEPS):
                name = chain.step()
                tried.add(name)
                with self.subTest(seed=seed, chain=number, step=step, name=name):
                    self.assertEqual(chain.stored(), chain.model_now())
        self.assertEqual(tried, set(Chain.STEPS), "every kind of step was taken")


class Chain:
    """One chain on a home: what it does, it does to its model too."""

    STEPS = ("decide", "stale", "undo", "redo", "take", "take back", "bring back", "restore", "delete a departure")

    def __init__(self, case: Chains, draw: np.random.Generator) -> None:
        self.case, self.draw, self.made = case, draw, 0
        self.model, self.copies = Model(*self.stored()), list[tuple[bytes, Model]]()
        self.tabs = [read(case.home).revision, read(case.home).revision]

    def stored(self) -> tuple[dict[str, str], set[str]]:
        with tables(self.case.home) as session:
            named = {row.uid: row.name for row in session.query(DepartureRow).filter_by(withdrawn=False)}
            begun = session.connection().exec_driver_sql("SELECT begun_at FROM charge WHERE begun_at LIKE '2019%'")
            return named, {at for (at,) in begun}

    def model_now(self) -> tuple[dict[str, str], set[str]]:
        return self.model.departures, self.model.charges

    def step(self) -> str:
        """One step that can be taken now, drawn; a second tab is a page that was opened some steps ago."""
        acts = (
            self._decide, self._stale, self._undo, self._redo, self._take, self._take_back, self._bring_back, self._restore,
            self._delete_a_departure,
        )  # fmt: skip
        name = str(self.draw.choice(self.STEPS))
        if not acts[self.STEPS.index(name)]():
            name = "decide"
            self._decide()
        if self.draw.random() < 0.5:
            self.tabs[int(self.draw.integers(0, 2))] = read(self.case.home).revision
        return name

    def _name(self) -> str:
        self.made += 1
        return f"Errand {self.made}"

    def _decide(self) -> bool:
        uid = self._name()
        with self.case.home.deciding(uid, read(self.case.home).revision) as session:
            session.add(_departure(uid))
        self.model.departures[uid] = uid
        self.model.undoable[session.number] = ("departure", uid)
        return True

    def _delete_a_departure(self) -> bool:
        mine = [uid for uid in self.model.departures if uid.startswith("Errand")]
        if not mine:
            return False
        uid = str(self.draw.choice(mine))
        with self.case.home.deciding("away", read(self.case.home).revision) as session:
            session.query(DepartureRow).filter_by(uid=uid).one().withdrawn = True
        del self.model.departures[uid]
        # what made it can no longer be taken back alone: that is refused, and changes nothing
        self.model.undoable = {key: what for key, what in self.model.undoable.items() if what != ("departure", uid)}
        self.model.undoable[session.number] = ("gone", uid)
        return True

    def _stale(self) -> bool:
        """The other tab decides on what it saw: refused when anything was decided since, and then nothing is changed."""
        tab = self.tabs[int(self.draw.integers(0, 2))]
        uid, moved = self._name(), str(tab) != str(read(self.case.home).revision)
        try:
            with self.case.home.deciding(uid, tab) as session:
                session.add(_departure(uid))
        except Stale:
            self.case.assertTrue(moved)
            return True
        self.case.assertFalse(moved)
        self.model.departures[uid] = uid
        self.model.undoable[session.number] = ("departure", uid)
        return True

    def _undo(self) -> bool:
        return self._turn(lambda what: what in ("departure", "gone"))

    def _redo(self) -> bool:
        return self._turn(lambda what: what in ("un departure", "un gone"))

    def _take_back(self) -> bool:
        return self._turn(lambda what: what in ("file", "un file"))

    def _turn(self, kind: Callable[[str], bool]) -> bool:
        able = [key for key, (what, _) in self.model.undoable.items() if kind(what)]
        if not able:
            return False
        key = able[int(self.draw.integers(0, len(able)))]
        what, of = self.model.undoable.pop(key)
        before = (dict(self.model.departures), set(self.model.charges))
        try:
            number = self.case.home.undo(key)
        except Refusal:
            self.case.assertEqual(self.stored(), before, "what is refused changes nothing")
            return True
        forward = not what.startswith("un ")
        if what.endswith("departure") or what.endswith("gone"):
            there = what in ("gone", "un departure")
            self.model.departures |= {str(of): str(of)} if there else {}
            if not there:
                del self.model.departures[str(of)]
        elif isinstance(of, frozenset):
            self.model.charges = self.model.charges - of if forward else self.model.charges | of
        self.model.undoable[number] = (f"un {what}" if forward else what.removeprefix("un "), of)
        self.case.assertTrue(undoable(read(self.case.home), number))
        return True

    def _take(self) -> bool:
        self.made += 1
        first = datetime(2019, 1, 1, tzinfo=UTC) + timedelta(days=3 * self.made)
        lines = []
        for day in (0, 1):
            begun = first + timedelta(days=day)
            lines.append(f"Marten,{begun.isoformat()},{(begun + timedelta(hours=2)).isoformat()},home,Wall unit,40,80,22,")
        number = log_files.receive(self.case.home, read(self.case.home), "a.csv", table(*lines))
        log_files.look(self.case.home, number)
        undo = taking.take(self.case.home, number)
        brought = frozenset(f"{first + timedelta(days=day):%Y-%m-%d %H:%M:%S}.000000" for day in (0, 1))
        self.model.charges |= brought
        self.model.undoable[undo] = ("file", brought)
        return True

    def _bring_back(self) -> bool:
        """Everything as it was at an earlier step, from a document; what could be undone then can be undone again, and nothing else."""
        home, backups = self.case.home, self.case.backups
        if not self.copies or self.draw.random() < 0.4:
            self.copies.append(("".join(my_data.document_of(my_data.database_of(home))).encode(), self.model.apart()))
            return True
        content, model = self.copies[int(self.draw.integers(0, len(self.copies)))]
        ready = my_data.prepare_document(my_data.database_of(home), content)
        my_data.bring_back(home, backups, ready.number, read(home).revision)
        self._replaced(model)
        return True

    def _restore(self) -> bool:
        """A copy put in place while nobody uses the data."""
        home, backups = self.case.home, self.case.backups
        kept, model = my_data.copy_now(home, backups), self.model.apart()
        self._decide()
        home.engine.dispose()
        restore(kept, self.case.database, backups)
        self.case.home = home_at(self.case.database, backups)
        self.case.addCleanup(self.case.home.engine.dispose)
        self._replaced(model)
        return True

    def _replaced(self, model: Model) -> None:
        self.model = model.apart()


def _departure(uid: str) -> DepartureRow:
    return DepartureRow(
        car_id=1, uid=uid, name=uid, at=datetime(2027, 1, 1, 9).time(), days="0", since=datetime(2027, 1, 1).date(), km=4.0
    )


if __name__ == "__main__":
    unittest.main()
