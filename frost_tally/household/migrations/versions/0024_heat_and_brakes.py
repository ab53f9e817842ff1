"""Pack heating on the way, the share of the friction brakes, and the motor's power"""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("car") as table:
        for name in ("drive_heat_from_c", "drive_heat_kw", "most_kw"):
            table.add_column(sa.Column(name, sa.Double(), nullable=True))
        table.add_column(sa.Column("drive_heat_off", sa.Boolean(), nullable=False, server_default=sa.false()))
        table.add_column(sa.Column("friction_share", sa.Double(), nullable=False, server_default="0"))
