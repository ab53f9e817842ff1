"""Departures that repeat or happen once, and what became of them"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "departure",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("uid", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("at", sa.Time(), nullable=False),
        sa.Column("days", sa.String(), nullable=False),
        sa.Column("on_date", sa.Date(), nullable=True),
        sa.Column("region", sa.String(), nullable=False),
        sa.Column("warm_up", sa.String(), nullable=False),
        sa.Column("km", sa.Double(), nullable=False),
        sa.Column("since", sa.Date(), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"),
    )
    op.create_table(
        "leaving",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("due_at", sa.DateTime(), nullable=False),
        sa.Column("outcome", sa.String(), nullable=False),
        sa.Column("kwh", sa.Double(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
    )
    op.create_index("ix_leaving_car_due", "leaving", ["car_id", "due_at"], unique=True)
