"""Settings by environment (`FROST_TALLY_…`) and flags; documented in docs/guide/settings.md."""

from pathlib import Path

from platformdirs import user_data_path
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where the data lies and how the server is reached.

    `data_dir`: everything we write; `host`, `port`: where to listen; `allowed_hosts`: names a request may use;
    `max_body_bytes`: the largest request; `max_file_bytes`: the largest file to import;
    `log_level`: of the structured log; `demo`: the made-up household;
    `threads`: how many pages are computed at the same time.
    """

    model_config = SettingsConfigDict(env_prefix="FROST_TALLY_")

    data_dir: Path = user_data_path("frost-tally", appauthor=False)
    host: str = "127.0.0.1"
    port: int = 8642
    allowed_hosts: tuple[str, ...] = ("127.0.0.1", "localhost")
    max_body_bytes: int = 256_000
    max_file_bytes: int = 24_000_000
    log_level: str = "INFO"
    demo: bool = False
    threads: int = 4

    @property
    def database(self) -> Path:
        """The one SQLite file."""
        return self.data_dir / ("demo.db" if self.demo else "household.db")

    @property
    def backups(self) -> Path:
        """Where copies go before each migration and on request."""
        return self.data_dir / "backups"
