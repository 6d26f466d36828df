"""Fill in of each home the last reading of its climate."""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Fill in of each home the last reading of its climate."""
    op.execute("""
UPDATE home JOIN (
    SELECT series.home_id AS id, MAX(last_ms) AS last
    FROM reading_chunk JOIN series ON series.id = series_id
    WHERE series.quantity IN ('room_temperature', 'outdoor_temperature', 'heat_w', 'heat_relative')
    GROUP BY series.home_id
) AS readings ON readings.id = home.id
SET last_climate_ms = readings.last
""")
