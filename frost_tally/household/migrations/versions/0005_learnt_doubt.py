"""What learning leaves unknown of a car's factors, and the temperatures a kept plan leaves with"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("day", "base", "heat", "cold"):
        op.add_column("car", sa.Column(f"learnt_{name}_sigma", sa.Double(), nullable=True))
    for name in ("pack", "cabin"):
        op.add_column("night", sa.Column(f"start_{name}_c", sa.Double(), nullable=True))
