"""Columns of parts stand in the order of the fields that they are made from: the tables are made anew as they are wanted"""

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    pass
