"""The document of everything: whatever stands in the tables comes back the same, and keeps its numbers exact."""

import unittest

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from frost_tally.core.errors import Refusal
from frost_tally.formats.document import FORMAT, Table, Value, read_document, write_document

VALUES: st.SearchStrategy[Value] = (
    st.none()
    | st.integers(-(10**15), 10**15)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.binary(max_size=20)
    | st.text("aZ09 \\\"'{}[],:\n\r\t\x00\x7fé½\u2028\ufeff🐻", max_size=20)
)
NAMES = st.text("abcdefghij_", min_size=1, max_size=8)


@st.composite
def tables(draw: st.DrawFn) -> dict[str, tuple[list[str], list[list[Value]]]]:
    found = {}
    for name in draw(st.lists(NAMES, unique=True, max_size=3)):
        columns = draw(st.lists(NAMES, unique=True, min_size=1, max_size=4))
        row = st.lists(VALUES, min_size=len(columns), max_size=len(columns))
        found[name] = (columns, draw(st.lists(row, max_size=4)))
    return found


class Document(unittest.TestCase):
    @settings(deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(tables(), st.dictionaries(NAMES, st.integers(0, 10**12), max_size=2))
    def test_what_is_written_is_read_again(
        self, given: dict[str, tuple[list[str], list[list[Value]]]], numbers: dict[str, int]
    ) -> None:
        pieces = write_document("0010", numbers, ((name, Table(tuple(columns), rows)) for name, (columns, rows) in given.items()))
        found = read_document("".join(pieces).encode())
        self.assertEqual((found.version, found.numbers), ("0010", numbers))
        self.assertEqual({name: (list(each.columns), list(each.rows)) for name, each in found.tables.items()}, given)
        kinds = [[type(value) for value in row] for each in found.tables.values() for row in each.rows]
        self.assertEqual(kinds, [[type(value) for value in row] for _, rows in given.values() for row in rows])

    def test_half_a_document_is_refused_with_its_place(self) -> None:
        whole = "".join(write_document("0010", {}, [("car", Table(("id",), [[1], [2]]))]))
        self.assertEqual(len(list(read_document(whole.encode()).tables["car"].rows)), 2)
        for end in range(1, len(whole.rstrip()) - 1, 7):
            with self.assertRaisesRegex(Refusal, "The file is not JSON"):
                read_document(whole[:end].encode())
        with self.assertRaisesRegex(Refusal, "The file is no document"):
            read_document(whole.replace(FORMAT, "other").encode())
