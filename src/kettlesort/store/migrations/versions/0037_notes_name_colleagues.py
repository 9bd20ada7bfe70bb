"""Notes that name a colleague reach them"""

import sqlalchemy as sa
from alembic import op

revision = '0037'
down_revision = '0036'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'note_to',
        sa.Column('note_id', sa.BigInteger(), sa.ForeignKey('note.id'), primary_key=True),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('done_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_note_to_account', 'note_to', ['review_id', 'account_id'])


def downgrade() -> None:
    op.drop_table('note_to')
