"""Run by Alembic: the migrations against the database of this process."""

from alembic import context

import endurant.store.authorisations
import endurant.store.custody
import endurant.store.equipment
import endurant.store.plans
import endurant.store.products
import endurant.store.uploads  # noqa: F401 - its tables belong to Base
from endurant.store.engine import engine_for
from endurant.store.tables import Base

with engine_for(context.config.attributes["url"]).connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
