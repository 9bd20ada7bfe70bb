"""A language model may be asked for values, where a lead lets it; what it proposed is marked"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0035'
down_revision = '0034'
branch_labels = None
depends_on = None

CHARTED = 'CREATE VIEW charted AS SELECT * FROM value WHERE reader_id IS NULL'


def upgrade() -> None:
    op.execute('DROP VIEW charted')
    op.add_column('value', sa.Column('model', sa.String(), nullable=False, server_default=''))
    op.execute(CHARTED)
    op.add_column('proposal', sa.Column('model', sa.String(), nullable=False, server_default=''))
    op.add_column('review', sa.Column('language_model', sa.Boolean(), nullable=False, server_default=sa.false()))
    for table, column in (('value', 'model'), ('proposal', 'model'), ('review', 'language_model')):
        op.alter_column(table, column, server_default=None)
    op.create_table(
        'model_asking',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('problem', sa.String(), nullable=False),
        sa.Column('proposed', sa.Integer(), nullable=False),
        sa.Column('refused', postgresql.JSONB(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint("state IN ('waiting', 'asked', 'failed')", name='state_is_known'),
    )
    op.create_index('ix_model_asking_state', 'model_asking', ['review_id', 'state'])
    op.create_index('ix_model_asking_copy_id', 'model_asking', ['copy_id'])


def downgrade() -> None:
    op.drop_table('model_asking')
    op.drop_column('review', 'language_model')
    op.drop_column('proposal', 'model')
    op.execute('DROP VIEW charted')
    op.drop_column('value', 'model')
    op.execute(CHARTED)
