"""Keep who was told of alerts."""

from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_telling (
    id BIGINT NOT NULL AUTO_INCREMENT,
    alert_id BIGINT NOT NULL,
    group_id VARCHAR(24) NOT NULL,
    channel_id VARCHAR(24) NOT NULL,
    at_ms BIGINT NOT NULL,
    real_ms BIGINT NOT NULL,
    state VARCHAR(12) NOT NULL,
    delay_ms BIGINT,
    why VARCHAR(200) NOT NULL,
    PRIMARY KEY (id),
    UNIQUE (alert_id, group_id, channel_id, at_ms),
    FOREIGN KEY(alert_id) REFERENCES live_alert (id) ON DELETE CASCADE
)
""")
