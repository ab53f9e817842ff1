"""Alembic runs here, on the engine that the store hands over."""

from alembic import context

from frost_tally.household.models import Base

engine = context.config.attributes["engine"]
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
