"""How a car was warmed and loaded until its habit was changed"""

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("habit") as table:
        table.add_column(sa.Column("before", sa.JSON(), nullable=False, server_default="[]"))
