"""The health of a battery that somebody typed, and when"""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("car") as table:
        table.add_column(sa.Column("soh_told", sa.Double(), nullable=True))
        table.add_column(sa.Column("soh_told_at", sa.DateTime(), nullable=True))
