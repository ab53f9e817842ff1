"""Long ways with their posts, and a car's own curve of fast charging"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("car", sa.Column("fast_points", sa.JSON(), nullable=False, server_default="[]"))
    op.create_table(
        "way",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("km", sa.Double(), nullable=False),
        sa.Column("country_km", sa.Double(), nullable=False),
        sa.Column("posts", sa.JSON(), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
    )
