"""Why a record stands at its place is kept with the place; an order has no weights of terms any more"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0017'
down_revision = '0016'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('place', sa.Column('why', postgresql.JSONB(), nullable=True))
    op.drop_column('ranking', 'weights')


def downgrade() -> None:
    op.add_column('ranking', sa.Column('weights', postgresql.JSONB(), nullable=False, server_default='{}'))
    op.alter_column('ranking', 'weights', server_default=None)
    op.drop_column('place', 'why')
