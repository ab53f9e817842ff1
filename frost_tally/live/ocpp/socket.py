"""The address `/ocpp/{name}`: who may speak there, in which version, and for how long what is no protocol is listened to.

Source: OCPP-J 1.6 specification, 3; OCPP 2.0.1, part 4, 3 and 4; security profile 1 (HTTP Basic, RFC 7617).
"""

import asyncio
import base64
import binascii
from collections.abc import Mapping
from datetime import UTC, datetime

import structlog
from fastapi import FastAPI, WebSocket
from starlette.responses import Response
from starlette.websockets import WebSocketDisconnect

from ..points import PointDesk, Points

VERSIONS = ("ocpp2.0.1", "ocpp1.6")
"""The versions that are spoken, the better first."""
MOST_B, BURST, PER_S = 1 << 16, 400.0, 20.0
"""A message of so many bytes, and so many messages at once and each second, are more than any point has to say."""
log = structlog.get_logger("frost_tally.point")


class Silenced(ConnectionError):
    """The line is closed, or is to be."""


class Line:
    """A WebSocket as the protocol's library wants it: texts in and out, not more than a point has to say."""

    def __init__(self, socket: WebSocket) -> None:
        self.socket, self._left, self._at = socket, BURST, 0.0

    async def recv(self) -> str:
        """The next message. Raises: Silenced."""
        try:
            message = await self.socket.receive()
        except (WebSocketDisconnect, RuntimeError) as problem:
            raise Silenced from problem
        text = message.get("text")
        now = asyncio.get_running_loop().time()
        self._left, self._at = min(BURST, self._left + PER_S * (now - self._at)) - 1.0, now
        if message["type"] == "websocket.disconnect" or text is None or self._left < 0:
            raise Silenced
        return str(text)

    async def close(self) -> None:
        """Hang up."""
        await _closed(self.socket)

    async def send(self, message: str) -> None:
        """Say something. Raises: Silenced."""
        try:
            await self.socket.send_text(message)
        except (WebSocketDisconnect, RuntimeError) as problem:
            raise Silenced from problem


def open_line(app: FastAPI, points: Points) -> None:
    """Listen to charge points at this application's own address."""

    async def point(websocket: WebSocket) -> None:
        try:
            await listen(websocket, points)
        except Exception as problem:  # noqa: BLE001 - gone before it was let in, or a store that is locked: no page is answered to a point
            log.warning("point", name=websocket.path_params.get("identity", ""), said=type(problem).__name__)
            await _closed(websocket)

    app.add_api_websocket_route("/ocpp/{identity}", point)


async def listen(socket: WebSocket, points: Points) -> None:
    """One connection from its first word to its last."""
    points.loop = asyncio.get_running_loop()
    identity = str(socket.path_params.get("identity", ""))
    name, password = _told(socket.headers)
    address = socket.client.host if socket.client else ""
    why: int | str
    if name and name != identity:
        points.knocks.add(identity, address, why := "name", datetime.now(UTC))
    else:
        why = await asyncio.to_thread(points.admit, identity, password, address)
    if isinstance(why, str):
        headers = {"www-authenticate": 'Basic realm="charge points"'}
        await socket.send_denial_response(Response(status_code=429 if why == "tries" else 401, headers=headers))
        return
    version = next((each for each in VERSIONS if each in socket.scope.get("subprotocols", ())), None)
    await socket.accept(subprotocol=version)
    if version is None:
        await socket.close(1002, "none of the versions is spoken here")
        return
    desk, line = PointDesk(points, identity, why), Line(socket)
    if version == "ocpp1.6":
        from .v16 import Point16 as Point
    else:
        from .v201 import Point201 as Point
    point = Point(desk, line)
    log.info("point", name=identity, version=version, said="connected")
    try:
        await asyncio.to_thread(desk.connected, point)
        point.soon(point.greet_unless_booted())
        await point.start()
    except ConnectionError:
        pass
    except Exception as problem:  # noqa: BLE001 - whatever somebody sends ends his line alone
        log.warning("point", name=identity, said=type(problem).__name__)
    finally:
        point.hang_up()
        await asyncio.shield(asyncio.to_thread(_gone, desk))
        log.info("point", name=identity, said="gone")
        await _closed(socket)


def _gone(desk: PointDesk) -> None:
    try:
        desk.gone()
    except ConnectionError:
        return


async def _closed(socket: WebSocket) -> None:
    try:
        await socket.close(1008)
    except (WebSocketDisconnect, RuntimeError, OSError):
        return


def _told(headers: Mapping[str, str]) -> tuple[str, str]:
    """Name and password of HTTP Basic; both empty for what is none."""
    scheme, _, told = headers.get("authorization", "").partition(" ")
    if scheme.casefold() != "basic" or len(told) > 400:
        return "", ""
    try:
        name, _, password = base64.b64decode(told.strip(), validate=True).decode().partition(":")
    except (binascii.Error, UnicodeDecodeError, ValueError):
        return "", ""
    return name, password
