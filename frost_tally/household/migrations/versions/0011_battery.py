"""The battery: a car's first day and its warranty, guides under way, a test that the car ended early"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("capacity_test", sa.Column("stopped", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_table(
        "battery",
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("new_on", sa.Date(), nullable=True),
        *(sa.Column(name, sa.Float(), nullable=True) for name in ("warranty_soh", "warranty_years", "warranty_km")),
    )
    op.create_table(
        "guide",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("begun_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("step", sa.Integer(), nullable=False),
        sa.Column("said", sa.JSON(), nullable=False),
    )
