"""One page from a template."""

from collections.abc import Mapping
from typing import cast, overload

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from markupsafe import Markup
from pydantic import BaseModel

from ..access.door import Right
from ..formats import values
from ..formats.writers import Written
from ..services.shared.home import Stamp, undoable
from .door import visitor_of
from .forms import carried
from .guard import COOKIE, Tokens
from .locale_defaults import LocaleDefaults, locale_defaults_of
from .reading import snapshot_of
from .units import Units, units_for, units_from

PERSON_COOKIE = "frost_tally_person"
ZONE_COOKIE = "frost_tally_zone"
"""The clock that a browser says it has, before anybody chose units."""

SEAL = Markup(
    '<input type="hidden" name="token" value="{token}"><input type="hidden" name="revision" value="{revision}">'
    '<input type="hidden" name="opened" value="{opened}"><input type="hidden" name="shown_in" value="{shown_in}">'
)
"""What every form carries: its page's token, the state of which store it was made from, when, and in which units it shows its numbers."""


def render(request: Request, template: str, status: int = 200, bare: object = False, **context: object) -> Response:
    """A page from a template, with the visit's cookie and token; a `bare` one asks nothing of the store."""
    tokens: Tokens = request.app.state.tokens
    visit, visitor = tokens.visit(request), visitor_of(request)
    done = 0 if bare else stamp(request.query_params.get("undo"), 0)
    token, revision = tokens.token(visit), 0 if bare else _revision(request, status)
    context = {"units": None if bare else units_of(request)} | context
    opened, shown_in = ("", "") if bare else (snapshot_of(request).now.isoformat(), cast(Units, context["units"]).code)
    page = request.app.state.templates.get_template(template).render(
        request=request,
        token=token,
        seal=SEAL.format(token=token, revision=revision, opened=opened, shown_in=shown_in),
        settings=request.app.state.settings,
        guest=visitor is not None and visitor.right is Right.GUEST,
        looks=visitor is not None and visitor.right is not Right.OWNER,
        done=done,
        aside=0 if bare else snapshot_of(request).home.aside,
        done_words=undoable(snapshot_of(request), done) if done else "",
        here=_here(request),
        revision=revision,
        **context,
    )
    response = HTMLResponse(page, status, headers={"cache-control": "no-store"})
    if request.cookies.get(COOKIE) != visit:
        response.set_cookie(COOKIE, visit, httponly=True, samesite="strict", secure=request.url.scheme == "https")
    return response


def _revision(request: Request, status: int) -> str | int:
    """What the next change is made on: today's, or, on a page that only asks to mend a field, what it was made on before."""
    asked: str | None = getattr(request.state, "fields", {}).get("revision")
    return asked if asked is not None and status == 422 else snapshot_of(request).revision


def save(file: Written) -> Response:
    """A file to save."""
    headers = {"content-disposition": f'attachment; filename="{file.name}"', "cache-control": "no-store"}
    return Response(file.content, media_type=file.media_type, headers=headers)


def _here(request: Request) -> str:
    """The address of this page, without what was done before it."""
    url = request.url.remove_query_params("undo")
    return f"{url.path}?{url.query}" if url.query else url.path


@overload
def whole_number(raw: str | None) -> int | None: ...
@overload
def whole_number(raw: str | None, otherwise: int) -> int: ...
def whole_number(raw: str | None, otherwise: int | None = None) -> int | None:
    """A number from an address or a hidden field; `otherwise` for anything that is not one of nine digits at most."""
    try:
        return values.whole(raw or "")
    except ValueError:
        return otherwise


def stamp(raw: str | None, otherwise: int) -> Stamp:
    """A store's number from an address or a hidden field, such as 17.5e0c9a1b; `otherwise` for anything that is none."""
    number, _, store = (raw or "").partition(".")
    return Stamp(whole_number(number, otherwise), store)


def seen(fields: Mapping[str, str]) -> Stamp:
    """The revision that a posted page was made from; one that never was when it does not say."""
    return stamp(fields.get("revision"), -1)


def units_of(request: Request) -> Units:
    """The units of whoever looks: the person chosen in this browser, else the first; before anybody chose, of the browser's language.

    What a form brings is read in the units that its page was shown in.
    """
    who = snapshot_of(request).home.person(whole_number(request.cookies.get(PERSON_COOKIE)))
    own = units_for(who) if who.id else locale_defaults(request).units
    return shown_in(request, getattr(request.state, "fields", {}), own)


def shown_in(request: Request, told: Mapping[str, str], own: Units) -> Units:
    """The units that a form or an address says its numbers are in; one's own where it does not say."""
    rates = {each.currency: each.per_contract for each in snapshot_of(request).home.people}
    return units_from(told.get("shown_in", ""), own, rates)


def texts_of(request: Request, model: type[BaseModel], usual: Mapping[str, object]) -> dict[str, str]:
    """The texts of a form from an address, in the units of whoever looks: what it says, which may be in another's, else what is usual."""
    units, told = units_of(request), dict(request.query_params)
    return carried(model, told, (shown_in(request, told, units), units), (usual, usual))


def locale_defaults(request: Request) -> LocaleDefaults:
    """What is usual where this browser's language, or else its clock, is at home."""
    return locale_defaults_of(request.headers.get("accept-language", ""), request.cookies.get(ZONE_COOKIE, ""))
