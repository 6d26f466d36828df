"""Keep commands and what became of them."""

from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_command (
    id BIGINT NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    target_id VARCHAR(24) NOT NULL,
    does VARCHAR(12) NOT NULL,
    mapping_id VARCHAR(24) NOT NULL,
    value FLOAT(53) NOT NULL,
    reason VARCHAR(400) NOT NULL,
    kind VARCHAR(20) NOT NULL,
    at_ms BIGINT NOT NULL,
    state VARCHAR(12) NOT NULL,
    made_ms BIGINT NOT NULL,
    sent_ms VARCHAR(200) NOT NULL,
    answered_ms BIGINT,
    expects INTEGER,
    PRIMARY KEY (id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE,
    KEY live_command_by_target (home_id, target_id, does, id)
)
""")
