"""Undo knows which decisions took another back, without reading its own words"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("undo", sa.Column("takes_back", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.execute("UPDATE undo SET takes_back = 1, words = substr(words, 13) WHERE words LIKE 'Taken back: %'")
