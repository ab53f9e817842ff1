"""All configuration, from the environment (`FROST_TALLY_…`); the one place where it is declared. The guide's table is made from it."""

from ipaddress import ip_address
from pathlib import Path
from typing import Literal, Self

from platformdirs import user_data_path
from pydantic import Field, IPvAnyNetwork, SecretStr, ValidationError, field_validator, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict, SettingsError

from .formats import values

PREFIX = "FROST_TALLY_"


class Settings(BaseSettings):
    """Where the data lies and how the server is reached."""

    model_config = SettingsConfigDict(env_prefix=PREFIX)

    data_dir: Path = Field(
        default=user_data_path("frost-tally", appauthor=False), description="the folder of everything the app writes"
    )
    host: str = Field(
        default="127.0.0.1", description="the address it listens on; beyond this machine, such as on 0.0.0.0, people sign in"
    )
    port: int = Field(default=8642, ge=1, le=65535, description="the port it listens on")
    allowed_hosts: tuple[str, ...] = Field(
        default=("127.0.0.1", "localhost"), min_length=1, description="names a request may use, as a JSON list"
    )
    tls_certificate: Path | None = Field(default=None, description="a certificate (PEM) to serve by TLS; its key in `tls_key`")
    tls_key: Path | None = Field(default=None, description="the private key (PEM) of the certificate")
    trusted_proxies: tuple[IPvAnyNetwork, ...] = Field(
        default=(),
        description="addresses of reverse proxies whose forwarded headers are believed, as a JSON list; people sign in then",
    )
    max_body_bytes: int = Field(default=256_000, ge=10_000, le=100_000_000, description="the largest request")
    max_file_bytes: int = Field(default=24_000_000, ge=10_000, le=1_000_000_000, description="the largest file to import")
    api_per_minute: int = Field(default=120, ge=1, le=100_000, description="how often each script may ask in a minute")
    smtp_host: str = Field(default="", description="the mail server that sends letters; none without")
    smtp_port: int = Field(default=587, ge=1, le=65535, description="its port")
    smtp_security: Literal["starttls", "tls", "none"] = Field(
        default="starttls", description="how the way to it is kept secret: `starttls`, `tls`, or `none` (on this machine alone)"
    )
    smtp_user: str = Field(default="", description="who signs in there; nobody without")
    smtp_password: SecretStr = Field(default=SecretStr(""), description="with which password")
    mail_from: str = Field(default="frost-tally@localhost", description="the address that letters come from")
    log_level: Literal["DEBUG", "INFO", "WARNING", "ERROR"] = Field(
        default="INFO", description="of the structured log: one JSON object a line"
    )
    demo: bool = Field(default=False, description="use the made-up household")
    threads: int = Field(default=4, ge=1, le=64, description="how many pages are computed at the same time")
    debug: bool = Field(default=False, description="show the trace of what went wrong, not only the sentence")

    @field_validator("data_dir", mode="before")
    @classmethod
    def _some_folder(cls, value: object) -> object:
        if not str(value).strip():
            raise ValueError("name a folder, or leave the setting out")
        return value

    @field_validator("host")
    @classmethod
    def _here(cls, value: str) -> str:
        if value != "localhost" and not _is_address(value):
            raise ValueError("it is an address, such as 127.0.0.1 or 0.0.0.0")
        return "127.0.0.1" if value == "localhost" else value

    @field_validator("allowed_hosts")
    @classmethod
    def _named(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        if any("*" in each or not each.strip() for each in value):
            raise ValueError("name each of them, for a pattern lets every other site in")
        return value

    @field_validator("mail_from")
    @classmethod
    def _sender(cls, value: str) -> str:
        return values.email(value)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.tls_certificate is None) != (self.tls_key is None):
            raise ValueError("a certificate and its key go together: set TLS_CERTIFICATE and TLS_KEY")
        if self.smtp_security == "none" and self.smtp_host not in ("", "localhost") and not _is_loopback(self.smtp_host):
            raise ValueError("letters leave this machine by TLS alone: set SMTP_SECURITY to starttls or tls")
        return self

    @property
    def names(self) -> tuple[str, ...]:
        """The names and addresses that a request may use."""
        own = self.host if not ip_address(self.host).is_unspecified else ""
        return tuple(dict.fromkeys((*self.allowed_hosts, *((f"[{own}]" if ":" in own else own,) if own else ()))))

    @property
    def signs_in(self) -> bool:
        """Whether others than who sits at this machine can reach it, so that people sign in."""
        return not ip_address(self.host).is_loopback or bool(self.trusted_proxies)

    @property
    def access(self) -> Path:
        """The file of who may sign in."""
        return self.data_dir / ("demo-access.db" if self.demo else "access.db")

    @property
    def database(self) -> Path:
        """The one SQLite file."""
        return self.data_dir / ("demo.db" if self.demo else "household.db")

    @property
    def backups(self) -> Path:
        """Where copies go before each migration and on request."""
        return self.data_dir / "backups"


def _is_address(value: str) -> bool:
    try:
        ip_address(value)
    except ValueError:
        return False
    return True


def _is_loopback(value: str) -> bool:
    return _is_address(value) and ip_address(value).is_loopback


def complaint(problem: ValidationError | SettingsError) -> str:
    """What is wrong with the configuration, a sentence for each variable."""
    if isinstance(problem, SettingsError):
        return f'A setting cannot be read: {problem}. Lists are JSON, such as ["127.0.0.1"].'
    return " ".join(
        (f"{PREFIX}{str(each['loc'][0]).upper()} = {each['input']!r} will not do: " if each["loc"] else "")
        + f"{each['msg'].removeprefix('Value error, ')}."
        for each in problem.errors()
    )
