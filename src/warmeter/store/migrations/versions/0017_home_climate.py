"""Keep with a home the last reading of its climate: another kind of log does not move what counts as now there."""

from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the column; homes without it take their last reading until the next import."""
    op.execute("ALTER TABLE home ADD COLUMN last_climate_ms BIGINT")
