"""An outlet that is thought of may cost nobody knows what"""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("outlet") as table:
        table.alter_column("install_cost", existing_type=sa.Double(), nullable=True)
