"""Levers: one mechanism for every room that computes while somebody pulls.

A room shows its levers as texts in the owner's units. What comes back unlike the text that was shown is pulled; all else stays
exactly as it was, so that a page which is sent back untouched changes nothing. Why: docs/decisions/0024 and docs/decisions/0031.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Generic, TypeVar

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup
from pydantic import BaseModel
from starlette.datastructures import ImmutableMultiDict

from ..core.errors import Refusal
from ..services.shared.derived import LONG_S, NotYet, made_of
from ..services.shared.home import Household, Snapshot
from .drawing.both import SHAPES
from .forms import NONE, carried, checked, shown, views
from .page import render, shown_in, units_of, whole_number
from .reading import household_of, snapshot_of
from .units import Units

Result = TypeVar("Result")
Inputs = TypeVar("Inputs")
SHORT_S = 0.8


class Overrides:
    """Called with a room's default inputs: gives them back with what was changed, and keeps what could not be."""

    def __init__(self, room: "LeverRoom[Any]", texts: Mapping[str, str], units: Units, shown_in: Units | None = None) -> None:
        self.room, self.form, self.units, self.shown_in = room, room.form, units, shown_in or units
        form = room.form
        self.typed = {name: texts[name].strip() for name in form.model_fields if texts.get(name, "").strip()}
        self.defaults: dict[str, str] = {}
        self.values: dict[str, Any] = {}
        self.unread: dict[str, str] = {}
        self.refused: dict[str, str] = {}

    def __call__(self, defaults: Inputs) -> Inputs:
        flat = self.room.flat(defaults)
        self.defaults = shown(flat, self.form, self.units)
        if self.shown_in != self.units:  # an address of somebody with other units
            texts = carried(self.form, self.typed, (self.shown_in, self.units), (flat, flat))
            self.typed = {name: texts[name] for name in self.typed}
            self.shown_in = self.units
        differ = {name: text for name, text in self.typed.items() if text != self.defaults[name] and name not in self.refused}
        self.values, self.unread = checked(self.form, differ, self.units)
        overridden: Inputs = self.room.overridden(defaults, self.values)
        return overridden

    @property
    def errors(self) -> dict[str, str]:
        """A message for each lever that will not do."""
        return {**self.unread, **self.refused}

    @property
    def texts(self) -> dict[str, str]:
        """What the fields show: what was typed, else the default."""
        return {**self.defaults, **self.typed}

    @property
    def names(self) -> tuple[str, ...]:
        """The inputs that count and are not the default."""
        return tuple(self.values)


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Who asks, in which state and for what; `wait_s` is how long they wait for what takes a moment to work out."""

    household: Household
    snapshot: Snapshot
    units: Units
    car: int | None
    texts: Mapping[str, str]
    wait_s: float = LONG_S


@dataclass(frozen=True)
class Made(Generic[Result]):
    """A room's result for somebody's levers."""

    asked: Asked
    overrides: Overrides
    result: Result


@dataclass(frozen=True, kw_only=True)
class LeverRoom(Generic[Result]):
    """A room that is computed again with every change of its inputs: `GET path` is the page, `GET path/live` its parts that change.

    `templates` is the folder with room.html and a template for each of its `parts` that change: a `lead` above what keeps it, `live`, a
    `tally` that a phone shows under the inputs, `why`. `compute` asks the service, which calls the overrides with its default
    inputs. `view` makes the result into texts and pictures, `context` what else the page needs. `fields` maps names that the core
    blames to this form's fields. `wait` is the title and the words of a page for what takes a moment. `flat` and `overridden` lead from
    the service’s inputs to values by field and back, where these are not the fields themselves.
    """

    name: str
    path: str
    templates: str
    form: type[BaseModel]
    compute: Callable[[Asked, Callable[[Any], Any]], Result]
    view: Callable[[Result, Units], object]
    context: Callable[[Made[Result], Request], Mapping[str, object]] = lambda made, request: {}
    fields: Mapping[str, str] = field(default_factory=dict)
    wait: tuple[str, str] | None = None
    parts: tuple[str, ...] = ("live", "why")
    flat: Callable[[Any], Mapping[str, Any]] = vars
    overridden: Callable[[Any, Mapping[str, Any]], Any] = lambda defaults, values: replace(defaults, **values)

    def mount(self, router: APIRouter) -> None:
        """Add both routes."""
        router.add_api_route(self.path, self.room, methods=["GET"])
        router.add_api_route(f"{self.path}/live", self.live, methods=["GET"])

    def room(self, request: Request) -> Response:
        """The room, with any levers in the address pulled."""
        try:
            made = self.made(request, request.query_params, LONG_S if "now" in request.query_params else 0.0)
        except NotYet:
            title, words = self.wait or ("", "")
            again = request.url.include_query_params(now=1)
            context: dict[str, Any] = {"title": title, "words": words, "tab": self.path.rsplit("/", 1)[-1]}
            context |= {"query": f"{again.path}?{again.query}", "ask": f"{self.path}/live?{again.query}"}
            return render(request, "wait.html", room=self.name, **context)
        return self.page(request, made)

    def live(self, request: Request) -> Response:
        """The parts that change, with the messages for levers that will not do: all others count."""
        try:
            made = self.made(request, request.query_params, SHORT_S)
        except NotYet:
            return Response(status_code=202, headers={"cache-control": "no-store"})
        status, shape = 422 if made.overrides.errors else 200, request.query_params.get("shape", "")
        return render(request, "lever_parts.html", status, **self._parts(made, request, shape if shape in SHAPES else ""))

    def made(self, request: Request, texts: Mapping[str, str], wait_s: float = LONG_S) -> Made[Result]:
        """Compute with every lever that will do; the core's refusal drops the one that it blames, and the rest is kept."""
        texts = {**texts, **_picks(self.form, texts), **_pulled(self.form, texts)}
        household, snapshot, units, car = (
            household_of(request),
            snapshot_of(request),
            units_of(request),
            whole_number(texts.get("car")),
        )
        asked = Asked(household=household, snapshot=snapshot, units=units, car=car, texts=texts, wait_s=wait_s)
        overrides = Overrides(self, texts, units, shown_in(request, texts, units))
        while True:
            try:
                return Made(asked, overrides, self.compute(asked, overrides))
            except Refusal as refusal:
                if not overrides.names:
                    raise
                self._drop(asked, overrides, refusal)

    def _drop(self, asked: Asked, overrides: Overrides, refusal: Refusal) -> None:
        """Leave out the lever that a refusal blames; one without a name is the first whose absence helps, else all of them."""
        pulled, blamed = overrides.names, self.fields.get(refusal.field, refusal.field)
        if blamed not in pulled:
            blamed = next((name for name in pulled if self._helps(asked, overrides, name)), "")
        for name in [blamed] if blamed else pulled:
            overrides.refused[name] = asked.units.refusal(refusal)

    def _helps(self, asked: Asked, overrides: Overrides, name: str) -> bool:
        trial = Overrides(self, {each: text for each, text in overrides.typed.items() if each != name}, overrides.units)
        trial.refused = dict(overrides.refused)
        try:
            self.compute(asked, trial)
        except Refusal:
            return False
        return True

    def page(self, request: Request, made: Made[Result], status: int | None = None, **more: object) -> Response:
        """The whole page; 422 when a lever will not do, unless a status is given."""
        status = status or (422 if made.overrides.errors else 200)
        context = {**self._parts(made, request), **self.context(made, request), **more}
        return render(request, f"{self.templates}/room.html", status, room=self.name, **context)

    def _parts(self, made: Made[Result], request: Request, shape: str = "") -> dict[str, object]:
        texts = views(self.form, made.overrides.texts, made.overrides.errors, made.asked.units)
        fields = {name: replace(each, usual=made.overrides.defaults[name]) for name, each in texts.items()}
        result, units = made.result, made.asked.units
        templates = request.app.state.templates
        view = made_of(result, ("view", self.path, units), lambda: self.view(result, units))

        def drawn(name: str) -> Markup:
            text = templates.get_template(f"{self.templates}/{name}.html").render(view=view, shape=shape)
            return Markup(text)  # noqa: S704 - our own template, which escapes

        parts = made_of(result, ("drawn", self.path, units, shape), lambda: {name: drawn(name) for name in self.parts})
        return {"view": view, "drawn": parts, "overrides": made.overrides, "fields": fields, "lever_room": self}


def _pulled(form: type[BaseModel], texts: Mapping[str, str]) -> dict[str, str]:
    """The lever that a button pulls on top of all that were typed: its name and what it is set to."""
    name, _, text = texts.get("pull", "").partition("=")
    return {name: text} if name in form.model_fields else {}


def _picks(form: type[BaseModel], texts: Mapping[str, str]) -> dict[str, str]:
    """What was ticked of several things, as one text; a name that came without any tick says so."""
    if not isinstance(texts, ImmutableMultiDict):
        return {}
    names = [name for name, info in form.model_fields.items() if (info.json_schema_extra or {}).get("kind") == "picks"]  # type: ignore[union-attr]
    return {
        name: ",".join(sorted(filter(None, texts.getlist(name)), key=lambda each: (len(each), each))) or NONE
        for name in names
        if name in texts
    }
