"""What a 12 V battery is made of"""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("small_battery") as table:
        table.add_column(sa.Column("kind", sa.String(), nullable=False, server_default="unknown"))
