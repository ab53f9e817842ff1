"""How far a store has come, apart from what it holds: its number, and the revision, which stood in the household"""

import secrets

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "state",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("store", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.CheckConstraint("id = 1"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.execute(
        sa.text("INSERT INTO state SELECT 1, :store, coalesce(max(revision), 0) FROM household").bindparams(
            store=secrets.token_hex(4)
        )
    )
    op.execute("ALTER TABLE household DROP COLUMN revision")
    op.add_column("undo", sa.Column("revision", sa.Integer(), nullable=False, server_default="0"))
