"""Passes with several blind readers, shares of the work, and what a viewer may see"""

import sqlalchemy as sa
from alembic import op

revision = '0019'
down_revision = '0018'
branch_labels = None
depends_on = None

STATES = {'first': ('open', 'unsure', 'include', 'exclude', 'aside'), 'second': ('open', 'unsure', 'include', 'exclude')}

VIEWER = "coalesce(nullif(current_setting('kettle.viewer', true), '')::bigint, 0)"
OF_PASS = 's.first_blind OR ({number} <> 1 AND s.second_blind)'
STANDS = 'LEFT JOIN placement p ON p.copy_id = t.copy_id LEFT JOIN standing s ON s.record_id = p.record_id'
VIEWS = {
    'seen_verdict': ('verdict', f't.account_id = {VIEWER}', OF_PASS.format(number='t.pass_number')),
    'seen_note': ('note', f't.account_id = {VIEWER}', OF_PASS.format(number='0')),
    'seen_labelled': ('labelled', f't.account_id IN (0, {VIEWER})', OF_PASS.format(number='0')),
    'seen_event': ('event', f't.copy_id IS NULL OR t.account_id = {VIEWER}', OF_PASS.format(number='coalesce(t.pass_number, 0)')),
}


def states(more: tuple[str, ...]) -> None:
    for column, values in STATES.items():
        said = ', '.join(repr(value) for value in (*values, *more))
        op.drop_constraint(f'{column}_is_known', 'standing')
        op.create_check_constraint(f'{column}_is_known', 'standing', f'{column} IN ({said})')


def upgrade() -> None:
    op.create_table(
        'pass_mode',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('pass_number', sa.Integer(), nullable=False),
        sa.Column('readers', sa.Integer(), nullable=False),
        sa.Column('differ', sa.String(), nullable=False),
        sa.Column('unsure', sa.String(), nullable=False),
        sa.Column('settling', sa.String(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint('pass_number IN (1, 2)', name='pass_number_is_known'),
        sa.CheckConstraint("differ IN ('verdict', 'reason')", name='differ_is_known'),
        sa.CheckConstraint("unsure IN ('stays', 'goes_on')", name='unsure_is_known'),
        sa.CheckConstraint("settling IN ('third', 'talk')", name='settling_is_known'),
    )
    op.create_index('ix_pass_mode_review', 'pass_mode', ['review_id', 'pass_number', 'id'])
    op.create_table(
        'sharing',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('pass_number', sa.Integer(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('pilot', sa.Boolean(), nullable=False),
        sa.Column('seed', sa.Integer(), nullable=True),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('removed_at', sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint('pass_number IN (1, 2)', name='pass_number_is_known'),
    )
    op.create_index('ix_sharing_review_id', 'sharing', ['review_id'])
    op.create_table(
        'allotment',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('sharing_id', sa.BigInteger(), sa.ForeignKey('sharing.id'), nullable=False),
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('place', sa.Integer(), nullable=False),
        sa.Column('beyond', sa.Boolean(), nullable=False),
        sa.Column('given_back_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_allotment_copy', 'allotment', ['copy_id'], postgresql_where=sa.text('given_back_at IS NULL'))
    op.create_index('ix_allotment_share', 'allotment', ['sharing_id', 'account_id', 'place'])

    op.create_table(
        'screen_sample',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('seed', sa.Integer(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('withdrawn_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_screen_sample_review_id', 'screen_sample', ['review_id'])
    op.create_table(
        'sampled',
        sa.Column('sample_id', sa.BigInteger(), sa.ForeignKey('screen_sample.id'), primary_key=True),
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), primary_key=True),
        sa.Column('place', sa.Integer(), nullable=False),
    )
    op.add_column('verdict', sa.Column('settles', sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column('verdict', 'settles', server_default=None)
    for column in ('first_blind', 'second_blind'):
        op.add_column('standing', sa.Column(column, sa.Boolean(), nullable=False, server_default=sa.false()))
        op.alter_column('standing', column, server_default=None)
    states(('differs',))
    op.add_column('event', sa.Column('copy_id', sa.BigInteger(), nullable=True))
    op.add_column('event', sa.Column('pass_number', sa.Integer(), nullable=True))
    op.add_column('labelled', sa.Column('account_id', sa.BigInteger(), nullable=False, server_default='0'))
    op.alter_column('labelled', 'account_id', server_default=None)
    for table, columns in (('labelled', ['label_id', 'copy_id', 'account_id']), ('hold', ['review_id', 'pass_number', 'record_id', 'account_id'])):
        op.drop_constraint(f'{table}_pkey', table)
        op.create_primary_key(f'{table}_pkey', table, columns)
    for view, (table, own, blind) in VIEWS.items():
        op.execute(f'CREATE VIEW {view} AS SELECT t.* FROM {table} t {STANDS} WHERE {own} OR NOT coalesce({blind}, FALSE)')


def downgrade() -> None:
    for view in VIEWS:
        op.execute(f'DROP VIEW {view}')
    op.execute('DELETE FROM labelled d USING labelled o WHERE o.label_id = d.label_id AND o.copy_id = d.copy_id AND o.account_id < d.account_id')
    op.execute('DELETE FROM hold')
    for table, columns in (('labelled', ['label_id', 'copy_id']), ('hold', ['review_id', 'pass_number', 'record_id'])):
        op.drop_constraint(f'{table}_pkey', table)
        op.create_primary_key(f'{table}_pkey', table, columns)
    op.drop_column('labelled', 'account_id')
    op.drop_column('event', 'pass_number')
    op.drop_column('event', 'copy_id')
    op.execute("UPDATE standing SET first = 'open' WHERE first = 'differs'")
    op.execute("UPDATE standing SET second = 'open' WHERE second = 'differs'")
    states(())
    op.drop_column('standing', 'second_blind')
    op.drop_column('standing', 'first_blind')
    op.drop_column('verdict', 'settles')
    op.drop_table('sampled')
    op.drop_table('screen_sample')
    op.drop_table('allotment')
    op.drop_table('sharing')
    op.drop_table('pass_mode')
