"""Runs of a search, reading recipes, labels, narrowing, gaps, and runs in a catalogue"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0011'
down_revision = '0010'
branch_labels = None
depends_on = None

NOW = sa.text('now()')


def _id() -> sa.Column:
    return sa.Column('id', sa.BigInteger(), sa.Identity(always=False), primary_key=True)


def _ref(name: str, target: str, null: bool = False) -> sa.Column:
    return sa.Column(name, sa.BigInteger(), sa.ForeignKey(f'{target}.id'), nullable=null)


def _moment(name: str, null: bool = False) -> sa.Column:
    return sa.Column(name, sa.DateTime(timezone=True), server_default=None if null else NOW, nullable=null)


def _text(name: str) -> sa.Column:
    return sa.Column(name, sa.String(), nullable=False)


def _json(name: str) -> sa.Column:
    return sa.Column(name, postgresql.JSONB(), nullable=False)


def upgrade() -> None:
    op.create_table(
        'search_run', _id(), _ref('review_id', 'review'), _ref('search_id', 'search'), sa.Column('number', sa.Integer(), nullable=False),
        _text('query'), _text('limits'), sa.Column('run_on', sa.Date(), nullable=True), _text('run_by'), sa.Column('announced', sa.Integer(), nullable=True),
        _text('notes'), sa.Column('query_version', sa.Integer(), nullable=True), _ref('catalogue_id', 'catalogue', True), _text('state'), _text('failure'),
        _json('understood'), _moment('made_at'),
    )
    op.create_index('ix_search_run_review_id', 'search_run', ['review_id'])
    op.create_index('ix_search_run_search_id', 'search_run', ['search_id'])
    op.execute("""INSERT INTO search_run (review_id, search_id, number, query, limits, run_on, run_by, announced, notes, state, failure, understood)
        SELECT review_id, id, 1, query, limits, run_on, run_by, announced, '', '', '', '[]'::jsonb FROM search""")
    for name in ('query', 'limits', 'run_on', 'run_by', 'announced'):
        op.drop_column('search', name)
    op.add_column('batch', _ref('run_id', 'search_run', True))
    op.execute('UPDATE batch b SET run_id = r.id FROM search_run r WHERE r.search_id = b.search_id')
    op.alter_column('batch', 'run_id', nullable=False)
    op.create_index('ix_batch_run_id', 'batch', ['run_id'])
    for name, default in (('certainty', 'sure'), ('reading', '{}'), ('odd', '[]'), ('how', '{}')):
        kind = sa.String() if name == 'certainty' else postgresql.JSONB()
        op.add_column('batch', sa.Column(name, kind, nullable=False, server_default=default))
        op.alter_column('batch', name, server_default=None)
    op.add_column('review', sa.Column('texts', sa.BigInteger(), nullable=False, server_default='0'))
    op.alter_column('review', 'texts', server_default=None)
    op.create_table('recipe', _id(), _ref('review_id', 'review'), _text('name'), sa.Column('version', sa.Integer(), nullable=False), _text('text'), _ref('account_id', 'account'), _moment('at'), _moment('removed_at', True))
    op.create_index('ix_recipe_review_id', 'recipe', ['review_id'])
    op.create_table(
        'habit', sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False), _text('source'), _text('format'), _json('how'),
        sa.PrimaryKeyConstraint('review_id', 'source', 'format'),
    )
    op.create_table('label', _id(), _ref('review_id', 'review'), _text('name'), _ref('account_id', 'account'), _moment('made_at'), _moment('removed_at', True))
    op.create_index('ix_label_review_id', 'label', ['review_id'])
    op.create_table(
        'labelled', sa.Column('label_id', sa.BigInteger(), sa.ForeignKey('label.id'), nullable=False), sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        sa.PrimaryKeyConstraint('label_id', 'copy_id'),
    )
    op.create_index('ix_labelled_copy_id', 'labelled', ['copy_id'])
    op.create_table(
        'narrowing', _id(), _ref('review_id', 'review'), _text('name'), _text('query'), _text('abstract'), sa.Column('keep', sa.Boolean(), nullable=False), sa.Column('by_hand', sa.Boolean(), nullable=False),
        sa.Column('spare', sa.Boolean(), nullable=False), sa.Column('again', sa.Boolean(), nullable=False), _ref('account_id', 'account'), _moment('at'), _moment('withdrawn_at', True),
    )
    op.create_index('ix_narrowing_review_id', 'narrowing', ['review_id'])
    op.create_table(
        'narrowed', sa.Column('narrowing_id', sa.BigInteger(), sa.ForeignKey('narrowing.id'), nullable=False), sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        _ref('account_id', 'account'), _moment('released_at', True), sa.PrimaryKeyConstraint('narrowing_id', 'copy_id'),
    )
    op.create_index('ix_narrowed_copy_id', 'narrowed', ['copy_id'], postgresql_where=sa.text('released_at IS NULL'))
    op.add_column('standing', _ref('narrowing_id', 'narrowing', True))
    op.create_index('ix_standing_narrowing', 'standing', ['review_id', 'narrowing_id', 'main'], postgresql_where=sa.text('narrowing_id IS NOT NULL'))
    op.create_table(
        'gap', _id(), _ref('review_id', 'review'), _ref('copy_id', 'copy'), _text('field'), _json('before'), _json('value'), _text('source'), _text('state'),
        _ref('account_id', 'account', True), _moment('at'),
    )
    op.create_index('ix_gap_review_id', 'gap', ['review_id'])
    op.create_index('ix_gap_copy_id', 'gap', ['copy_id'])
    op.add_column('supplement', sa.Column('replaces', sa.Boolean(), nullable=False, server_default='false'))
    op.alter_column('supplement', 'replaces', server_default=None)
    op.create_table(
        'schedule', _id(), _ref('review_id', 'review'), _ref('search_id', 'search'), _ref('catalogue_id', 'catalogue'), _text('query'), sa.Column('query_version', sa.Integer(), nullable=True),
        _text('every'), _moment('next_at', True), _ref('account_id', 'account'), _moment('made_at'), _moment('stopped_at', True),
    )
    op.create_index('ix_schedule_review_id', 'schedule', ['review_id'])
    op.create_table(
        'fetched', sa.Column('run_id', sa.BigInteger(), sa.ForeignKey('search_run.id'), nullable=False), sa.Column('position', sa.Integer(), nullable=False), _text('key'), _text('raw'),
        sa.PrimaryKeyConstraint('run_id', 'position'),
    )


def downgrade() -> None:
    raise NotImplementedError('runs of a search cannot be folded into the search again')
