"""Places, people, seasons, dated prices, house readings, undo; what was the household's one place and units moves there"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

PLACE = ("zone", "altitude_m", "garage", "garage_heated_c")
UNITS = ("distance_unit", "temperature_unit", "pressure_unit", "currency")


def upgrade() -> None:
    op.create_table(
        "place",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("zone", sa.String(), nullable=False),
        sa.Column("altitude_m", sa.Double(), nullable=False),
        sa.Column("garage", sa.String(), nullable=False),
        sa.Column("garage_heated_c", sa.Double(), nullable=False),
        sa.Column("january_c", sa.Double(), nullable=False, server_default="-4"),
        sa.Column("july_c", sa.Double(), nullable=False, server_default="16"),
        sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("distance_unit", sa.String(), nullable=False),
        sa.Column("temperature_unit", sa.String(), nullable=False),
        sa.Column("pressure_unit", sa.String(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("per_contract", sa.Double(), nullable=False, server_default="1"),
        sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"),
    )
    op.create_table(
        "season",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("tariff_id", sa.Integer(), sa.ForeignKey("tariff.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("first", sa.JSON(), nullable=False),
        sa.Column("last", sa.JSON(), nullable=False),
        sa.Column("bands", sa.JSON(), nullable=False),
    )
    op.create_table(
        "price",
        sa.Column("tariff_id", sa.Integer(), sa.ForeignKey("tariff.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("start_s", sa.Integer(), primary_key=True),
        sa.Column("minutes", sa.Integer(), nullable=False),
        sa.Column("price_per_kwh", sa.Double(), nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_table(
        "reading",
        sa.Column("start_s", sa.Integer(), primary_key=True),
        sa.Column("minutes", sa.Integer(), nullable=False),
        sa.Column("kwh", sa.Double(), nullable=False),
    )
    op.create_table(
        "undo",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
    )
    op.create_table(
        "pending",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("about", sa.JSON(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
    )
    op.execute(f"INSERT INTO place (id, name, {', '.join(PLACE)}) SELECT 1, place, {', '.join(PLACE)} FROM household")  # noqa: S608
    op.execute(f"INSERT INTO person (id, name, {', '.join(UNITS)}) SELECT 1, 'Everyone', {', '.join(UNITS)} FROM household")  # noqa: S608
    with op.batch_alter_table("household", table_args=(sa.CheckConstraint("id = 1"),)) as table:
        for name in ("place", *PLACE, *UNITS[:3]):
            table.drop_column(name)
        table.add_column(sa.Column("house_kwh", sa.JSON(), nullable=False, server_default="[]"))
        table.add_column(sa.Column("house_shape", sa.String(), nullable=False, server_default="evening"))
        table.add_column(sa.Column("shift", sa.Double(), nullable=False, server_default="0"))
    with op.batch_alter_table("outlet") as table:
        table.add_column(sa.Column("shared_a", sa.Double(), nullable=False, server_default="0"))
        table.add_column(sa.Column("shared_with", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("install_cost", sa.Double(), nullable=False, server_default="0"))
        table.add_column(sa.Column("place_id", sa.Integer(), nullable=True))
        table.add_column(sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"))
        table.create_foreign_key("fk_outlet_place", "place", ["place_id"], ["id"])
    op.execute("UPDATE outlet SET place_id = (SELECT id FROM place LIMIT 1)")
    with op.batch_alter_table("tariff") as table:
        table.add_column(sa.Column("holiday_region", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("valid_from", sa.Date(), nullable=True))
        table.add_column(sa.Column("valid_to", sa.Date(), nullable=True))
        table.add_column(sa.Column("following_id", sa.Integer(), nullable=True))
        table.add_column(sa.Column("feed", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"))
        table.create_foreign_key("fk_tariff_following", "tariff", ["following_id"], ["id"])
    with op.batch_alter_table("car") as table:
        table.add_column(sa.Column("days_a_week", sa.Double(), nullable=False, server_default="7"))
        table.add_column(sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"))
