"""Each evening's plan can be kept by itself: the owner says so once"""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("habit") as table:
        table.add_column(sa.Column("keeps", sa.Boolean(), nullable=False, server_default=sa.false()))
