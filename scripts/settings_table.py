"""Write the guide's table of settings from where they are declared: `python -m scripts.settings_table`."""

import json
from pathlib import Path

from pydantic import SecretStr

from frost_tally.settings import Settings

GUIDE = Path(__file__).resolve().parents[1] / "docs" / "guide" / "settings.md"
HEAD = "| variable | default | meaning |\n|---|---|---|\n"


def table() -> str:
    """The table in Markdown."""
    prefix, lines = Settings.model_config.get("env_prefix", ""), []
    for name, field in Settings.model_fields.items():
        usual = "the platform's user data folder" if isinstance(field.default, Path) else f"`{_as_text(field.default)}`"
        lines.append(f"| `{prefix}{name.upper()}` | {usual} | {field.description} |\n")
    return HEAD + "".join(lines)


def _as_text(value: object) -> str:
    plain = value.get_secret_value() if isinstance(value, SecretStr) else value
    return plain if isinstance(plain, str) and plain else json.dumps(plain)


def main() -> None:
    """Put the table in the place of the old one."""
    before, old = GUIDE.read_text().split(HEAD)
    after = old[old.index("\n\n") :] if "\n\n" in old else "\n"
    GUIDE.write_text(before + table().rstrip("\n") + after)


if __name__ == "__main__":
    main()
