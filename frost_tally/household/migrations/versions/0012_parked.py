"""Parked: the 12 V battery of a car, and who did an item of the season"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("event", sa.Column("who", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "small_battery",
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("fitted_on", sa.Date(), nullable=True),
        sa.Column("tops_up", sa.String(), nullable=False),
        sa.Column("boot", sa.String(), nullable=False),
        sa.Column("tank_l", sa.Float(), nullable=True),
    )
