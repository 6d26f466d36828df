"""Keep what is known of homes that are linked live."""

from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_home (
    home_id VARCHAR(24) NOT NULL,
    real_ms BIGINT NOT NULL DEFAULT '0',
    home_ms BIGINT NOT NULL DEFAULT '0',
    speed FLOAT(53) NOT NULL DEFAULT '1',
    since_ms BIGINT NOT NULL DEFAULT '0',
    holder VARCHAR(64) NOT NULL DEFAULT '',
    lease_ms BIGINT NOT NULL DEFAULT '0',
    version BIGINT NOT NULL DEFAULT '0',
    looked_ms BIGINT NOT NULL DEFAULT '0',
    looked_home_ms BIGINT NOT NULL DEFAULT '0',
    told MEDIUMTEXT,
    PRIMARY KEY (home_id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
