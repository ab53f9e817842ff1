"""What pack heating on the way takes, learnt from trips with their kWh"""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("learnt") as table:
        table.add_column(sa.Column("pack_heat", sa.Double(), nullable=False, server_default="1"))
        table.add_column(sa.Column("pack_heat_days", sa.Integer(), nullable=False, server_default="0"))
