"""A server of its own for who wants to kill it: the demo's home in a folder, its clock in the store, its runner always awake."""

import socket
import sys
import threading
import time
from pathlib import Path

import uvicorn

from frost_tally.live.nights import Nights
from frost_tally.live.ocpp.socket import MOST_B, open_line
from frost_tally.live.points import Points
from frost_tally.settings import Settings
from frost_tally.web.app import create_app
from tests.homes import home_in

if __name__ == "__main__":
    settings = Settings(data_dir=Path(sys.argv[1]), demo=True, log_level="ERROR")
    household = home_in(settings)
    app = create_app(settings, household)
    points = Points(household, app.state.keys, app.state.knocks)
    open_line(app, points)
    nights = Nights(points)

    def watch() -> None:
        """Look all the time."""
        while True:
            nights.look()
            time.sleep(0.005)

    threading.Thread(target=watch, daemon=True).start()
    at = socket.socket()
    at.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    at.bind(("127.0.0.1", int(sys.argv[2])))
    uvicorn.Server(uvicorn.Config(app, log_level="critical", ws_max_size=MOST_B)).run(sockets=[at])
