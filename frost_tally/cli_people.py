"""The command line's people: who may sign in, and a certificate for the home's name."""

import typer

from .access.certificate import make_certificate
from .access.door import Access, Right
from .cli_out import out
from .cli_shared import settings_of
from .core.errors import Refusal


def _access(use_demo: bool) -> Access:
    return Access(settings_of(use_demo).access)


def _number(access: Access, name: str) -> int:
    found = next((each.id for each in access.people() if each.name.casefold() == name.casefold()), None)
    if found is None:
        raise Refusal(f"Nobody signs in as {name}: `frost-tally person list` says who does.")
    return found


def add(name: str, reader: bool, use_demo: bool) -> None:
    """Let somebody sign in; asks for a pass phrase."""
    phrase = typer.prompt("Pass phrase", hide_input=True, confirmation_prompt=True)
    _access(use_demo).add(name, phrase, Right.READER if reader else Right.OWNER)
    out.print(f"{name} may sign in.", markup=False)


def tell(use_demo: bool) -> None:
    """Who may sign in."""
    for each in _access(use_demo).people():
        out.print(f"{each.name}: {each.right.value}", markup=False)


def another_phrase(name: str, use_demo: bool) -> None:
    """Another pass phrase for somebody, who signs in anew everywhere."""
    access = _access(use_demo)
    number = _number(access, name)
    access.change_phrase(number, typer.prompt("Pass phrase", hide_input=True, confirmation_prompt=True))
    out.print(f"{name} signs in with it from now on.", markup=False)


def remove(name: str, use_demo: bool) -> None:
    """Nobody signs in by this name any more."""
    access = _access(use_demo)
    access.remove(_number(access, name))
    out.print(f"Nobody signs in as {name} any more.", markup=False)


def certificate(names: list[str], use_demo: bool) -> None:
    """Make a certificate for the home's name, and say how a phone comes to trust it."""
    settings = settings_of(use_demo)
    files = make_certificate(settings.data_dir / "certificates", tuple(names))
    out.print(
        f"Serve by it:\n  FROST_TALLY_TLS_CERTIFICATE={files['server.pem']}\n  FROST_TALLY_TLS_KEY={files['server.key']}\n\n"
        f"A phone trusts it once it has {files['home-authority.pem']}: bring that file to the phone by cable or in a message to yourself, "
        "open it there, and let it be installed as an authority (in the phone’s settings: certificates; some phones ask a second time, "
        "under trust settings). It can vouch for this home’s names alone. Keep home-authority.key to yourself: who has it can pass for "
        "this home. The certificate holds 397 days; this command makes the next, which phones trust without being "
        "asked again, unless it is for another name.",
        markup=False, highlight=False, soft_wrap=True,
    )  # fmt: skip
