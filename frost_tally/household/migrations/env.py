"""Alembic runs here, on the engine that the store hands over."""

from alembic import context

from frost_tally.household.models import Base

engine = context.config.attributes["engine"]
with engine.connect() as connection:
    connection.exec_driver_sql("PRAGMA foreign_keys=OFF")  # a table made anew must not take its children along
    connection.commit()
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
    connection.exec_driver_sql("PRAGMA foreign_keys=ON")
    connection.commit()
