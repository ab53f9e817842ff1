"""What it takes to start, in CPU seconds beside `import numpy` in the same run: help, tonight's plan as JSON, a server that answers."""

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from statistics import median

TURNS = 5


def _spent(command: list[str], folder: Path) -> float:
    """CPU seconds of a command and what it started."""
    before = os.times()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, env=_surroundings(folder))
    after = os.times()
    return after.children_user + after.children_system - before.children_user - before.children_system


def _surroundings(folder: Path) -> dict[str, str]:
    return {**os.environ, "FROST_TALLY_DATA_DIR": str(folder), "FROST_TALLY_LOG_LEVEL": "ERROR"}


def _ready_s(folder: Path) -> float:
    """Seconds of the clock until a server on a home that is there answers."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    begun = time.perf_counter()
    command = [sys.executable, "-m", "frost_tally", "demo", "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=_surroundings(folder))
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=1)
                return time.perf_counter() - begun
            except OSError:
                time.sleep(0.02)
    finally:
        server.terminate()
        server.wait()


def starting() -> None:
    """Print each beside the other, by turns."""
    us, numpy = [sys.executable, "-m", "frost_tally"], [sys.executable, "-c", "import numpy"]
    with tempfile.TemporaryDirectory() as home:
        folder = Path(home)
        _spent([*us, "tonight", "--demo"], folder)  # makes the home
        told: dict[str, list[float]] = {"numpy": [], "help": [], "json": [], "ready": []}
        for _ in range(TURNS):
            told["numpy"].append(_spent(numpy, folder))
            told["help"].append(_spent([*us, "--help"], folder))
            told["json"].append(_spent([*us, "tonight", "--json", "--demo"], folder))
            told["ready"].append(_ready_s(folder))
    spent = {name: median(each) for name, each in told.items()}
    beside = {name: each / spent["numpy"] for name, each in spent.items()}
    print(f"import numpy                     {1000 * spent['numpy']:8.0f} ms CPU")
    print(f"frost-tally --help               {1000 * spent['help']:8.0f} ms CPU   {beside['help']:6.2f} of it (aim 2)")
    print(f"frost-tally tonight --json       {1000 * spent['json']:8.0f} ms CPU   {beside['json']:6.2f} of it (aim 8)")
    print(f"a server that answers            {1000 * spent['ready']:8.0f} ms       {beside['ready']:6.2f} of it")
