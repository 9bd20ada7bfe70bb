"""How each person sees the evidence table"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0025'
down_revision = '0024'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'evidence_view',
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), primary_key=True),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), primary_key=True),
        sa.Column('content', postgresql.JSONB(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table('evidence_view')
