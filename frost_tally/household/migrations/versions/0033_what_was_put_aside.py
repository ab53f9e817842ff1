"""What could not be and was put aside; the tables are made STRICT after it (`household.strict`)"""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "aside",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("row", sa.JSON(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.Column("became", sa.String(), nullable=True),
        sa.Column("gone", sa.Boolean(), nullable=False),
    )
