"""The power of the post of a charge on the way, which stood in its note"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("charge", sa.Column("post_kw", sa.Double()))
    op.execute(
        """
        UPDATE charge SET post_kw = CAST(note AS REAL), note = ''
        WHERE site = 'fast' AND note GLOB '[0-9]*' AND note = printf('%g kW', CAST(note AS REAL)) AND CAST(note AS REAL) >= 1
        """
    )
