"""Tests that cannot fail, or that pass for another reason than they say: a loop over what may be nothing, absence alone, any refusal.

- All asserts of a test stand in loops, none of which goes over something written out, and nothing counts what was gone through.
- All that a test asserts is absence (`assertNotIn`, `assertNotRegex`, `assertIsNone`): nothing shows that it would be seen.
- `assertRaises(Refusal)` or of its kinds, and nobody looks at what it says or at which field.
"""

import ast
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
REFUSALS = {"Refusal", "OutOfRange"}
FIXED = (ast.Tuple, ast.List, ast.Set, ast.Dict, ast.Constant)


def asserts(node: ast.AST) -> list[ast.Call]:
    """The asserts in a piece of code; helpers that say so in their names count."""
    return [
        each for each in ast.walk(node) if isinstance(each, ast.Call) and _name(each).startswith(("assert", "_assert", "refuse"))
    ]


def _name(call: ast.Call) -> str:
    return call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")


def _written_out(iterated: ast.expr, known: dict[str, ast.expr]) -> bool:
    """Whether a loop surely goes round: over something written out, a range, a class of constants, or what was made of such."""
    if isinstance(iterated, FIXED):
        return not isinstance(iterated, ast.Tuple | ast.List | ast.Set) or bool(iterated.elts)
    if isinstance(iterated, ast.Name):
        return (
            iterated.id.isupper()
            or iterated.id[:1].isupper()
            or (iterated.id in known and _written_out(known[iterated.id], known))
        )
    if isinstance(iterated, ast.Attribute):
        return iterated.attr.isupper()
    if isinstance(iterated, ast.Call):
        name = _name(iterated)
        if name in ("range", "count", "product", "permutations"):
            return True
        inner = [iterated.func.value] if isinstance(iterated.func, ast.Attribute) else []
        return any(_written_out(each, known) for each in (*iterated.args, *inner))
    if isinstance(iterated, ast.BinOp):
        return _written_out(iterated.left, known) or _written_out(iterated.right, known)
    if isinstance(iterated, ast.GeneratorExp | ast.ListComp):
        return _written_out(iterated.generators[0].iter, known) and not iterated.generators[0].ifs
    return False


def loops_only(test: ast.FunctionDef) -> bool:
    """Whether nothing is asserted but in loops that may go over nothing."""
    known = dict[str, ast.expr]()
    for each in ast.walk(test):
        targets = each.targets if isinstance(each, ast.Assign) else [each.target] if isinstance(each, ast.AnnAssign) else []
        value = getattr(each, "value", None)
        known |= {target.id: value for target in targets if isinstance(target, ast.Name) and isinstance(value, ast.expr)}
    loops = [each for each in ast.walk(test) if isinstance(each, ast.For)]  # a `while` goes on until it has counted enough
    inside = {id(call) for loop in loops if not _written_out(loop.iter, known) for call in asserts(loop)}
    every = asserts(test)
    return bool(every) and all(id(call) in inside for call in every)


def absence_only(test: ast.FunctionDef) -> bool:
    """Whether nothing but absence is asserted."""
    every = [_name(call) for call in asserts(test)]
    return bool(every) and all(name in ("assertNotIn", "assertNotRegex") for name in every)


def any_refusal(test: ast.FunctionDef) -> list[int]:
    """Lines on which any refusal at all would do."""
    found = list[int]()
    for node in ast.walk(test):
        if not isinstance(node, ast.With):
            continue
        for item in node.items:
            call = item.context_expr
            if isinstance(call, ast.Call) and _name(call) == "assertRaises" and item.optional_vars is None:
                named = {part.id for arg in call.args for part in ast.walk(arg) if isinstance(part, ast.Name)}
                if named & REFUSALS:
                    found.append(node.lineno)
    return found


def main() -> int:
    """Print what is found; 1 when anything is."""
    found = list[str]()
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        for test in ast.walk(ast.parse(path.read_text())):
            if not isinstance(test, ast.FunctionDef) or not test.name.startswith("test_"):
                continue
            here = path.relative_to(ROOT)
            if loops_only(test):
                found.append(f"{here}:{test.lineno}: {test.name} asserts only in loops that may go over nothing")
            if absence_only(test):
                found.append(f"{here}:{test.lineno}: {test.name} asserts nothing but absence")
            found += [f"{here}:{line}: any refusal would do" for line in any_refusal(test)]
    print("\n".join(found))
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
