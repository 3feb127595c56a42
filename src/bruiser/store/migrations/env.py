"""Alembic environment: runs on the connection it is handed, one transaction a step."""

from alembic import context

from bruiser.store.schema import metadata

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=metadata,
    transactional_ddl=True,
    transaction_per_migration=True,
)
with context.begin_transaction():
    context.run_migrations()
