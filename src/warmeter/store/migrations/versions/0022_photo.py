"""Keep photos of a home's parts and of the steps of checklists."""

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE photo (
    id BIGINT NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    about_id VARCHAR(24) NOT NULL,
    step VARCHAR(80) NOT NULL,
    taken_ms BIGINT NOT NULL,
    author VARCHAR(80) NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    removed_ms BIGINT,
    data MEDIUMBLOB NOT NULL,
    PRIMARY KEY (id),
    KEY photo_by_home (home_id, id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
