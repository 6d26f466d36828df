"""Keep what was answered to alerts."""

from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_answer (
    id BIGINT NOT NULL AUTO_INCREMENT,
    alert_id BIGINT NOT NULL,
    at_ms BIGINT NOT NULL,
    kind VARCHAR(12) NOT NULL,
    by_whom VARCHAR(80) NOT NULL,
    until_ms BIGINT NOT NULL,
    label VARCHAR(40) NOT NULL,
    PRIMARY KEY (id),
    FOREIGN KEY(alert_id) REFERENCES live_alert (id) ON DELETE CASCADE
)
""")
