"""Build sdist and wheel, install the wheel in a fresh environment, and ask its demo for tonight: `python -m scripts.try_package`."""

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
import venv
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def run(*command: str | Path) -> None:
    """Run a command quietly. Raises: CalledProcessError."""
    subprocess.run([str(each) for each in command], check=True, cwd=ROOT, stdout=subprocess.DEVNULL)


def answers(command: Path, folder: Path) -> bool:
    """Whether the installed demo serves Tonight."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    settings = {**os.environ, "FROST_TALLY_DATA_DIR": str(folder)}
    server = subprocess.Popen([str(command), "demo", "--port", str(port)], env=settings, cwd=folder, stdout=subprocess.DEVNULL)
    try:
        for _ in range(240):
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/tonight", timeout=20) as page:
                    return "Plug in before" in page.read().decode()
            except OSError:
                time.sleep(0.25)
        return False
    finally:
        server.terminate()
        server.wait()


def main() -> int:
    """0 when the wheel's demo answers."""
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        run(sys.executable, "-m", "build", "--no-isolation", "--outdir", folder / "dist", ".")
        wheel = next((folder / "dist").glob("*.whl"))
        print(
            f"Built {wheel.name} ({wheel.stat().st_size // 1000} kB) and {next((folder / 'dist').glob('*.tar.gz')).name}.",
            flush=True,
        )
        venv.create(folder / "fresh", with_pip=True)
        pip = (folder / "fresh" / "bin" / "python", "-m", "pip", "install", "--quiet", "--disable-pip-version-check")
        run(*pip, "--require-hashes", "-r", "requirements/run.txt")
        run(*pip, "--no-deps", wheel)
        fine = answers(folder / "fresh" / "bin" / "frost-tally", folder)
        print("Installed afresh, its demo answers." if fine else "Installed afresh, its demo does not answer.")
        return 0 if fine else 1


if __name__ == "__main__":
    sys.exit(main())
