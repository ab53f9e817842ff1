"""How a car's nights are carried out: by hand, by a timer, or linked; when somebody is awake; how full it is charged by habit"""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

_NEW = (
    ("control", sa.String(), "linked"),
    ("timer_step", sa.Integer(), "15"),
    ("awake_from", sa.Time(), "06:30:00.000000"),
    ("awake_until", sa.Time(), "22:30:00.000000"),
    ("charges", sa.String(), "shallow"),
)


def upgrade() -> None:
    for name, kind, usual in _NEW:
        op.add_column("habit", sa.Column(name, kind, nullable=False, server_default=usual))
