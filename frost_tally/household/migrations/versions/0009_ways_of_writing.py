"""People have units of weight, a clock of 24 or 12 hours, a first day of the week and a decimal mark"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name, usual in (("weight_unit", "kg"), ("hours", "24"), ("week_start", "mon"), ("decimal_mark", ".")):
        op.add_column("person", sa.Column(name, sa.String(), nullable=False, server_default=usual))
