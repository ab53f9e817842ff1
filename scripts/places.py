"""In how many places each kind of change is made: the files in which an example of it is declared, and the lines in them.

A place is where a name is written down for others to find: a field, a class, an entry of a registry, a key of words, a column of a
migration, a lever in a template. Where it is used, as by the physics, is none. A file that the guide names must be there.
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parents[1] / "frost_tally"


class Example(NamedTuple):
    """A change that was made: the names that it brought, how many places it may take, and a folder of it: a room's own counts as one
    place, the core's as none. `keys`: only where it is the key of a registry.
    """

    names: tuple[str, ...]
    most: int
    folder: str = ""
    keys: bool = False


EXAMPLES = {
    "a yes/no field of a car": Example(("drive_heat_off",), 3),
    "a habit": Example(("awake_until",), 3),
    "an input of a room": Example(("stop_min",), 2, "core/advice"),  # what the core makes of it is no place
    "a cause with physics": Example(("Friction", "friction"), 4),
    "a room": Example(("used_car", "UsedInputs"), 6, "web/rooms/used_car"),
    "a control": Example(("HAND", "hand", "ByHand"), 3),
    "a unit system": Example(("mi",), 1),
    "a file format": Example(("read_espi",), 2),
    "a kind of entry": Example(("odometer",), 3, keys=True),
}


def declared(path: Path, names: tuple[str, ...], keys_only: bool) -> Iterator[int]:
    """The lines of a file in which one of the names is declared."""
    text = path.read_text()
    if path.suffix == ".html":
        yield from (i for i, line in enumerate(text.splitlines(), 1) if re.search(rf"fields\.({'|'.join(names)})\b", line))
        return
    tree = ast.parse(text)
    yield from (each.lineno for each in tree.body if isinstance(each, ast.FunctionDef) and each.name in names)
    for node in ast.walk(tree):
        match node:
            case ast.Dict(keys=keys):
                yield from (each.lineno for each in keys if each is not None and _names(each) in names)
            case ast.keyword(arg="key", value=ast.Constant(value=str(name))) if name in names:
                yield node.lineno
            case _ if keys_only:
                continue
            case ast.AnnAssign(target=ast.Name(id=name)) | ast.ClassDef(name=name) if name in names:
                yield node.lineno
            case ast.Tuple(elts=elements) | ast.List(elts=elements):
                yield from (each.lineno for each in elements if _names(each) in names)
            case ast.Call(func=ast.Attribute(attr="Column"), args=[ast.Constant(value=str(name)), *_]) if name in names:
                yield node.lineno
            case ast.Lambda(body=ast.Call(func=ast.Name(id=name))) if name in names:
                yield node.lineno


def _names(node: ast.expr) -> str:
    match node:
        case ast.Constant(value=str(name)) | ast.Name(id=name) | ast.Attribute(attr=name) | ast.Call(func=ast.Name(id=name)):
            return name
    return ""


def places(example: Example) -> dict[str, list[int]]:
    """The places of an example: lines by file; its folder is one place."""
    found: dict[str, list[int]] = {}
    for path in sorted((*ROOT.rglob("*.py"), *ROOT.rglob("*.html"))):
        file = str(path.relative_to(ROOT))
        lines = sorted(set(declared(path, example.names, example.keys)))
        inside = bool(example.folder) and file.startswith(f"{example.folder}/")
        if inside and example.folder.startswith("web"):
            found.setdefault(example.folder, []).extend(lines)
        elif lines and not inside:
            found[file] = lines
    return found


def lost() -> Iterator[str]:
    """The files and folders that README, CONTRIBUTING and docs name and that are not there."""
    bases = (ROOT.parent, ROOT, ROOT / "core", ROOT / "web")
    for page in sorted((*ROOT.parent.glob("*.md"), *(ROOT.parent / "docs").rglob("*.md"))):
        named = set(re.findall(r"`([a-z_0-9]+(?:/[a-z_0-9]+)+(?:\.(?:py|html|js|css|md)|/)?)[ `]", page.read_text()))
        for name in sorted(named):
            if not any((base / (name + end)).exists() for base in bases for end in ("", ".py")):
                yield f"{page.relative_to(ROOT.parent)} names {name}, which is not there"


def homeless() -> Iterator[str]:
    """What stands in `services/` and is neither a room's nor what several rooms ask."""
    rooms = {each.name for each in (ROOT / "web" / "rooms").iterdir()}
    for each in sorted((ROOT / "services").iterdir()):
        if each.stem not in rooms | {"__init__", "__pycache__", "shared"}:
            yield f"services/{each.name} has no room of its name"


def uncited() -> Iterator[str]:
    """Decisions that no code names: where they hold, a reader must find them."""
    code = "".join(
        path.read_text() for folder in ("frost_tally", "tests", "bench") for path in (ROOT.parent / folder).rglob("*.py")
    )
    for record in sorted((ROOT.parent / "docs" / "decisions").glob("0*.md")):
        if f"docs/decisions/{record.name[:4]}" not in code:
            yield f"{record.name} is named by no code"


def main() -> int:
    """Print the table, lost files, what has no room, uncited decisions; 1 when there are any, or a change takes more places than it may."""
    gone, over = [*lost(), *homeless(), *uncited()], 0
    for kind, example in EXAMPLES.items():
        found = places(example)
        over += len(found) > example.most
        print(f"{kind:26} {len(found)} (at most {example.most}): {', '.join(found)}")
    print(*gone, sep="\n")
    return 1 if over or gone else 0


if __name__ == "__main__":
    sys.exit(main())
