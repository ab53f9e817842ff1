"""A tariff whose prices nobody knew says so until somebody enters them"""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("tariff") as table:
        table.add_column(sa.Column("typical", sa.Boolean(), nullable=False, server_default=sa.false()))
