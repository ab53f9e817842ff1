"""Dates in the order of whoever looks"""

import sqlalchemy as sa
from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("person") as table:
        table.add_column(sa.Column("date_order", sa.String(), nullable=False, server_default="dmy"))
