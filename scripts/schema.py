"""Renew the published schema of a document of everything, from the tables."""

import json

from frost_tally.formats.document import SCHEMA
from frost_tally.household.everything import schema

if __name__ == "__main__":
    SCHEMA.write_text(json.dumps(schema()) + "\n")
