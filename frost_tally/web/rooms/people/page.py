"""Garage, people and devices: who may come in from the home network, signing in and out, pairing a phone, links and keys."""

from collections.abc import Callable
from io import BytesIO

import segno
from fastapi import Request
from fastapi.responses import FileResponse, JSONResponse, RedirectResponse, Response
from markupsafe import Markup

from ....access.door import Access, Purpose, Right
from ....access.throttle import TooManyTries
from ....core.errors import Refusal
from ...assets import FOLDER, address
from ...door import COOKIE, access_of, forget_visit, let_in, visitor_of
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, whole_number
from ...reading import snapshot_of

router = Router()
TABS = (Tab(of="garage", key="people", path="/garage/people", words="People and devices", at=6),)
RIGHTS = {Right.OWNER: "sees and changes everything", Right.READER: "sees everything, changes nothing"}
PURPOSES = {
    Purpose.GUEST: "a guest’s link to Tonight",
    Purpose.CALENDAR: "a calendar’s feed",
    Purpose.READS: "a script that reads",
    Purpose.SCRIPT: "a script that reads and notes",
    Purpose.WHEELS: "wheel sensors: notes tyre pressures",
    Purpose.POINT: "a charge point’s password",
}
GIVEN_HERE = tuple(each for each in PURPOSES if each is not Purpose.POINT)
"""A point's password is made where the point is named."""


@router.get("/health", include_in_schema=False)
def health() -> Response:
    """Whether the server answers, for who watches over it."""
    return JSONResponse({"status": "ok"})


@router.get("/manifest.webmanifest", include_in_schema=False)
def manifest() -> Response:
    """What a phone needs to keep it among its programs."""
    icons = [
        {"src": f"{address()}/icon-{size}.png", "sizes": f"{size}x{size}", "type": "image/png", "purpose": "any maskable"}
        for size in (192, 512)
    ]
    told: dict[str, object] = {
        "name": "Frost Tally",
        "short_name": "Frost Tally",
        "id": "/tonight",
        "start_url": "/tonight",
        "scope": "/",
    }
    told |= {"display": "standalone", "background_color": "#f5f7f4", "theme_color": "#182a2c", "icons": icons}
    return JSONResponse(told, media_type="application/manifest+json")


@router.get("/sw.js", include_in_schema=False)
def service_worker() -> Response:
    """What answers without a network; asked for anew each time, and it may see every page."""
    return FileResponse(FOLDER / "sw.js", media_type="text/javascript", headers={"cache-control": "no-cache"})


@router.get("/sign-in", include_in_schema=False)
def sign_in_page(request: Request) -> Response:
    """Who is there?"""
    return _door(request, "sign-in")


@router.post("/sign-in")
def sign_in(request: Request, fields: Posted) -> Response:
    """Sign this browser in by name and pass phrase."""
    return _enter(
        request,
        fields,
        "sign-in",
        lambda access: access.sign_in(fields.get("name", "")[:80], fields.get("phrase", ""), *_from(request, fields)),
    )


@router.get("/pair", include_in_schema=False)
def pair_page(request: Request) -> Response:
    """The words that a computer shows."""
    return _door(request, "pair")


@router.post("/pair")
def pair(request: Request, fields: Posted) -> Response:
    """Sign this browser in by the words."""
    return _enter(request, fields, "pair", lambda access: access.pair(fields.get("code", "")[:120], *_from(request, fields)))


def _door(
    request: Request, how: str, status: int = 200, typed: dict[str, str] | None = None, error: Refusal | None = None
) -> Response:
    if access_of(request) is None:
        return RedirectResponse("/tonight", 303)
    fields = {"code": request.query_params.get("code", "")[:120], "back": request.query_params.get("back", "")} | (typed or {})
    device = "phone" if "Mobi" in request.headers.get("user-agent", "") else "computer"
    answer = render(
        request, "people/door.html", status, bare=True, room="", how=how, name=fields.get("name", "")[:80], code=fields["code"],
        back=_inside(fields["back"]), device=fields.get("device", device)[:40], error=error.message if error else "",
    )  # fmt: skip
    if isinstance(error, TooManyTries):
        answer.headers["retry-after"] = str(error.seconds)
    return answer


def _enter(request: Request, fields: dict[str, str], how: str, secret_of: Callable[[Access], str]) -> Response:
    access = access_of(request)
    if access is None:
        return RedirectResponse("/tonight", 303)
    try:
        secret = secret_of(access)
    except TooManyTries as problem:
        return _door(request, how, 429, fields, problem)
    except Refusal as problem:
        return _door(request, how, 422, fields, problem)
    if (before := access.visitor(request.cookies.get(COOKIE, "")[:80])) is not None and before.device_id is not None:
        access.put_out(device_id=before.device_id)  # a new secret at each sign-in
    return let_in(request, _inside(fields.get("back", "")), secret)


def _from(request: Request, fields: dict[str, str]) -> tuple[str, str]:
    """The address that asks, and what its owner calls the device."""
    name = " ".join(fields.get("device", "").split())
    return request.client.host if request.client else "", name if name.isprintable() and name else "a device"


def _inside(where: str) -> str:
    """A page of ours to go on to."""
    if not where.startswith("/") or where.startswith("//") or "\\" in where or not where.isprintable():
        return "/tonight"
    return "/tonight" if where.startswith(("/sign-", "/pair", "/guest")) else where[:400]


@router.post("/sign-out")
def sign_out(request: Request, fields: Posted) -> Response:
    """Sign this browser out."""
    visitor, access = visitor_of(request), access_of(request)
    if access is not None and visitor is not None and visitor.device_id is not None:
        access.put_out(device_id=visitor.device_id)
    answer = RedirectResponse("/sign-in", 303)
    answer.delete_cookie(COOKIE, httponly=True, samesite="strict")
    forget_visit(answer)
    answer.headers["clear-site-data"] = '"cache", "storage"'
    return answer


@router.get("/guest/{secret}")
def guest(request: Request, secret: str) -> Response:
    """A guest's link: Tonight alone, for as long as it is not taken back."""
    access = access_of(request)
    token = access.token(secret[:80]) if access else None
    if token is None or token.purpose is not Purpose.GUEST:
        return RedirectResponse("/sign-in", 303)
    visitor = visitor_of(request)
    if visitor is not None and visitor.device_id is not None:  # whoever is signed in here stays so
        return RedirectResponse("/tonight", 303)
    return let_in(request, "/tonight", secret[:80])


@router.get("/garage/people")
def people(request: Request) -> Response:
    """Who may come in, and what is signed in."""
    return _page(request)


def _page(request: Request, status: int = 200, **more: object) -> Response:
    access, visitor = access_of(request), visitor_of(request)
    owner = visitor is not None and visitor.right is Right.OWNER
    devices = access.devices() if access and visitor else []
    own = [each for each in devices if owner or each.person == (visitor.name if visitor else "")]
    context: dict[str, object] = {
        "error": "",
        "field": "",
        "typed": {},
        "code": "",
        "qr": "",
        "link": "",
        "ends": None,
        "key": False,
    }
    return render(
        request, "people/room.html", status, room="garage", tab="people", access=access is not None, owner=owner, visitor=visitor,
        people=access.people() if access and owner else (), devices=own, tokens=access.tokens() if access and owner else (),
        zone=snapshot_of(request).now.tzinfo, rights=RIGHTS, purposes=PURPOSES, secure=request.url.scheme == "https", **(context | more),
    )  # fmt: skip


def _changed(
    request: Request, fields: dict[str, str], change: Callable[[Access], object], then: str = "/garage/people"
) -> Response:
    """What a form of the page asks for, or its page again with what was wrong."""
    access = access_of(request)
    if access is None:
        return RedirectResponse("/garage/people", 303)
    try:
        change(access)
    except Refusal as problem:
        typed = {name: value[:80] for name, value in fields.items() if name in ("name", "right", "for_whom")}
        return _page(request, 422, error=problem.message, field=problem.field, typed=typed)
    return RedirectResponse(then, 303)


@router.post("/garage/people/add")
def add(request: Request, fields: Posted) -> Response:
    """Let somebody else sign in."""
    right = Right.OWNER if fields.get("right") == Right.OWNER.value else Right.READER
    return _changed(request, fields, lambda access: access.add(fields.get("name", ""), fields.get("phrase", ""), right))


@router.post("/garage/people/phrase")
def change_phrase(request: Request, fields: Posted) -> Response:
    """Another pass phrase of one's own; all of one's devices sign in anew."""
    visitor = visitor_of(request)
    number = visitor.person_id if visitor and visitor.person_id else 0
    return _changed(
        request, fields, lambda access: access.new_phrase(number, fields.get("old", ""), fields.get("phrase", "")), "/sign-in"
    )


@router.post("/garage/people/remove")
def remove(request: Request, fields: Posted) -> Response:
    """Nobody signs in by a name any more."""
    number = whole_number(fields.get("number"), 0)
    return _changed(request, fields, lambda access: access.remove(number))


@router.post("/garage/people/out")
def put_out(request: Request, fields: Posted) -> Response:
    """Put a device out, or all of one's own but this one."""
    visitor, number = visitor_of(request), whole_number(fields.get("number"))
    who = {"device_id": number} if number is not None else {"person_id": visitor.person_id if visitor else None}
    return _changed(
        request, fields, lambda access: access.put_out(**who, but=visitor.device_id if visitor and number is None else None)
    )


@router.post("/garage/people/pair")
def offer(request: Request, fields: Posted) -> Response:
    """Words and a picture with which a phone signs in as whoever asks."""
    access, visitor = access_of(request), visitor_of(request)
    if access is None or visitor is None or visitor.person_id is None:
        return RedirectResponse("/garage/people", 303)
    try:
        code, ends = access.offer_pairing(visitor.person_id)
    except Refusal as problem:
        return _page(request, 422, error=problem.message)
    return _page(
        request, code=code, ends=ends, qr=_drawn(f"{str(request.base_url).rstrip('/')}/pair?code={code.replace(' ', '+')}")
    )


@router.post("/garage/people/key")
def make_key(request: Request, fields: Posted) -> Response:
    """A link or a key for one purpose: shown once."""
    access, asked = access_of(request), fields.get("purpose", "")
    purpose = Purpose(asked) if asked in GIVEN_HERE else Purpose.GUEST
    if access is None:
        return RedirectResponse("/garage/people", 303)
    try:
        secret = access.make_token(purpose, fields.get("for_whom", ""))
    except Refusal as problem:
        return _page(
            request, 422, error=problem.message, field=problem.field, typed={"for_whom": fields.get("for_whom", "")[:80]}
        )
    base = str(request.base_url).rstrip("/")
    links = {Purpose.GUEST: f"{base}/guest/{secret}", Purpose.CALENDAR: f"{base}/week/departures.ics?key={secret}"}
    link = links.get(purpose, "")
    return _page(request, link=link or secret, qr=_drawn(link) if link else "", key=not link)


@router.post("/garage/people/revoke")
def revoke(request: Request, fields: Posted) -> Response:
    """A link or key lets in no more."""
    number = whole_number(fields.get("number"), 0)
    return _changed(request, fields, lambda access: access.revoke(number))


def _drawn(address: str) -> Markup:
    """An address as a QR code, SVG."""
    out = BytesIO()
    segno.make(address, error="m").save(
        out, kind="svg", xmldecl=False, svgns=True, scale=4, border=4, dark="#10201c", light="#ffffff"
    )
    return Markup(out.getvalue().decode())  # noqa: S704 - drawn from an address of ours
