"""Facts apart from plans: drives, charges, readings, events; a night's plan with its blocks; a car's habits and what was learnt"""

import json
from datetime import UTC, datetime, timedelta

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

HABITS = (
    "outlet_id", "tariff_id", "reserve", "floor", "warm_up", "depart", "plug_in", "town_km", "country_km", "motorway_km",
    "motorway_kmh", "parked_h", "people", "cabin_c", "days_a_week",
)  # fmt: skip
LEARNT = ("base", "heat", "cold", "base_sigma", "heat_sigma", "cold_sigma", "day_sigma", "before", "after", "days")
PLAN = (
    "kept_at",
    "departure",
    "km",
    "soc_start",
    "soc_departure",
    "arrival_low",
    "arrival_likely",
    "arrival_high",
    "wall_kwh",
    "cost",
)
STARTS = ("start_pack_c", "start_cabin_c")


def _car() -> "sa.Column[int]":
    return sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), nullable=False)


def _habits() -> None:
    numbers = (
        "limit",
        "reserve",
        "floor",
        "town_km",
        "country_km",
        "motorway_km",
        "motorway_kmh",
        "parked_h",
        "cabin_c",
        "days_a_week",
    )
    op.create_table(
        "habit",
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("outlet_id", sa.Integer(), sa.ForeignKey("outlet.id"), nullable=True),
        sa.Column("tariff_id", sa.Integer(), sa.ForeignKey("tariff.id"), nullable=True),
        sa.Column("warm_up", sa.String(), nullable=False),
        sa.Column("depart", sa.Time(), nullable=False),
        sa.Column("plug_in", sa.Time(), nullable=False),
        sa.Column("people", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.Double(), nullable=False) for name in numbers),
    )
    names = ", ".join(HABITS)
    op.execute(f'INSERT INTO habit (car_id, "limit", {names}) SELECT id, habit_limit, {names} FROM car')  # noqa: S608
    op.create_table(
        "learnt",
        sa.Column("car_id", sa.Integer(), sa.ForeignKey("car.id", ondelete="CASCADE"), primary_key=True),
        *(sa.Column(name, sa.Double(), nullable=name.endswith("sigma")) for name in LEARNT[:-1]),
        sa.Column("days", sa.Integer(), nullable=False),
    )
    to, of = ", ".join(f'"{name}"' for name in LEARNT), ", ".join(f"learnt_{name}" for name in LEARNT)
    op.execute(f"INSERT INTO learnt (car_id, {to}) SELECT id, {of} FROM car WHERE learnt_days > 0")  # noqa: S608


def _readings() -> None:
    op.rename_table("reading", "meter")
    op.create_table(
        "reading",
        sa.Column("id", sa.Integer(), primary_key=True),
        _car(),
        sa.Column("read_at", sa.DateTime(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("value", sa.Double(), nullable=False),
        sa.Column("unit", sa.String(), nullable=False),
        sa.Column("temp_c", sa.Double(), nullable=True),
        sa.Column("warm", sa.Boolean(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("assumed", sa.JSON(), nullable=False),
    )
    op.create_index("ix_reading_car_kind_at", "reading", ["car_id", "kind", "read_at"])
    op.execute(
        "INSERT INTO reading (car_id, read_at, kind, part, value, unit, temp_c, warm, source, assumed) "
        "SELECT car_id, read_at, 'tyre', wheel, kpa, 'kPa', tyre_c, warm, source, '[]' FROM tyre ORDER BY id"
    )
    at = op.get_bind()
    clock = at.execute(sa.text("SELECT clock FROM household")).scalar()
    now = datetime.fromisoformat(clock) if clock else datetime.now(UTC).replace(tzinfo=None)
    add = sa.text(
        "INSERT INTO reading (car_id, read_at, kind, part, value, unit, temp_c, warm, source, assumed) "
        "VALUES (:car, :at, :kind, '', :value, :unit, :temp_c, 0, :source, :assumed)"
    )
    cars = at.execute(sa.text("SELECT id, soc_now, soc_read_at, tyre_kpa, tyre_read_c, placard_kpa FROM car ORDER BY id")).all()
    for car, soc, read_at, kpa, tyre_c, placard in cars:
        level = {"car": car, "at": read_at or f"{now:%Y-%m-%d %H:%M:%S.%f}", "kind": "level", "value": soc, "unit": "1"}
        at.execute(add, {**level, "temp_c": None, "source": "owner", "assumed": "[]" if read_at else '["read_at"]'})
        look = at.execute(
            sa.text(
                "SELECT read_at, min(kpa), max(tyre_c) FROM tyre WHERE car_id = :car AND NOT warm GROUP BY read_at ORDER BY read_at DESC"
            ),
            {"car": car},
        ).first()
        if look is not None and (look[1], look[2]) == (kpa, tyre_c):
            continue  # what the plan uses is that look
        after = max(now, datetime.fromisoformat(look[0]) + timedelta(seconds=1)) if look is not None else now
        guessed = (kpa, tyre_c) == (placard, 20.0)
        tyre = {"car": car, "at": f"{after:%Y-%m-%d %H:%M:%S.%f}", "kind": "tyre", "value": kpa, "unit": "kPa", "temp_c": tyre_c}
        assumed = '["read_at", "value", "temp_c"]' if guessed else '["read_at"]'
        at.execute(add, {**tyre, "source": "assumed" if guessed else "owner", "assumed": assumed})
    op.drop_table("tyre")


def _plans_and_drives() -> None:
    op.create_table(
        "night_plan",
        sa.Column("id", sa.Integer(), primary_key=True),
        _car(),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.Column("plug_in", sa.DateTime(), nullable=True),
        sa.Column("departure", sa.DateTime(), nullable=False),
        *(sa.Column(name, sa.Double(), nullable=False) for name in (*PLAN[2:], "limit")),
        sa.Column("levers", sa.JSON(), nullable=False),
        sa.Column("pulled", sa.JSON(), nullable=False),
        *(sa.Column(name, sa.Double(), nullable=True) for name in STARTS),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
    )
    op.create_index("ix_plan_car_departure", "night_plan", ["car_id", "departure"])
    op.create_table(
        "plan_block",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("plan_id", sa.Integer(), sa.ForeignKey("night_plan.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("begin", sa.DateTime(), nullable=False),
        sa.Column("end", sa.DateTime(), nullable=False),
        sa.Column("kw", sa.Double(), nullable=False),
        sa.Column("price_per_kwh", sa.Double(), nullable=False),
    )
    op.create_table(
        "drive",
        sa.Column("id", sa.Integer(), primary_key=True),
        _car(),
        sa.Column("plan_id", sa.Integer(), sa.ForeignKey("night_plan.id"), nullable=True, index=True),
        sa.Column("left_at", sa.DateTime(), nullable=False),
        sa.Column("home_at", sa.DateTime(), nullable=True),
        sa.Column("noted_at", sa.DateTime(), nullable=False),
        *(sa.Column(name, sa.Double(), nullable=False) for name in ("km", "soc_start", "soc_end")),
        *(sa.Column(name, sa.Double(), nullable=True) for name in STARTS),
        sa.Column("typed_at", sa.DateTime(), nullable=True),
        sa.Column("typed_now_c", sa.Double(), nullable=True),
        sa.Column("typed_low_c", sa.Double(), nullable=True),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("assumed", sa.JSON(), nullable=False),
    )
    op.create_index("ix_drive_car_left", "drive", ["car_id", "left_at"])
    names = ", ".join((*PLAN, *STARTS, "withdrawn"))
    op.execute(
        f'INSERT INTO night_plan (id, car_id, "limit", levers, pulled, {names}) SELECT id, car_id, '  # noqa: S608
        f"coalesce(json_extract(levers, '$.limit'), soc_departure), levers, '[]', {names} FROM night"
    )
    op.execute(
        "INSERT INTO drive (car_id, plan_id, left_at, noted_at, km, soc_start, soc_end, start_pack_c, start_cabin_c, typed_at, "
        "typed_now_c, typed_low_c, source, assumed) SELECT car_id, id, departure, coalesce(noted_at, departure), km, actual_departure, "
        "actual_arrival, start_pack_c, start_cabin_c, CASE WHEN json_extract(levers, '$.out_now_c') IS NULL THEN NULL ELSE kept_at END, "
        "json_extract(levers, '$.out_now_c'), json_extract(levers, '$.out_low_c'), 'owner', "
        """'["left_at", "km", "start_pack_c", "start_cabin_c"]' FROM night """
        "WHERE NOT withdrawn AND actual_departure IS NOT NULL AND actual_arrival IS NOT NULL ORDER BY departure"
    )
    _pulled()
    op.drop_table("night")


def _pulled() -> None:
    """Which levers of a kept plan were not the car's usual ones."""
    at = op.get_bind()
    usual = {
        row.id: {
            **{name: getattr(row, name) for name in ("motorway_kmh", "tyre_kpa", "cabin_c", "people", "warm_up")},
            "limit": row.habit_limit, "km": row.town_km + row.country_km + row.motorway_km, "surface": "dry",
            "depart": str(row.depart)[:8], "plug_in": str(row.plug_in)[:8],
        }
        for row in at.execute(sa.text("SELECT * FROM car"))
    }  # fmt: skip
    for number, car, kept in at.execute(sa.text("SELECT id, car_id, levers FROM night WHERE levers <> '{}'")).all():
        levers = json.loads(kept)
        differ = [name for name, value in usual[car].items() if name in levers and levers[name] != value]
        at.execute(sa.text("UPDATE night_plan SET pulled = :p WHERE id = :n"), {"p": json.dumps(differ), "n": number})


def _charges_and_events() -> None:
    op.create_table(
        "charge",
        sa.Column("id", sa.Integer(), primary_key=True),
        _car(),
        sa.Column("plan_id", sa.Integer(), sa.ForeignKey("night_plan.id"), nullable=True, index=True),
        sa.Column("outlet_id", sa.Integer(), sa.ForeignKey("outlet.id"), nullable=True),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("begun_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        *(sa.Column(name, sa.Double(), nullable=True) for name in ("soc_start", "soc_end", "wall_kwh", "pack_kwh", "cost")),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("assumed", sa.JSON(), nullable=False),
    )
    op.create_index("ix_charge_car_begun", "charge", ["car_id", "begun_at"])
    op.create_table(
        "event",
        sa.Column("id", sa.Integer(), primary_key=True),
        _car(),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("assumed", sa.JSON(), nullable=False),
    )
    op.create_index("ix_event_car_at", "event", ["car_id", "at"])


def upgrade() -> None:
    _habits()
    _readings()
    _plans_and_drives()
    _charges_and_events()
    gone = [*HABITS, *(f"learnt_{name}" for name in LEARNT), "habit_limit", "soc_now", "soc_read_at", "tyre_kpa", "tyre_read_c"]
    with op.batch_alter_table("car") as table:
        for name in gone:
            table.drop_column(name)
    with op.batch_alter_table("household", table_args=(sa.CheckConstraint("id = 1"),)) as table:
        table.drop_column("weather")
