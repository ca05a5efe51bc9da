from alembic import context
from sqlalchemy import create_engine, pool, text

from sign_shelf.store.tables import Table

engine = create_engine(context.config.attributes["address"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Table.metadata,
        # What was made is not made again, and no table is held for longer than one of them takes.
        transaction_per_migration=True,
        include_name=lambda name, kind, _: not (name or "").startswith("procrastinate"),
    )
    # Shorter than PostgreSQL waits before it looks for deadlocks: we give way, not those that are at work.
    connection.execute(text("SET lock_timeout = '400ms'"))
    connection.commit()
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
