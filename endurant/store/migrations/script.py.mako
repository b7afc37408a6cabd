"""${message}."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql
${imports if imports else ""}
import endurant.store.columns

revision = ${repr(up_revision)}
down_revision = ${repr(down_revision)}


def upgrade() -> None:
    """Bring the tables to this revision."""
    ${upgrades if upgrades else "pass"}


def downgrade() -> None:
    """Take the tables back to the revision before."""
    ${downgrades if downgrades else "pass"}
