"""One undo: steps kept in the old form go, and a number is never used twice"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_table("change")
    op.drop_table("undo")
    op.create_table(
        "undo",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sqlite_autoincrement=True,
    )
