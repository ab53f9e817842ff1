"""Charge points: what stands at an outlet, what it reported, what the runner decided"""

import sqlalchemy as sa
from alembic import op

revision = "0042"
down_revision = "0041"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("outlet", sa.Column("point", sa.String(), nullable=False, server_default=""))
    op.add_column("habit", sa.Column("tag", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "point_report",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("outlet_id", sa.Integer(), sa.ForeignKey("outlet.id", ondelete="CASCADE"), nullable=False),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE")),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("online", sa.Boolean(), nullable=False),
        sa.Column("kw", sa.Double(), nullable=False),
        sa.Column("soc", sa.Double()),
        sa.Column("added", sa.Double(), nullable=False),
        sa.Column("level", sa.Double()),
        sa.Column("told", sa.JSON(), nullable=False),
    )
    op.create_index("ix_point_report_car", "point_report", ["car_id", "at"])
    op.create_index("ix_point_report_outlet", "point_report", ["outlet_id", "at"])
    op.create_table(
        "night_line",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("outlet_id", sa.Integer(), sa.ForeignKey("outlet.id", ondelete="CASCADE"), nullable=False),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False),
        sa.Column("departure", sa.DateTime(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("values", sa.JSON(), nullable=False),
    )
    op.create_index("ix_night_line_car", "night_line", ["car_id", "departure"])
