"""Departures that the car stays away on for nights, and where"""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("departure") as table:
        table.add_column(sa.Column("nights", sa.Integer(), nullable=False, server_default="0"))
        table.add_column(sa.Column("place_id", sa.Integer(), nullable=True))
        table.create_foreign_key("departure_place", "place", ["place_id"], ["id"])
