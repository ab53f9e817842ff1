"""Rules of our own that no linter knows."""

import ast
import unittest
from itertools import takewhile
from pathlib import Path

import frost_tally
from scripts.settings_table import GUIDE, table

MOST_BY_PLACE = 5


class HouseRules(unittest.TestCase):
    def test_a_dataclass_of_many_fields_is_built_by_keyword(self) -> None:
        found = []
        for path in Path(frost_tally.__file__).parent.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.ClassDef) and any(
                    "dataclass" in (how := ast.unparse(each)) for each in node.decorator_list
                ):
                    written = [each for each in node.body if isinstance(each, ast.AnnAssign)]
                    fields = list(takewhile(lambda each: ast.unparse(each.annotation) != "KW_ONLY", written))
                    if len(fields) > MOST_BY_PLACE and "kw_only=True" not in how:
                        found.append(f"{path.name}: {node.name}")
        self.assertEqual(found, [])

    def test_the_guides_table_of_settings_is_what_is_declared(self) -> None:
        """Renewed by `python -m scripts.settings_table`."""
        self.assertIn(table(), GUIDE.read_text())
