"""Alembic's entry: runs migrations on the connection that ``engine.migrate`` hands over."""

from alembic import context

context.configure(connection=context.config.attributes["connection"])
with context.begin_transaction():
    context.run_migrations()
