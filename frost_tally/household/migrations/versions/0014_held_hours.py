"""Hours that the house needs, which of equal hours, what the lights of a cable mean, and the checks when a charge starts"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("held_from", "held_until"):
        op.add_column("outlet", sa.Column(name, sa.Time(), nullable=False, server_default="00:00:00.000000"))
    op.add_column("outlet", sa.Column("held_a", sa.Double(), nullable=False, server_default="0"))
    op.add_column("outlet", sa.Column("lights", sa.String(), nullable=False, server_default=""))
    op.add_column("habit", sa.Column("school", sa.String(), nullable=False, server_default="late"))
    op.create_table(
        "start_check",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("amps", sa.Double(), nullable=True),
        sa.Column("troubles", sa.JSON(), nullable=False),
    )
