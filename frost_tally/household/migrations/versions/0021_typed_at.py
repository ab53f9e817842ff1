"""When the outside temperatures were typed (what nobody knows the time of no longer counts); on which nights the cable goes in"""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("present", table_args=(sa.CheckConstraint("id = 1"),)) as table:
        table.add_column(sa.Column("typed_at", sa.DateTime(), nullable=True))
    with op.batch_alter_table("habit") as table:
        table.add_column(sa.Column("plugs", sa.String(), nullable=False, server_default="every"))
