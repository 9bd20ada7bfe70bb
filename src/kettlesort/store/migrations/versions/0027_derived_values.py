"""What a value was worked out from"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0027'
down_revision = '0026'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('value', sa.Column('derived', postgresql.JSONB(), nullable=True))


def downgrade() -> None:
    op.drop_column('value', 'derived')
