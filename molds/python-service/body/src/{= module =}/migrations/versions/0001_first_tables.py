"""The accounts, what they sign in with, and the notes."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(64), nullable=False, unique=True),
        sa.Column("password_hash", sa.String(200), nullable=False),
    )
    op.create_table(
        "token",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("account.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("expires", sa.BigInteger, nullable=False, index=True),
    )
    op.create_table(
        "attempt",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(64), nullable=False),
        sa.Column("address", sa.String(64), nullable=False),
        sa.Column("time", sa.BigInteger, nullable=False, index=True),
    )
    op.create_table(
        "note",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("text", sa.String(1000), nullable=False),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("account.id"), nullable=False),
    )


def downgrade() -> None:
    for table in ("note", "attempt", "token", "account"):
        op.drop_table(table)
