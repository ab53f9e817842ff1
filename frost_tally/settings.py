"""All configuration, from the environment (`FROST_TALLY_…`); the one place where it is declared. The guide's table is made from it."""

from pathlib import Path

from platformdirs import user_data_path
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where the data lies and how the server is reached."""

    model_config = SettingsConfigDict(env_prefix="FROST_TALLY_")

    data_dir: Path = Field(
        default=user_data_path("frost-tally", appauthor=False), description="the folder of everything the app writes"
    )
    host: str = Field(default="127.0.0.1", description="where it listens")
    port: int = Field(default=8642, description="the port it listens on")
    allowed_hosts: tuple[str, ...] = Field(
        default=("127.0.0.1", "localhost"), description="names a request may use, as a JSON list"
    )
    max_body_bytes: int = Field(default=256_000, description="the largest request")
    max_file_bytes: int = Field(default=24_000_000, description="the largest file to import")
    log_level: str = Field(default="INFO", description="of the structured log: one JSON object a line")
    demo: bool = Field(default=False, description="use the made-up household")
    threads: int = Field(default=4, description="how many pages are computed at the same time")

    @property
    def database(self) -> Path:
        """The one SQLite file."""
        return self.data_dir / ("demo.db" if self.demo else "household.db")

    @property
    def backups(self) -> Path:
        """Where copies go before each migration and on request."""
        return self.data_dir / "backups"
