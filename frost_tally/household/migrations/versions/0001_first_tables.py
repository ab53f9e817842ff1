"""First tables"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "household",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("zone", sa.String(), nullable=False),
        sa.Column("altitude_m", sa.Double(), nullable=False),
        sa.Column("garage", sa.String(), nullable=False),
        sa.Column("garage_heated_c", sa.Double(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("distance_unit", sa.String(), nullable=False),
        sa.Column("temperature_unit", sa.String(), nullable=False),
        sa.Column("pressure_unit", sa.String(), nullable=False),
        sa.Column("weather", sa.String(), nullable=False),
        sa.Column("out_now_c", sa.Double(), nullable=False),
        sa.Column("out_low_c", sa.Double(), nullable=False),
        sa.Column("complete", sa.Boolean(), nullable=False),
        sa.Column("clock", sa.DateTime(), nullable=True),
        sa.CheckConstraint("id = 1"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "outlet",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("voltage_v", sa.Double(), nullable=False),
        sa.Column("phases", sa.Integer(), nullable=False),
        sa.Column("breaker_a", sa.Double(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("cable_a", sa.Double(), nullable=True),
        sa.Column("selector_a", sa.Double(), nullable=True),
        sa.Column("car_setting_a", sa.Double(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "tariff",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("standing_per_day", sa.Double(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "car",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("preset", sa.String(), nullable=False),
        sa.Column("chemistry", sa.String(), nullable=False),
        sa.Column("usable_kwh_new", sa.Double(), nullable=False),
        sa.Column("soh", sa.Double(), nullable=False),
        sa.Column("pack_heater_kw", sa.Double(), nullable=False),
        sa.Column("preheats", sa.String(), nullable=False),
        sa.Column("drive_heat_to_c", sa.Double(), nullable=True),
        sa.Column("mass_kg", sa.Double(), nullable=False),
        sa.Column("drag_area_m2", sa.Double(), nullable=False),
        sa.Column("cabin_heater_kw", sa.Double(), nullable=False),
        sa.Column("heat_pump", sa.Boolean(), nullable=False),
        sa.Column("ac_limit_a", sa.Double(), nullable=False),
        sa.Column("ac_phases", sa.Integer(), nullable=False),
        sa.Column("ac_limit_kw", sa.Double(), nullable=False),
        sa.Column("placard_kpa", sa.Double(), nullable=False),
        sa.Column("rolling_coefficient", sa.Double(), nullable=False),
        sa.Column("winter_tyres", sa.Boolean(), nullable=False),
        sa.Column("tyre_kpa", sa.Double(), nullable=False),
        sa.Column("tyre_read_c", sa.Double(), nullable=False),
        sa.Column("outlet_id", sa.Integer(), nullable=True),
        sa.Column("tariff_id", sa.Integer(), nullable=True),
        sa.Column("habit_limit", sa.Double(), nullable=False),
        sa.Column("reserve", sa.Double(), nullable=False),
        sa.Column("floor", sa.Double(), nullable=False),
        sa.Column("warm_up", sa.String(), nullable=False),
        sa.Column("depart", sa.Time(), nullable=False),
        sa.Column("plug_in", sa.Time(), nullable=False),
        sa.Column("town_km", sa.Double(), nullable=False),
        sa.Column("country_km", sa.Double(), nullable=False),
        sa.Column("motorway_km", sa.Double(), nullable=False),
        sa.Column("motorway_kmh", sa.Double(), nullable=False),
        sa.Column("parked_h", sa.Double(), nullable=False),
        sa.Column("people", sa.Integer(), nullable=False),
        sa.Column("cabin_c", sa.Double(), nullable=False),
        sa.Column("soc_now", sa.Double(), nullable=False),
        sa.Column("soc_read_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["outlet_id"], ["outlet.id"]),
        sa.ForeignKeyConstraint(["tariff_id"], ["tariff.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "tariff_band",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("tariff_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("price_per_kwh", sa.Double(), nullable=False),
        sa.Column("start", sa.Time(), nullable=False),
        sa.Column("end", sa.Time(), nullable=False),
        sa.Column("days", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["tariff_id"], ["tariff.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("tariff_band", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_tariff_band_tariff_id"), ["tariff_id"], unique=False)

    op.create_table(
        "change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("car_id", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["car_id"], ["car.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "night",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("car_id", sa.Integer(), nullable=False),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.Column("departure", sa.DateTime(), nullable=False),
        sa.Column("sentence", sa.String(), nullable=False),
        sa.Column("km", sa.Double(), nullable=False),
        sa.Column("soc_start", sa.Double(), nullable=False),
        sa.Column("soc_departure", sa.Double(), nullable=False),
        sa.Column("arrival_low", sa.Double(), nullable=False),
        sa.Column("arrival_likely", sa.Double(), nullable=False),
        sa.Column("arrival_high", sa.Double(), nullable=False),
        sa.Column("wall_kwh", sa.Double(), nullable=False),
        sa.Column("cost", sa.Double(), nullable=False),
        sa.Column("levers", sa.JSON(), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
        sa.Column("replaces_id", sa.Integer(), nullable=True),
        sa.Column("actual_departure", sa.Double(), nullable=True),
        sa.Column("actual_arrival", sa.Double(), nullable=True),
        sa.Column("noted_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["car_id"], ["car.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["replaces_id"], ["night.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("night", schema=None) as batch_op:
        batch_op.create_index("ix_night_car_departure", ["car_id", "departure"], unique=False)


def downgrade() -> None:
    with op.batch_alter_table("night", schema=None) as batch_op:
        batch_op.drop_index("ix_night_car_departure")

    op.drop_table("night")
    op.drop_table("change")
    with op.batch_alter_table("tariff_band", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_tariff_band_tariff_id"))

    op.drop_table("tariff_band")
    op.drop_table("car")
    op.drop_table("tariff")
    op.drop_table("outlet")
    op.drop_table("household")
