"""`make drill`, second part: forty clients read and write for two minutes, then ten thousand requests in a row, with the server's memory.

The server is a process of its own on loopback. Nothing may be answered by a 5xx; what was acknowledged is in the store afterwards.
"""

import asyncio
import os
import random
import re
import socket
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from contextlib import closing
from pathlib import Path

import httpx2 as httpx

CLIENTS, SECONDS, REQUESTS, NARROW = 40, 120.0, 10_000, 20
PAGES = (
    "/tonight", "/week", "/day", "/warm-up", "/battery", "/battery/used", "/parked", "/parked/season", "/log",
    "/log/data", "/garage", "/basis",
    "/day/tyres", "/log/new", "/garage/house", "/week/departures.ics",
)  # fmt: skip


def memory_mb(process: int) -> float:
    """What a process holds now, MB."""
    return int(re.search(r"VmRSS:\s+(\d+) kB", Path(f"/proc/{process}/status").read_text())[1]) / 1000  # type: ignore[index]


def free_port() -> int:
    """A port of loopback that nobody has."""
    with closing(socket.socket()) as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


async def one(base: str, until: float, draw: random.Random, counts: Counter[str]) -> None:
    """A client: reads any page, and now and then enters a departure."""
    async with httpx.AsyncClient(base_url=base, timeout=60.0, follow_redirects=False) as browser:
        while time.monotonic() < until:
            if draw.random() < 0.8:
                answer = await browser.get(draw.choice(PAGES))
            else:
                page = (await browser.get("/week")).text
                fields = dict(re.findall(r'<input type="hidden" name="(token|revision)" value="([^"]*)"', page))
                typed = {
                    "car": "1",
                    "number": "",
                    "name": "Drill",
                    "at": "18:30",
                    "km": "7",
                    "warm_up": "advised",
                    "day_2": "yes",
                }
                answer = await browser.post("/week/departures", data={**fields, **typed})
                counts["acknowledged"] += answer.status_code == 303
            counts[str(answer.status_code)] += 1


async def drilled(base: str, server: int, seconds: float, requests: int) -> Counter[str]:
    """Both parts; the counts of statuses."""
    counts, until = Counter[str](), time.monotonic() + seconds
    await asyncio.gather(*(one(base, until, random.Random(i), counts) for i in range(CLIENTS)))
    print(f"{CLIENTS} clients for {seconds:.0f} s: {dict(counts)}, {memory_mb(server):.0f} MB", flush=True)
    row = Counter[str]()
    async with httpx.AsyncClient(base_url=base, timeout=60.0) as browser:
        limit = asyncio.Semaphore(NARROW)

        async def ask(number: int) -> None:
            async with limit:
                row[str((await browser.get(PAGES[number % len(PAGES)])).status_code)] += 1

        for tenth in range(10):
            await asyncio.gather(*(ask(i) for i in range(requests // 10)))
            print(f"{(tenth + 1) * requests // 10} requests: {memory_mb(server):.0f} MB", flush=True)
    return counts + row


def main() -> None:
    """Drill, and say what was found; exit code 1 when anything suffered."""
    seconds, requests = (float(sys.argv[1]), int(sys.argv[2])) if len(sys.argv) > 2 else (SECONDS, REQUESTS)
    port = free_port()
    with tempfile.TemporaryDirectory() as folder:
        told = {**os.environ, "FROST_TALLY_DATA_DIR": folder, "FROST_TALLY_LOG_LEVEL": "ERROR"}
        server = subprocess.Popen(
            [sys.executable, "-m", "frost_tally", "demo", "--port", str(port)], env=told, stderr=subprocess.DEVNULL
        )
        try:
            base = f"http://127.0.0.1:{port}"
            for _ in range(600):
                try:
                    httpx.get(f"{base}/tonight", timeout=30.0)
                    break
                except httpx.TransportError:
                    time.sleep(0.2)
            counts = asyncio.run(drilled(base, server.pid, seconds, requests))
        finally:
            server.terminate()
            try:
                server.wait(30)
            except subprocess.TimeoutExpired:
                server.kill()
                server.wait()
        with closing(sqlite3.connect(next(Path(folder).rglob("*.db")))) as store:
            sound = store.execute("PRAGMA integrity_check").fetchone()[0]
            entered = store.execute("SELECT count(*) FROM departure WHERE name = 'Drill'").fetchone()[0]
    broken = sum(number for status, number in counts.items() if status.startswith("5"))
    print(f"store {sound}, {entered} departures of {counts['acknowledged']} acknowledged, {broken} answers of 5xx")
    sys.exit(0 if sound == "ok" and entered == counts["acknowledged"] and not broken else 1)


if __name__ == "__main__":
    main()
