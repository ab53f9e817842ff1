"""What people were reminded of"""

import sqlalchemy as sa
from alembic import op

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "reminder",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("departure", sa.DateTime(), nullable=False),
        sa.Column("told_at", sa.DateTime(), nullable=False),
        sa.Column("problem", sa.String(), nullable=False, server_default=""),
        sa.UniqueConstraint("car_id", "kind", "departure"),
    )
