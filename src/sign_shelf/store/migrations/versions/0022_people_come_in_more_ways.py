"""Second factors, invitations, teams, and who is known to an identity provider."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


# The role at a site is the one that was given there; else, of those that a person's teams have there, the one that may most.
_ROLE_AT_SITE = """
CREATE VIEW role_at_site AS
SELECT DISTINCT ON (given.person_id, site.key) given.person_id, site.key, given.role FROM (
  SELECT person_id, site_id, role, 0 AS by_team FROM membership
  UNION ALL
  SELECT member.person_id, looked_after.site_id, member.role, 1 FROM team_member member
  JOIN team_site looked_after ON looked_after.team_id = member.team_id) given
JOIN site ON site.id = given.site_id
ORDER BY given.person_id, site.key, given.by_team,
  array_position(ARRAY['owner', 'lead', 'reviewer', 'editor', 'viewer', 'none'], given.role::text)
"""


def upgrade() -> None:
    at = sa.DateTime(timezone=True)
    op.create_table(
        "second_factor",
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("sealed", sa.String, nullable=False),
        sa.Column("made_at", at, nullable=False),
        sa.Column("since", at, nullable=True),
        sa.Column("last_step", sa.BigInteger, nullable=False, server_default="0"),
        sa.Column("spare", JSONB, nullable=False, server_default="[]"),
    )
    op.create_table(
        "invitation",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("token_hash", sa.String, nullable=False, unique=True),
        sa.Column("email", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("role", sa.String, nullable=False),
        sa.Column("made_by", sa.Uuid, sa.ForeignKey("person.id"), nullable=True),
        sa.Column("made_at", at, nullable=False),
        sa.Column("until", at, nullable=False),
        sa.Column("over_at", at, nullable=True),
    )
    op.create_table(
        "team",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
    )
    op.create_table(
        "team_site",
        sa.Column("team_id", sa.Uuid, sa.ForeignKey("team.id"), primary_key=True),
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id"), primary_key=True),
    )
    op.create_table(
        "team_member",
        sa.Column("team_id", sa.Uuid, sa.ForeignKey("team.id"), primary_key=True),
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("role", sa.String, nullable=False),
    )
    op.create_index("ix_team_member_person_id", "team_member", ["person_id"])
    op.create_table(
        "identity",
        sa.Column("issuer", sa.String, primary_key=True),
        sa.Column("subject", sa.String, primary_key=True),
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), nullable=False),
        sa.Column("since", at, nullable=False),
    )
    op.create_index("ix_identity_person_id", "identity", ["person_id"])
    op.execute(_ROLE_AT_SITE)


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
