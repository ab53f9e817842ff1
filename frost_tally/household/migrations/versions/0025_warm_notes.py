"""How long an owner's car took to warm its pack"""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("car") as table:
        table.add_column(sa.Column("warm_notes", sa.JSON(), nullable=False, server_default="[]"))
