"""Reviews filled with made-up data, to play in and to throw away"""

import sqlalchemy as sa
from alembic import op

revision = '0018'
down_revision = '0017'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('review', sa.Column('made_up', sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column('review', 'made_up', server_default=None)


def downgrade() -> None:
    op.drop_column('review', 'made_up')
