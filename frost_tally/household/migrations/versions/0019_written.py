"""How often each table was written: what hangs on it can tell whether it still holds"""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "written",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("times", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )
