"""Alembic runs here, on the engine that the store hands over; all steps are one transaction."""

from alembic import context

from frost_tally.household.models import Base

with context.config.attributes["engine"].connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True, transactional_ddl=True)
    with context.begin_transaction():
        context.run_migrations()
