"""A car's own factors, learnt from its log; tyre readings by wheel; days kept to start from"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("car") as table:
        for name in ("learnt_base", "learnt_heat", "learnt_cold"):
            table.add_column(sa.Column(name, sa.Double(), nullable=False, server_default="1"))
        for name in ("learnt_before", "learnt_after"):
            table.add_column(sa.Column(name, sa.Double(), nullable=False, server_default="0"))
        table.add_column(sa.Column("learnt_days", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "tyre",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("read_at", sa.DateTime(), nullable=False),
        sa.Column("wheel", sa.String(), nullable=False),
        sa.Column("kpa", sa.Double(), nullable=False),
        sa.Column("tyre_c", sa.Double(), nullable=False),
        sa.Column("warm", sa.Boolean(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
    )
    op.create_table(
        "usual_day",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("levers", sa.JSON(), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"),
    )
