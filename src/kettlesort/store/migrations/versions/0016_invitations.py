"""Invitations by a link that expires; accounts can be deleted"""

import sqlalchemy as sa
from alembic import op

revision = '0016'
down_revision = '0015'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('account', sa.Column('deleted_at', sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        'invitation',
        sa.Column('id', sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('role', sa.String(), nullable=False),
        sa.Column('token_hash', sa.LargeBinary(), nullable=False),
        sa.Column('invited_by', sa.BigInteger(), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('expires_at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('withdrawn_at', sa.DateTime(timezone=True), nullable=True),
        sa.Column('used_by', sa.BigInteger(), nullable=True),
        sa.Column('used_at', sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("role IN ('lead', 'reviewer', 'observer')", name='role_is_known'),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.ForeignKeyConstraint(['invited_by'], ['account.id']),
        sa.ForeignKeyConstraint(['used_by'], ['account.id']),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('token_hash'),
    )
    op.create_index('ix_invitation_review_id', 'invitation', ['review_id'])


def downgrade() -> None:
    op.drop_table('invitation')
    op.drop_column('account', 'deleted_at')
