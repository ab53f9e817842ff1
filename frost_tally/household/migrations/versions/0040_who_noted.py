"""Where letters go, who noted what, and which script's key a decision was asked by"""

import sqlalchemy as sa
from alembic import op

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None

FACTS = ("drive", "charge", "reading", "capacity_test", "event", "leaving")


def upgrade() -> None:
    for name in FACTS:
        with op.batch_alter_table(name) as table:
            table.add_column(sa.Column("noted_by", sa.String(), nullable=False, server_default=""))
    with op.batch_alter_table("undo") as table:
        table.add_column(sa.Column("request_key", sa.String(), nullable=True))
        table.add_column(sa.Column("request_digest", sa.String(), nullable=False, server_default=""))
    with op.batch_alter_table("person") as table:
        table.add_column(sa.Column("email", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("mailed", sa.Boolean(), nullable=False, server_default=sa.false()))
