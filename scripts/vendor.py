"""Fetch the page's libraries and fonts from the npm registry at pinned versions and keep them in web/static/vendor.

Run by `make vendor` when a version changes; needs npm. The files are committed, so nobody else needs it.
"""

import json
import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

VENDOR = Path(__file__).resolve().parents[1] / "frost_tally" / "web" / "static" / "vendor"
AXE = Path(__file__).resolve().parents[1] / "tests" / "browser" / "vendor"
_NEXT, _MONO = "atkinson-hyperlegible-next", "atkinson-hyperlegible-mono"
PACKAGES: tuple[tuple[str, str, dict[str, str], Path], ...] = (
    ("bootstrap", "5.3.9", {"dist/css/bootstrap.min.css": "bootstrap.min.css"}, VENDOR),
    ("@alpinejs/csp", "3.17.4", {"dist/cdn.min.js": "alpine-csp.min.js"}, VENDOR),
    (
        f"@fontsource/{_NEXT}",
        "5.3.0",
        {f"files/{_NEXT}-latin-{w}-normal.woff2": f"{_NEXT}-{w}.woff2" for w in (400, 700)},
        VENDOR,
    ),
    (f"@fontsource/{_MONO}", "5.3.0", {f"files/{_MONO}-latin-400-normal.woff2": f"{_MONO}-400.woff2"}, VENDOR),
    ("axe-core", "4.14.1", {"axe.min.js": "axe.min.js"}, AXE),
)


def fetch(name: str, version: str, wanted: dict[str, str], target: Path) -> str:
    """Unpack the wanted files of one package with its licence; returns the licence's name."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["npm", "pack", f"{name}@{version}", "--silent"], cwd=folder, check=True, stdout=subprocess.DEVNULL)
        with tarfile.open(next(Path(folder).glob("*.tgz"))) as pack:
            pack.extractall(folder, filter="data")
        root = Path(folder) / "package"
        target.mkdir(parents=True, exist_ok=True)
        for source, kept in wanted.items():
            shutil.copyfile(root / source, target / kept)
        for licence in sorted(root.glob("LICENSE*"))[:1]:
            shutil.copyfile(licence, target / f"LICENSE-{name.strip('@').replace('/', '-')}.txt")
        return str(json.loads((root / "package.json").read_text())["license"])


def main() -> None:
    rows = [(name, version, fetch(name, version, wanted, target), target) for name, version, wanted, target in PACKAGES]
    for target in (VENDOR, AXE):
        lines = [f"| {name} | {version} | {licence} |" for name, version, licence, place in rows if place == target]
        (target / "VERSIONS.md").write_text("| package | version | licence |\n|---|---|---|\n" + "\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
