"""People have units of weight and a way of writing; departures know when they were entered, and may be driven as a kept day"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name, usual in (("weight_unit", "kg"), ("hours", "24"), ("week_start", "mon"), ("decimal_mark", ".")):
        op.add_column("person", sa.Column(name, sa.String(), nullable=False, server_default=usual))
    with op.batch_alter_table("departure") as table:
        table.add_column(sa.Column("entered_at", sa.DateTime(), nullable=True))
        table.add_column(sa.Column("day_id", sa.Integer(), sa.ForeignKey("usual_day.id", name="departure_day"), nullable=True))
