"""Fill in of each home its first and last reading and how many series hold some."""

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Fill in of each home its first and last reading and how many series hold some."""
    op.execute("""
UPDATE home JOIN (
    SELECT series.home_id AS id, MIN(first_ms) AS first, MAX(last_ms) AS last, COUNT(DISTINCT series_id) AS held
    FROM reading_chunk JOIN series ON series.id = series_id GROUP BY series.home_id
) AS readings ON readings.id = home.id
SET first_reading_ms = readings.first, last_reading_ms = readings.last, series_count = readings.held
""")
