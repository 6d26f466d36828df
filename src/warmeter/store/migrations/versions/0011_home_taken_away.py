"""Keep since when a home is taken away."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column."""
    op.execute("ALTER TABLE home ADD COLUMN taken_away_ms BIGINT")
