"""Alembic's entry: one connection, one transaction for each migration."""

from alembic import context
from sqlalchemy import create_engine, pool

from uvarovite.store.tables import metadata

engine = create_engine(context.config.attributes["url"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=metadata, transaction_per_migration=True)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
