"""Items of the season and ended calibrations by key; they were known by their English titles"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

TITLES = {
    "12 V battery looked at": "twelve_volt", "washer mix for the winter": "washer", "wiper blades looked at": "wiper_blades",
    "emergency opening known": "emergency", "charge flap cleaned, dried and treated": "flap_seal", "door seals greased": "door_seals",
    "mirrors and sensors cleaned": "sensors", "brush, scraper, blanket and gloves in the car": "kit", "needless load out": "load_out",
    "roof carrier off": "carrier_off", "wheel covers on": "wheel_covers", "winter tyres on": "tyres",
    "tyre pressures set cold": "pressures",
    "winter departure times set": "departures", "limit looked at for the winter day": "limit", "wipers up": "wipers_up",
    "mirrors folded out": "mirrors_out", "screen covered": "screen_cover", "cable plugged in": "cable_in",
}  # fmt: skip
"""As they were called until now."""


def upgrade() -> None:
    op.add_column("event", sa.Column("item", sa.String(), nullable=False, server_default=""))
    for title, key in TITLES.items():
        keyed = sa.text("UPDATE event SET item = :key WHERE kind = 'season' AND note = :title").bindparams(key=key, title=title)
        op.execute(keyed)
    op.execute("UPDATE event SET kind = 'calibrated', note = '' WHERE kind = 'other' AND note = 'display calibrated'")
