"""The log: what a drive, a charge and a test have; doubts that were answered; headers of foreign files; a list by time"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_NUMBERS = {"drive": ("kwh", "out_c", "mean_kmh", "load_kg"), "charge": ("out_c",)}
_TEXTS = {"drive": (("preheated", ""), ("note", "")), "charge": (("site", "home"), ("note", ""))}
_TIMES = (
    ("drive", "left", ("left_at",)),
    ("charge", "begun", ("begun_at",)),
    ("reading", "kind_at", ("kind", "read_at")),
    ("event", "at", ("at",)),
)


def upgrade() -> None:
    for table, names in _NUMBERS.items():
        for name in names:
            op.add_column(table, sa.Column(name, sa.Float(), nullable=True))
    for table, texts in _TEXTS.items():
        for name, usual in texts:
            op.add_column(table, sa.Column(name, sa.String(), nullable=False, server_default=usual))
    for table in ("drive", "charge", "reading"):
        op.add_column(table, sa.Column("sure", sa.JSON(), nullable=False, server_default="[]"))
    op.create_table(
        "capacity_test",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("how", sa.String(), nullable=False),
        *(sa.Column(name, sa.Float(), nullable=False) for name in ("soc_from", "soc_to", "kwh")),
        sa.Column("pack_c", sa.Float(), nullable=True),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("assumed", sa.JSON(), nullable=False),
    )
    op.create_index("ix_capacity_car_at", "capacity_test", ["car_id", "at"])
    op.create_table(
        "known_header", sa.Column("header", sa.String(), primary_key=True), sa.Column("choice", sa.JSON(), nullable=False)
    )
    op.create_table(
        "weather",
        sa.Column("start_s", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("minutes", sa.Integer(), nullable=False),
        sa.Column("temp_c", sa.Float(), nullable=False),
    )
    for table, name, columns in _TIMES:
        op.create_index(f"ix_{table}_{name}", table, list(columns))
