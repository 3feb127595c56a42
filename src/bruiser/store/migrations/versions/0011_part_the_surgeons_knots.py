"""The parallel doubled join has an entry of its own; knots in play that meant it follow it."""

from alembic import op

revision = "0011_part_the_surgeons_knots"
down_revision = "0010_plan_states"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE knot SET structure = 'surgeons-join' WHERE structure = 'surgeons-bend'")
