"""A mail server that keeps what it gets and sends nothing on: the demo's mail box, on this computer alone."""

import socket
from collections import deque
from email import message_from_bytes, policy
from typing import Any

from aiosmtpd.controller import Controller

from ..world import Letter

MOST, LARGEST_B = 50, 200_000


class MailBox:
    """The latest letters, for whoever looks."""

    def __init__(self) -> None:
        self._kept = deque[Letter](maxlen=MOST)
        with socket.create_server(
            ("127.0.0.1", 0)
        ) as free:  # its library looks at once whether it answers, so it wants the port's number
            self.port = int(free.getsockname()[1])
        self._server = Controller(self, hostname="127.0.0.1", port=self.port, data_size_limit=LARGEST_B)

    def start(self) -> None:
        """Listen."""
        self._server.start()

    def stop(self) -> None:
        """Listen no more."""
        self._server.stop()

    def letters(self) -> tuple[Letter, ...]:
        """What came, the latest first."""
        return tuple(reversed(self._kept))

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:  # noqa: N802 - the library calls it so
        """A letter comes in."""
        read = message_from_bytes(envelope.content, policy=policy.default)
        body = read.get_body(("plain",))
        self._kept.append(
            Letter(to=", ".join(envelope.rcpt_tos), subject=str(read["subject"]), text=body.get_content() if body else "")
        )
        return "250 kept"
