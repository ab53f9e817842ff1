"""`make mutants`: would a wrong program be noticed? Nudges one place of the code at a time and runs the tests that reach it.

First every class of tests that needs no browser runs once, and what it reaches is kept in `build/` (`--map` renews it). Then places are
drawn by a printed seed, weighted by lines: so many of the core, so many of the rest. Each mutant stands in a copy of its own; the classes
that reach its line run from the quickest on until one fails, or does not come to an end. Told are those that were noticed, with their line
those that were not or that no test reaches, and those that the time limit leaves undecided.
"""

import argparse
import ast
import compileall
import importlib
import json
import os
import pkgutil
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import NamedTuple

from coverage import Coverage

ROOT = Path(__file__).resolve().parents[1]
PACKAGE, BUILD = ROOT / "frost_tally", ROOT / "build"
MAP, HOMES = BUILD / "reached.json", BUILD / "homes"
LONGEST_S = 40.0
"""A class that takes longer is not asked: it would be run for nearly every mutant."""
LIMIT_S, FOR_EVER = 150.0, 3.0
"""A mutant has so long; classes that take a third of it without it are held up by it."""
WORKERS = 2
TREE = ("frost_tally", "tests", "scripts", "docs", "README.md", "pyproject.toml", "Makefile", "CONTRIBUTING.md")
TURNED: dict[type[ast.AST], str] = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.Add: "-", ast.Sub: "+", ast.Mult: "/",
    ast.Div: "*", ast.And: "or", ast.Or: "and", ast.Is: "is not", ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in",
}  # fmt: skip
WRITTEN: dict[type[ast.AST], str] = {
    ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.Add: "+", ast.Sub: "-", ast.Mult: "*",
    ast.Div: "/", ast.And: "and", ast.Or: "or", ast.Is: "is", ast.IsNot: "is not", ast.In: "in", ast.NotIn: "not in",
}  # fmt: skip
OTHER_CALL = {
    "min": "max",
    "max": "min",
    "any": "all",
    "all": "any",
    "floor": "ceil",
    "ceil": "floor",
    "minimum": "maximum",
    "maximum": "minimum",
}


class Place(NamedTuple):
    """Where a mutant stands: file, line, the characters of the source that it replaces, and by what."""

    path: Path
    line: int
    begin: int
    end: int
    becomes: str

    def said(self) -> str:
        """The line, before and after."""
        text = self.path.read_text()
        start, stop = text.rfind("\n", 0, self.begin) + 1, text.find("\n", self.end)
        after = text[start : self.begin] + self.becomes + text[self.end : stop]
        return f"{self.path.relative_to(ROOT)}:{self.line}\n    - {text[start:stop].strip()}\n    + {after.strip()}"


def places(path: Path) -> list[Place]:
    """Every place of a file's functions that can be nudged."""
    text = path.read_text()
    starts = [0]
    for line in text.splitlines(keepends=True):
        starts.append(starts[-1] + len(line.encode()))
    raw = text.encode()

    def at(row: int, column: int) -> int:
        return len(raw[: starts[row - 1] + column].decode())

    found = list[Place]()
    tree = ast.parse(text)
    checks = {id(each.value) for each in ast.walk(tree) if isinstance(each, ast.keyword) and each.arg == "strict"}
    for function in ast.walk(tree):
        if not isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
            continue
        for node in (inner for statement in function.body for inner in ast.walk(statement)):
            if id(node) not in checks and (span := _span(node, text, at)) is not None:
                found.append(Place(path, getattr(node, "lineno", 1), *span))
    return sorted(set(found), key=lambda each: (each.begin, each.becomes))


def _span(node: ast.AST, text: str, at: object) -> tuple[int, int, str] | None:
    """What of a node is replaced, and by what; None where nothing is."""
    assert callable(at)
    if isinstance(node, ast.Constant):
        begin, end = at(node.lineno, node.col_offset), at(node.end_lineno, node.end_col_offset)
        if node.value is True or node.value is False:
            return begin, end, str(not node.value)
        if isinstance(node.value, int | float) and text[begin : begin + 1].isdigit():
            return (
                begin,
                end,
                repr(node.value + 1 if isinstance(node.value, int) else node.value * 1.25 + (node.value == 0) * 0.1),
            )
        return None
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        begin = at(node.lineno, node.col_offset)
        return begin, at(node.operand.lineno, node.operand.col_offset), ""
    if isinstance(node, ast.Call):
        name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
        if name in OTHER_CALL:
            end = at(node.func.end_lineno, node.func.end_col_offset)
            return end - len(name), end, OTHER_CALL[name]
        return None
    pairs = list[tuple[ast.expr, ast.AST, ast.expr]]()
    if isinstance(node, ast.Compare):
        pairs = [(node.left, node.ops[0], node.comparators[0])]
    elif isinstance(node, ast.BinOp):
        pairs = [(node.left, node.op, node.right)]
    elif isinstance(node, ast.BoolOp):
        pairs = [(node.values[0], node.op, node.values[1])]
    for left, op, right in pairs:
        if type(op) in TURNED and not (
            isinstance(left, ast.Constant | ast.JoinedStr) and isinstance(getattr(left, "value", ""), str)
        ):
            first, last = at(left.end_lineno, left.end_col_offset), at(right.lineno, right.col_offset)
            place = text.find(WRITTEN[type(op)], first, last)
            if place >= 0:
                return place, place + len(WRITTEN[type(op)]), TURNED[type(op)]
    return None


def draw(seed: int, count: int, core: bool) -> list[Place]:
    """So many places, weighted by lines."""
    draws = random.Random(f"{seed} {core}")
    files = [path for path in sorted(PACKAGE.rglob("*.py")) if "migrations" not in path.parts and ("core" in path.parts) is core]
    by_file = {path: found for path in files if (found := places(path))}
    weights = [len(path.read_text().splitlines()) for path in by_file]
    chosen = set[Place]()
    while len(chosen) < count:
        path = draws.choices(list(by_file), weights)[0]
        chosen.add(draws.choice(by_file[path]))
    return sorted(chosen)


def classes() -> Iterator[str]:
    """All classes of tests but those of the browser."""
    from tests.classes import PARTS, names

    yield from names([each for each in PARTS if each != "browser"])


def _reach(name: str) -> tuple[str, float, dict[str, list[int]]]:
    """Run a class in this process; how long it took, and the lines of the package's functions that it reached."""
    from tests.classes import run

    begun = time.perf_counter()
    measured = Coverage(data_file=None, source=["frost_tally"], omit=["*/migrations/*"])
    measured.start()
    run(name)
    measured.stop()
    data = measured.get_data()
    lines = {str(Path(each).relative_to(ROOT)): sorted(data.lines(each) or []) for each in data.measured_files()}
    return name, time.perf_counter() - begun, lines


def reached(anew: list[str] | None) -> dict[str, tuple[float, dict[str, set[int]]]]:
    """By class of tests its seconds and the lines that it reaches; `anew` those whose names begin so (all for none, nothing for None)."""
    made = dict[str, object](json.loads(MAP.read_text())) if MAP.exists() else {}
    if anew is not None or not made:
        BUILD.mkdir(exist_ok=True)
        os.environ.update(_homes())
        for each in pkgutil.walk_packages([str(PACKAGE)], "frost_tally."):  # loaded once: each class runs in a fork
            if "migrations" not in each.name and "__main__" not in each.name:
                importlib.import_module(each.name)
        wanted = [each for each in classes() if each.startswith(tuple(anew or [""]))]
        with get_context("fork").Pool(WORKERS, maxtasksperchild=1) as pool:
            for name, seconds, lines in pool.imap(_reach, wanted):
                print(f"{seconds:6.1f} s  {name}", flush=True)
                made[name] = (seconds, lines)
        MAP.write_text(json.dumps(made))
    kept = json.loads(MAP.read_text())
    return {name: (seconds, {path: set(each) for path, each in lines.items()}) for name, (seconds, lines) in kept.items()}


def _homes() -> dict[str, str]:
    HOMES.mkdir(parents=True, exist_ok=True)
    return {**os.environ, "FROST_TALLY_TEST_HOMES": str(HOMES)}


def attempt(place: Place, near: dict[str, float]) -> str:
    """Whether a mutant is noticed by some classes, of which is known how long they take: "noticed", also by one that goes on for ever;
    "unnoticed"; or "undecided" when time is up.
    """
    names, usual_s = sorted(near, key=lambda name: near[name]), sum(near.values())
    with tempfile.TemporaryDirectory(dir=BUILD) as folder:
        copy = Path(folder)
        for each in TREE:
            source = ROOT / each
            if source.is_dir():  # linked with what is compiled of it: compiling it all again takes longer than most tests
                shutil.copytree(
                    source, copy / each, ignore=shutil.ignore_patterns("vendor", "screenshots"), copy_function=os.link
                )
            else:
                os.link(source, copy / each)
        (copy / "frost_tally/web/static/vendor").symlink_to(ROOT / "frost_tally/web/static/vendor")
        text, changed = place.path.read_text(), copy / place.path.relative_to(ROOT)
        changed.unlink()
        changed.write_text(text[: place.begin] + place.becomes + text[place.end :])
        asked = [sys.executable, "-m", "scripts.mutants", "--try", *names]
        try:
            done = subprocess.run(
                asked, cwd=copy, env={**_homes(), "PYTHONPATH": folder}, capture_output=True, timeout=LIMIT_S, check=False
            )
        except subprocess.TimeoutExpired:
            return "noticed" if FOR_EVER * usual_s < LIMIT_S else "undecided"
        return "unnoticed" if done.returncode == 0 else "noticed"


def _try(names: list[str]) -> int:
    """Run classes from the first on until one fails; 1 then."""
    from tests.classes import run

    for name in names:
        if run(name).failed:
            return 1
    return 0


def main() -> int:
    """Draw, try, tell."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--seed", type=int, default=int(time.time()) % 100_000)
    asked.add_argument("--core", type=int, default=60)
    asked.add_argument("--rest", type=int, default=30)
    asked.add_argument("--map", nargs="*", help="look anew at what each class reaches, or those whose names begin so")
    asked.add_argument("--workers", type=int, default=WORKERS)
    asked.add_argument("--try", nargs="*", dest="tried", help=argparse.SUPPRESS)
    wanted = asked.parse_args()
    if wanted.tried is not None:
        return _try(wanted.tried)
    known = reached(wanted.map)
    compileall.compile_dir(PACKAGE, quiet=1)
    compileall.compile_dir(ROOT / "tests", quiet=1)
    print(f"seed {wanted.seed}", flush=True)
    for what, count, core in (("core", wanted.core, True), ("the rest", wanted.rest, False)):
        chosen = draw(wanted.seed, count, core)
        told: dict[str, list[Place]] = {"noticed": [], "unnoticed": [], "undecided": [], "unreached": []}

        def judge(place: Place) -> tuple[Place, str]:
            path = str(place.path.relative_to(ROOT))
            near = {
                name: seconds
                for name, (seconds, lines) in known.items()
                if place.line in lines.get(path, ()) and seconds < LONGEST_S
            }
            if not near:
                return place, "unreached"
            return place, attempt(place, near)

        with ThreadPoolExecutor(wanted.workers) as pool:
            for done, (place, verdict) in enumerate(pool.map(judge, chosen), 1):
                told[verdict].append(place)
                print(f"\r{done} of {count}", end="", file=sys.stderr, flush=True)
                if verdict != "noticed":
                    print(f"{verdict}: {place.said()}", flush=True)
        decided = len(told["noticed"]) + len(told["unnoticed"]) + len(told["unreached"])
        share = 100 * len(told["noticed"]) / max(1, decided)
        counts = ", ".join(f"{len(each)} {name}" for name, each in told.items())
        print(f"{what}: of {count} mutants {counts}: {share:.0f} % of the decided are noticed", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
