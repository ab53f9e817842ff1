"""What is so at present, the typed outside temperatures and the demo's clock, apart from what the household is"""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "present",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("out_now_c", sa.Float(), nullable=False),
        sa.Column("out_low_c", sa.Float(), nullable=False),
        sa.Column("clock", sa.DateTime(), nullable=True),
        sa.CheckConstraint("id = 1"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.execute("INSERT INTO present SELECT id, out_now_c, out_low_c, clock FROM household")
    with op.batch_alter_table("household", table_args=(sa.CheckConstraint("id = 1"),)) as table:
        for name in ("out_now_c", "out_low_c", "clock"):
            table.drop_column(name)
