"""Run by Alembic: migrates over the connection that `noble_clay.store.database.migrate` hands in."""

from alembic import context

from noble_clay.store.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
