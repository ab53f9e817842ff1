"""Who decided"""

import sqlalchemy as sa
from alembic import op

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("undo") as table:
        table.add_column(sa.Column("who", sa.String(), nullable=False, server_default=""))
