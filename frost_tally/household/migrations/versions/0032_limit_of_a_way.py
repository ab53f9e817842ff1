"""What the motorways of a way allow"""

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("way") as table:
        table.add_column(sa.Column("limit_kmh", sa.Double(), nullable=True))
