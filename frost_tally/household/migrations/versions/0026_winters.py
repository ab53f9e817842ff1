"""By what a place's mean temperatures are known"""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("place") as table:
        table.add_column(sa.Column("winters", sa.String(), nullable=False, server_default="guess"))
    op.execute("UPDATE place SET winters = 'own' WHERE january_c <> -4.0 OR july_c <> 16.0")
