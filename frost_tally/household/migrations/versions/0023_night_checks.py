"""Whether a night charged, as a level showed or as the owner told"""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "night_check",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=False),
        sa.Column("noted_at", sa.DateTime(), nullable=False),
        *(sa.Column(name, sa.Boolean(), nullable=False) for name in ("kept", "charged", "told")),
    )
    op.create_index("ix_night_check_car_id", "night_check", ["car_id"])
