"""A run in a catalogue for the records that are most like some of the review"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = '0038'
down_revision = '0037'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('search_run', sa.Column('nearest_to', JSONB(), nullable=False, server_default='{}'))
    op.alter_column('search_run', 'nearest_to', server_default=None)


def downgrade() -> None:
    op.drop_column('search_run', 'nearest_to')
