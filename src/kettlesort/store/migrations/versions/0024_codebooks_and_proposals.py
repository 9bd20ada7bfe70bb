"""Codebooks with concepts, levels and versions; values by level; proposals from reports"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0024'
down_revision = '0023'
branch_labels = None
depends_on = None

ID = sa.BigInteger()
JSONB = postgresql.JSONB()


def reference(name: str, to: str, null: bool = False) -> sa.Column:
    return sa.Column(name, ID, sa.ForeignKey(to), nullable=null)


def time(name: str, null: bool = False) -> sa.Column:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=null, server_default=None if null else sa.text('clock_timestamp()'))


def text(name: str) -> sa.Column:
    return sa.Column(name, sa.String(), nullable=False)


def upgrade() -> None:
    op.create_table(
        'concept',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        sa.Column('position', sa.Integer(), nullable=False),
        text('name'),
        reference('within_id', 'concept.id', null=True),
        time('removed_at', null=True),
    )
    op.create_index('ix_concept_review_id', 'concept', ['review_id'])
    op.create_table(
        'level',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        reference('study_id', 'study.id', null=True),
        text('factor'),
        sa.Column('position', sa.Integer(), nullable=False),
        text('name'),
        sa.Column('words', JSONB, nullable=False),
        time('removed_at', null=True),
        sa.CheckConstraint("factor IN ('arm', 'outcome', 'time')", name='factor_is_known'),
    )
    op.create_index('ix_level_review_id', 'level', ['review_id'])
    op.create_index('ix_level_study_id', 'level', ['study_id'])
    op.create_table(
        'codebook_version',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('content', JSONB, nullable=False),
        reference('account_id', 'account.id'),
        time('at'),
        sa.UniqueConstraint('review_id', 'number'),
    )
    op.add_column('item', sa.Column('low', sa.Float(), nullable=True))
    op.add_column('item', sa.Column('high', sa.Float(), nullable=True))
    op.add_column('item', sa.Column('per', JSONB, nullable=False, server_default='[]'))
    op.add_column('item', reference('concept_id', 'concept.id', null=True))
    op.add_column('item', sa.Column('examples', sa.String(), nullable=False, server_default=''))
    op.alter_column('item', 'per', server_default=None)
    op.alter_column('item', 'examples', server_default=None)
    # a number with a unit is a quantity, and its values name their unit; events of a total are counts
    op.execute("UPDATE item SET kind = 'counts' WHERE kind = 'events'")
    op.execute("UPDATE value v SET text = v.text || ' ' || i.unit FROM item i WHERE i.id = v.item_id AND i.kind = 'number' AND i.unit <> '' AND v.text <> ''")
    op.execute("UPDATE item SET kind = 'quantity' WHERE kind = 'number' AND unit <> ''")
    for name in ('arm_id', 'outcome_id', 'time_id'):
        op.add_column('value', reference(name, 'level.id', null=True))
    op.add_column('value', reference('copy_id', 'copy.id', null=True))
    op.add_column('value', sa.Column('how', sa.String(), nullable=False, server_default='typed'))
    op.add_column('value', sa.Column('unfit', sa.String(), nullable=False, server_default=''))
    op.alter_column('value', 'how', server_default=None)
    op.alter_column('value', 'unfit', server_default=None)
    op.create_check_constraint(
        'how_is_known', 'value', "how IN ('typed', 'pasted', 'marked', 'accepted', 'changed', 'derived', 'carried')"
    )
    op.drop_index('ix_value_review_id', 'value')
    op.create_index('ix_value_review', 'value', ['review_id', 'id'])
    op.create_table(
        'report_reading',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        reference('copy_id', 'copy.id'),
        text('state'),
        sa.Column('sha256', sa.String(), sa.ForeignKey('blob.sha256'), nullable=True),
        sa.Column('version', sa.Integer(), nullable=False),
        sa.Column('pages', sa.Integer(), nullable=True),
        text('problem'),
        reference('account_id', 'account.id'),
        time('at'),
        sa.CheckConstraint("state IN ('waiting', 'read', 'failed')", name='state_is_known'),
    )
    op.create_index('ix_report_reading_copy_id', 'report_reading', ['copy_id'])
    op.create_index('ix_report_reading_state', 'report_reading', ['review_id', 'state'])
    op.create_table(
        'proposal',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        reference('study_id', 'study.id'),
        reference('item_id', 'item.id'),
        reference('arm_id', 'level.id', null=True),
        reference('outcome_id', 'level.id', null=True),
        reference('time_id', 'level.id', null=True),
        reference('copy_id', 'copy.id'),
        text('text'),
        text('quote'),
        sa.Column('page', sa.Integer(), nullable=True),
        sa.Column('confidence', sa.Float(), nullable=False),
        sa.Column('signs', JSONB, nullable=False),
        time('at'),
        time('gone_at', null=True),
    )
    op.create_index('ix_proposal_cell', 'proposal', ['review_id', 'study_id', 'item_id'])
    for name in ('study_id', 'item_id', 'copy_id'):
        op.create_index(f'ix_proposal_{name}', 'proposal', [name])
    op.create_table(
        'proposal_answer',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        reference('review_id', 'review.id'),
        reference('proposal_id', 'proposal.id'),
        sa.Column('stroke', ID, nullable=False),
        text('verdict'),
        reference('account_id', 'account.id'),
        time('at'),
        time('withdrawn_at', null=True),
        sa.CheckConstraint("verdict IN ('accepted', 'changed', 'refused')", name='verdict_is_known'),
    )
    op.create_index('ix_proposal_answer_proposal_id', 'proposal_answer', ['proposal_id'])
    op.create_index('ix_proposal_answer_stroke', 'proposal_answer', ['review_id', 'stroke'])


def downgrade() -> None:
    for table in ('proposal_answer', 'proposal', 'report_reading', 'codebook_version'):
        op.drop_table(table)
    op.drop_index('ix_value_review', 'value')
    op.create_index('ix_value_review_id', 'value', ['review_id'])
    for name in ('arm_id', 'outcome_id', 'time_id', 'copy_id', 'how', 'unfit'):
        op.drop_column('value', name)
    for name in ('low', 'high', 'per', 'concept_id', 'examples'):
        op.drop_column('item', name)
    op.drop_table('level')
    op.drop_table('concept')
    op.execute("UPDATE item SET kind = 'number' WHERE kind = 'quantity'")
    op.execute("UPDATE item SET kind = 'events' WHERE kind = 'counts'")
