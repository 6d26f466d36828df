"""Keep with a home what was last worked out of what matters in it."""

from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column."""
    op.execute("ALTER TABLE home ADD COLUMN matters TEXT")
