from alembic import context
from sqlalchemy import create_engine, pool

from sign_shelf.store.tables import Table

engine = create_engine(context.config.attributes["address"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Table.metadata,
        include_name=lambda name, kind, _: not (name or "").startswith("procrastinate"),
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
