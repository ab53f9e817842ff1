"""A car's own factors, learnt from its log"""

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
