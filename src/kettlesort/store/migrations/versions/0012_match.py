"""Rules of matching and what was learnt, trials, keys, checks by hand; who looks at a question"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0012'
down_revision = '0011'
branch_labels = None
depends_on = None


def _id() -> sa.Column:
    return sa.Column('id', sa.BigInteger(), sa.Identity(always=False), primary_key=True)


def _ref(name: str, target: str, null: bool = False) -> sa.Column:
    return sa.Column(name, sa.BigInteger(), sa.ForeignKey(f'{target}.id'), nullable=null)


def _moment(name: str, null: bool = False) -> sa.Column:
    return sa.Column(name, sa.DateTime(timezone=True), server_default=None if null else sa.text('now()'), nullable=null)


def _text(name: str) -> sa.Column:
    return sa.Column(name, sa.String(), nullable=False)


def _json(name: str) -> sa.Column:
    return sa.Column(name, postgresql.JSONB(), nullable=False)


def _added(table: str, name: str, kind: sa.types.TypeEngine, default: str) -> None:
    op.add_column(table, sa.Column(name, kind, nullable=False, server_default=default))
    op.alter_column(table, name, server_default=None)


def upgrade() -> None:
    op.create_table(
        'match_rule', _id(), _ref('review_id', 'review'), sa.Column('version', sa.Integer(), nullable=False), _text('text'), _ref('account_id', 'account'), _moment('at'),
    )
    op.create_index('ix_match_rule_review_id', 'match_rule', ['review_id'])
    op.create_table(
        'learnt', sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), primary_key=True), _json('data'), _moment('at'),
    )
    op.create_table(
        'trial', _id(), _ref('review_id', 'review'), _text('rule'), _text('state'), _json('mark'), _json('summary'), _json('learnt'), _text('failure'),
        _ref('account_id', 'account'), _moment('at'), _moment('applied_at', True), _ref('applied_by', 'account', True), _moment('undone_at', True),
        _ref('undone_by', 'account', True),
    )
    op.create_index('ix_trial_review_id', 'trial', ['review_id'])
    op.create_table(
        'trial_pair', _id(), _ref('trial_id', 'trial'), _ref('left_copy', 'copy'), _ref('right_copy', 'copy'), sa.Column('score', sa.Float(), nullable=False),
        _text('verdict'), _text('how'), _text('kind'), _text('change'), _text('edge'),
    )
    for name in ('trial_id', 'left_copy', 'right_copy'):
        op.create_index(f'ix_trial_pair_{name}', 'trial_pair', [name])
    op.create_table(
        'match_key', _ref('review_id', 'review'), sa.Column('key', sa.BigInteger(), nullable=False), sa.Column('place', sa.BigInteger(), nullable=False), _ref('copy_id', 'copy'),
        sa.PrimaryKeyConstraint('review_id', 'key', 'place', 'copy_id'),
    )
    op.create_index('ix_match_key_copy_id', 'match_key', ['copy_id'])
    op.create_table(
        'check_sample', _id(), _ref('review_id', 'review'), _text('of'), sa.Column('population', sa.Integer(), nullable=False), _ref('account_id', 'account'), _moment('at'),
    )
    op.create_index('ix_check_sample_review_id', 'check_sample', ['review_id'])
    op.create_table(
        'checked_pair', _id(), _ref('sample_id', 'check_sample'), _ref('left_copy', 'copy'), _ref('right_copy', 'copy'), sa.Column('score', sa.Float(), nullable=False),
        sa.Column('same', sa.Boolean(), nullable=True), _ref('account_id', 'account', True), _moment('answered_at', True),
    )
    op.create_index('ix_checked_pair_sample_id', 'checked_pair', ['sample_id'])
    _added('batch', 'keyed', sa.Boolean(), 'false')
    _added('ruling', 'how', sa.String(), '')
    _added('ruling', 'related', sa.Boolean(), 'false')
    op.add_column('ruling', _ref('trial_id', 'trial', True))
    op.add_column('ruling', _ref('withdrawn_trial_id', 'trial', True))
    op.create_index('ix_ruling_trial_id', 'ruling', ['trial_id'])
    op.create_index('ix_ruling_withdrawn_trial_id', 'ruling', ['withdrawn_trial_id'])
    _added('question', 'kind', sa.String(), '')
    _added('question', 'how', sa.String(), '')
    op.add_column('question', _ref('held_by', 'account', True))
    op.add_column('question', _moment('held_until', True))
    op.add_column('question', _ref('trial_id', 'trial', True))
    op.add_column('question', _ref('gone_trial_id', 'trial', True))
