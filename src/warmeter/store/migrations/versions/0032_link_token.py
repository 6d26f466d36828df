"""Keep the digests of links' tokens."""

from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE link_token (
    id BIGINT NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    name VARCHAR(80) NOT NULL,
    digest VARCHAR(64) NOT NULL,
    made_ms BIGINT NOT NULL,
    used_ms BIGINT,
    ended_ms BIGINT,
    PRIMARY KEY (id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE,
    UNIQUE (digest)
)
""")
