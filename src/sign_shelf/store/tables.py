"""The tables. Constraint names carry their meaning: `TAKEN` is how people are told of them."""

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, Column, DateTime, Index, MetaData, Text, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSON, JSONB
from sqlmodel import Field, SQLModel

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
}


TAKEN = {
    "uq_person_email": "There is an account for this e-mail address already.",
    "uq_site_key": "Another site has this key already.",
    "uq_site_base": "Another site has this address already.",
    "pk_template": "This version of the template was saved meanwhile.",
    "uq_channel_address": "You get notices at this address already.",
    "pk_fact_set": "This version of the shared facts was saved meanwhile.",
}


class Table(SQLModel):
    metadata = MetaData(naming_convention=NAMING)


def _at(*, nullable: bool = False, index: bool = False) -> Any:
    return Field(sa_column=Column(DateTime(timezone=True), nullable=nullable, index=index))


def _json(*, nullable: bool = False) -> Any:
    return Field(sa_column=Column(JSONB, nullable=nullable))


def _ordered() -> Any:
    """JSON whose keys stay in the order in which people put them."""
    return Field(sa_column=Column(JSON, nullable=False))


class PersonRow(Table, table=True):
    __tablename__ = "person"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    email: str = Field(unique=True)
    name: str
    password_hash: str = Field(repr=False)
    role: str
    created_at: datetime = _at()
    disabled_at: datetime | None = _at(nullable=True)
    """Since when the person may not sign in."""


class SessionRow(Table, table=True):
    """A sign-in of a person in a browser, or a program's token (which has a name). Only the token's hash is kept."""

    __tablename__ = "signed_in"
    token_hash: str = Field(primary_key=True, repr=False)
    id: UUID = Field(default_factory=uuid4, unique=True)
    """By which it is listed and ended."""
    person_id: UUID = Field(foreign_key="person.id", index=True)
    name: str = ""
    browser: str = ""
    address: str = ""
    created_at: datetime = _at()
    expires_at: datetime = _at()
    seen_at: datetime | None = _at(nullable=True)
    scope: str = "all"
    """What of all that the person may a program may (desk/permission.py)."""
    only_at: list[str] = _json()
    """The keys of the sites that it is kept to; empty where it is kept to none."""


class SecondFactorRow(Table, table=True):
    """What a person's authenticator counts with (RFC 6238), sealed. It counts `since` they showed that they have it."""

    __tablename__ = "second_factor"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    sealed: str = Field(repr=False)
    made_at: datetime = _at()
    since: datetime | None = _at(nullable=True)
    last_step: int = Field(default=0, sa_type=BigInteger)
    """Of the last code that was taken: no code is taken twice."""
    spare: list[str] = _json()
    """The hashes of codes for when the authenticator is lost; each is taken once."""


class InvitationRow(Table, table=True):
    """Somebody is asked to come in. Only the hash of the link's token is kept."""

    __tablename__ = "invitation"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    token_hash: str = Field(unique=True, repr=False)
    email: str
    name: str
    role: str
    made_by: UUID | None = Field(default=None, foreign_key="person.id")
    made_at: datetime = _at()
    until: datetime = _at()
    over_at: datetime | None = _at(nullable=True)
    """When it was taken up, or withdrawn."""


class IdentityRow(Table, table=True):
    """By what an identity provider knows a person (OpenID Connect Core 1.0, 5.7: issuer and subject together)."""

    __tablename__ = "identity"
    issuer: str = Field(primary_key=True)
    subject: str = Field(primary_key=True)
    person_id: UUID = Field(foreign_key="person.id", index=True)
    since: datetime = _at()


class KnownBrowserRow(Table, table=True):
    """A browser in which a person signed in once: others' failed tries do not slow it down."""

    __tablename__ = "known_browser"
    mark_hash: str = Field(primary_key=True)
    person_id: UUID = Field(foreign_key="person.id", index=True)
    at: datetime = _at()


class TryRow(Table, table=True):
    """A sign-in that was tried and did not succeed, or not yet: one row for each subject that it counts for, such as
    `account x@y.example`, `address 192.0.2.7` or `browser …`."""

    __tablename__ = "sign_in_try"
    __table_args__ = (Index("ix_sign_in_try_subject_at", "subject", "at"),)
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    subject: str
    at: datetime = _at()


class TemplateRow(Table, table=True):
    __tablename__ = "template"
    key: str = Field(primary_key=True)
    version: int = Field(primary_key=True)
    document: dict[str, Any] = _json()


class ArrangementRow(Table, table=True):
    """All of a site beside its menus that people decide (core/changes/arrangement.py), named by its content. Never changed
    (a trigger sees to it)."""

    __tablename__ = "arrangement"
    hash: str = Field(primary_key=True)
    document: dict[str, Any] = _ordered()


class StateRow(Table, table=True):
    """What a site shows, whole: an arrangement and a tree for each menu. Never changed (a trigger sees to it)."""

    __tablename__ = "state"
    hash: str = Field(primary_key=True)
    arrangement: str = Field(foreign_key="arrangement.hash")
    menus: dict[str, str] = _ordered()


class SiteRow(Table, table=True):
    __tablename__ = "site"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    key: str = Field(unique=True)
    name: str
    base: str = Field(unique=True)
    particulars: dict[str, Any] = _json()
    connection: str
    endpoint: str | None = None
    live_state: str = Field(foreign_key="state.hash")
    """The state that was last read back and verified."""
    live_since: datetime = _at()
    inventory: int = 0
    """The version of what is known of its pages: another one whenever something of it changes."""
    trying_state: str | None = Field(default=None, foreign_key="state.hash")
    """What a site that asks is given while a release finds out whether it shows it; nothing else is ever given."""
    created_at: datetime = _at()
    archived_at: datetime | None = _at(nullable=True)
    """Since when it is put away: looked at by its address, offered nowhere, and not edited."""


class SiteKeyRow(Table, table=True):
    """A key of a site, sealed (store/seals.py). `until` is when one that was replaced stops counting."""

    __tablename__ = "site_key"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    site_id: UUID = Field(foreign_key="site.id", index=True)
    kind: str
    sealed: str = Field(repr=False)
    made_at: datetime = _at()
    until: datetime | None = _at(nullable=True)


class FactSetRow(Table, table=True):
    """Facts, audiences and named rules that sites share, in one version. Never changed (a trigger sees to it)."""

    __tablename__ = "fact_set"
    key: str = Field(primary_key=True)
    version: int = Field(primary_key=True)
    title: str
    document: dict[str, Any] = _ordered()


class SharedMenuRow(Table, table=True):
    """A menu of the agency's that sites follow, in one version: its tree. Never changed."""

    __tablename__ = "shared_menu"
    key: str = Field(primary_key=True)
    version: int = Field(primary_key=True)
    name: str
    language: str
    """In which its outline is written."""
    hash: str = Field(foreign_key="tree.hash")
    author_id: UUID | None = Field(default=None, foreign_key="person.id")
    at: datetime = _at()


class MembershipRow(Table, table=True):
    """The role that a person has at one site, whatever role they have elsewhere."""

    __tablename__ = "membership"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    site_id: UUID = Field(primary_key=True, foreign_key="site.id", index=True)
    role: str


class TeamRow(Table, table=True):
    """People who look after some sites together, each with a role at all of these."""

    __tablename__ = "team"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    name: str = Field(unique=True)


class TeamSiteRow(Table, table=True):
    __tablename__ = "team_site"
    team_id: UUID = Field(primary_key=True, foreign_key="team.id")
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")


class TeamMemberRow(Table, table=True):
    __tablename__ = "team_member"
    team_id: UUID = Field(primary_key=True, foreign_key="team.id")
    person_id: UUID = Field(primary_key=True, foreign_key="person.id", index=True)
    role: str


class ShelfViewRow(Table, table=True):
    """A way of looking at the shelf that a person keeps: which sites, in what order, how closely."""

    __tablename__ = "shelf_view"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    name: str = Field(primary_key=True)
    at: dict[str, Any] = _json()
    kept_at: datetime = _at()


class FontRow(Table, table=True):
    """A font of the agency's own, checked when it was uploaded. `file` is OpenType."""

    __tablename__ = "font"
    family: str = Field(primary_key=True)
    lightest: int
    heaviest: int
    file: bytes
    hash: str
    person_id: UUID | None = Field(default=None, foreign_key="person.id")
    at: datetime = _at()


class PageRow(Table, table=True):
    __tablename__ = "page"
    __table_args__ = (UniqueConstraint("site_id", "path", name="uq_page_path"),)
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    ref: str = Field(primary_key=True)
    position: int
    path: str
    title: dict[str, Any] = _json()
    type: str
    language: str | None = None
    state: str
    under: str | None = None
    date: str | None = None
    ends: str | None = None
    noindex: bool = False
    parts: list[str] = _json()
    overlays: list[str] = _json()


class PageSeenRow(Table, table=True):
    """What a page answered last, and by what it is asked for only if it changed. `seen_at` is when it was there last;
    `content` names its text; `listed_in` is the sitemap that names it, with its `lastmod` there in `changed`."""

    __tablename__ = "page_seen"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    ref: str = Field(primary_key=True)
    status: int | None = None
    asked_at: datetime | None = _at(nullable=True)
    seen_at: datetime | None = _at(nullable=True)
    etag: str | None = None
    modified: str | None = None
    content: str = ""
    listed_in: str = ""
    changed: str = ""
    alternates: dict[str, str] = _json()


class SiteReadingRow(Table, table=True):
    """How a site's pages are kept known. `doubt`: what a reading told and nobody has confirmed yet."""

    __tablename__ = "site_reading"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    due_at: datetime = _at()
    read_at: datetime | None = _at(nullable=True)
    says: str = ""
    """Why the last one came to nothing; empty where it did not."""
    progress: dict[str, Any] | None = _json(nullable=True)
    """While it is read."""
    listed: int = 0
    sitemaps: list[Any] = _json()
    ending: str = ""
    notes: list[str] = _json()
    doubt: dict[str, Any] | None = _json(nullable=True)


class PageNewsRow(Table, table=True):
    """A difference that a reading of a site's pages found, in the version of the inventory that it made."""

    __tablename__ = "page_news"
    __table_args__ = (Index("ix_page_news_site_id_at", "site_id", "at"),)
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    site_id: UUID = Field(foreign_key="site.id")
    version: int
    at: datetime = _at()
    kind: str
    ref: str
    because: str = ""
    before: dict[str, Any] | None = _json(nullable=True)
    after: dict[str, Any] = _json()
    settled: str | None = None
    """Of a new page: "placed" or "dismissed"."""
    settled_at: datetime | None = _at(nullable=True)
    settled_by: UUID | None = Field(default=None, foreign_key="person.id")


class TreeRow(Table, table=True):
    """A menu document, named by its content hash, with its summary (core/drawing/summary.py). Never changed (a trigger
    sees to it)."""

    __tablename__ = "tree"
    hash: str = Field(primary_key=True)
    name: str
    document: dict[str, Any] = _json()
    items: int
    depth: int
    pending: int
    lists: bool
    bars: list[Any] = _ordered()


class TreeItemRow(Table, table=True):
    """One item of a tree as a line (core/outline/lines.py): what is looked for in many menus is found without reading
    any."""

    __tablename__ = "tree_item"
    __table_args__ = (Index("ix_tree_item_address", "address", postgresql_using="hash"),)
    hash: str = Field(primary_key=True, foreign_key="tree.hash")
    position: int = Field(primary_key=True)
    item: str
    number: str
    kind: str
    label: str
    page: str | None = Field(default=None, index=True)
    address: str | None = None
    host: str | None = Field(default=None, index=True)
    rule: str | None = None
    opens: str | None = None
    closes: str | None = None


class RevisionRow(Table, table=True):
    """One save of a menu in a change: which tree it had from then on, after which, by whom. Never changed (a trigger sees
    to it)."""

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_site_id_menu_hash", "site_id", "menu", "hash"),)
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    site_id: UUID = Field(foreign_key="site.id")
    menu: str
    hash: str = Field(foreign_key="tree.hash")
    parent_id: int | None = Field(default=None, foreign_key="revision.id", sa_type=BigInteger)
    change_id: UUID | None = Field(default=None, foreign_key="change.id", index=True)
    author_id: UUID | None = Field(default=None, foreign_key="person.id")
    at: datetime = _at()


class LiveSlotRow(Table, table=True):
    """What a client site was last seen to show in a place: the hash of its menu, when, and its entity tag."""

    __tablename__ = "live_slot"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    location: str = Field(primary_key=True)
    device: str = Field(primary_key=True)
    hash: str
    etag: str
    seen_at: datetime = _at()


class RepositoryRow(Table, table=True):
    """Where a site gets its menus by commits. `sealed`: the address, which may hold a token."""

    __tablename__ = "repository"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    sealed: str
    branch: str
    folder: str


class LiveReadingRow(Table, table=True):
    """When a site was last read as it is live, and when it is again. `says`: why it could not be read; then nothing is known anew.
    `state`: what was live when it was."""

    __tablename__ = "live_reading"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    every_minutes: int
    due_at: datetime = _at()
    read_at: datetime | None = _at(nullable=True)
    state: str = ""
    says: str = ""
    places: int = 0
    """How many were read."""


class DriftRow(Table, table=True):
    """A place of a site that shows something else than was verified there, to visitors of an `audience` where it is named. `edits` lead from
    that (`base`) to what is `there`, in sentences; `sure` from 0 to 1. Who edited it and when, where the site tells."""

    __tablename__ = "drift"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    location: str = Field(primary_key=True)
    device: str = Field(primary_key=True)
    audience: str = Field(default="", primary_key=True)
    edits: list[dict[str, Any]] = _json()
    base: dict[str, Any] = _json()
    there: dict[str, Any] = _json()
    sure: float
    etag: str | None = None
    edited_by: str | None = None
    edited_at: datetime | None = _at(nullable=True)
    since: datetime = _at()


class ChangeRow(Table, table=True):
    """A branch of states, of one or many sites. `state` is where it stands in its life (core/changes/life.py)."""

    __tablename__ = "change"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    title: str
    why: str = ""
    state: str
    author_id: UUID | None = Field(default=None, foreign_key="person.id")
    created_at: datetime = _at()
    live_at: datetime | None = _at(nullable=True)


class ChangePartRow(Table, table=True):
    """What a change does to one site: the state that it set out from, and the state that it wants."""

    __tablename__ = "change_part"
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    site_id: UUID = Field(primary_key=True, foreign_key="site.id", index=True)
    base: str = Field(foreign_key="state.hash")
    head: str = Field(foreign_key="state.hash")
    live_at: datetime | None = _at(nullable=True)
    """When it went live, where it did."""
    goes_at: datetime | None = _at(nullable=True, index=True)
    ends_at: datetime | None = _at(nullable=True, index=True)
    """Its schedule's moments on this site's clock."""
    over_at: datetime | None = _at(nullable=True)
    """When what was live before it came back: by its end, or undone."""
    says: str = ""
    """What kept it from going, or from coming back, when its moment came."""
    foretold: str = ""
    """What is known to stand in its way."""


class ContributionRow(Table, table=True):
    """That somebody wrote something into a change, whatever it was: nobody approves what they contributed to."""

    __tablename__ = "contribution"
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")


class ScheduleRow(Table, table=True):
    """When a change is to go live, and to come back (core/changes/schedule.py), as it was said."""

    __tablename__ = "schedule"
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    kind: str
    goes: str
    ends: str | None = None
    set_by: UUID | None = Field(default=None, foreign_key="person.id")
    set_at: datetime = _at()
    season_id: UUID | None = Field(default=None, foreign_key="season.id", index=True)
    years: int = 0
    """So many years after the season's first."""


class SeasonRow(Table, table=True):
    """A change that comes back every year (core/changes/season.py), by the readings of its first. Each year's is a change of its
    own, which says in its schedule of which season it is."""

    __tablename__ = "season"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    title: str
    kind: str
    goes: str
    ends: str
    goes_on: str
    ends_on: str
    approved: bool
    set_by: UUID | None = Field(default=None, foreign_key="person.id")
    set_at: datetime = _at()
    over_at: datetime | None = _at(nullable=True)
    """Since when it comes back no more."""


class ForetoldStateRow(Table, table=True):
    """What a site will show from a moment on, by what is known now: kept up by whoever foretells (desk/schedule.py)."""

    __tablename__ = "foretold_state"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    position: int = Field(primary_key=True)
    at: datetime = _at()
    state: str = Field(foreign_key="state.hash")
    says: str


class FreezeRow(Table, table=True):
    """From one moment to another nothing goes live at the site, or at any where none is named: readings of each site's own clock."""

    __tablename__ = "freeze_period"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    site_id: UUID | None = Field(default=None, foreign_key="site.id", index=True)
    begins: str
    ends: str
    why: str
    set_by: UUID | None = Field(default=None, foreign_key="person.id")
    set_at: datetime = _at()


class SignOffRow(Table, table=True):
    """A link by which somebody at the client looks at a change and says yes or no; its token hashed. `sites` are the keys of those
    that it shows."""

    __tablename__ = "sign_off"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    change_id: UUID = Field(foreign_key="change.id", index=True)
    token_hash: str = Field(unique=True)
    for_whom: str
    sites: list[str] = _json()
    made_by: UUID | None = Field(default=None, foreign_key="person.id")
    made_at: datetime = _at()
    until: datetime = _at()
    withdrawn_at: datetime | None = _at(nullable=True)


class SignOffSaidRow(Table, table=True):
    """What somebody with the link said of the change, as it was under that content name."""

    __tablename__ = "sign_off_said"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    sign_off_id: UUID = Field(foreign_key="sign_off.id", index=True)
    name: str
    verdict: str
    says: str
    content: str
    at: datetime = _at()


class LedgerSealRow(Table, table=True):
    """A line of the ledger with the hash over it and over all that were sealed before it (core/basics/chain.py)."""

    __tablename__ = "ledger_seal"
    position: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    line: int = Field(sa_column=Column(BigInteger, nullable=False, unique=True))
    hash: str


class FeedRow(Table, table=True):
    """The address by which a person's calendar program and feed reader learn what they may look at; its token hashed."""

    __tablename__ = "feed"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    token_hash: str = Field(unique=True)
    made_at: datetime = _at()


class VerdictRow(Table, table=True):
    """What somebody said of a change as it was under a content name (core/changes/review.py)."""

    __tablename__ = "verdict"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    change_id: UUID = Field(foreign_key="change.id", index=True)
    person_id: UUID = Field(foreign_key="person.id")
    content: str
    verdict: str
    says: str = ""
    at: datetime = _at()
    stands_since: datetime | None = _at(nullable=True)
    """Where it was given to another name, and what is live moved on without touching what was reviewed: when that was."""


class RemarkRow(Table, table=True):
    """What somebody said about a change, or an entry of it; `answers` is the remark that it is a reply to."""

    __tablename__ = "remark"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    change_id: UUID = Field(foreign_key="change.id", index=True)
    person_id: UUID = Field(foreign_key="person.id")
    site_id: UUID | None = Field(default=None, foreign_key="site.id")
    menu: str | None = None
    item: str | None = None
    answers: UUID | None = Field(default=None, foreign_key="remark.id")
    says: str
    at: datetime = _at()
    settled_at: datetime | None = _at(nullable=True)
    settled_by: UUID | None = Field(default=None, foreign_key="person.id")


class WorkRow(Table, table=True):
    """In which change a person works at a site, unless an address says otherwise."""

    __tablename__ = "work"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    change_id: UUID = Field(foreign_key="change.id", index=True)


class ChangeLookRow(Table, table=True):
    """What a person saw last of a change: the state that it wanted at each of its sites."""

    __tablename__ = "change_look"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    heads: dict[str, str] = Field(sa_column=Column(JSONB, nullable=False))
    """By the sites' keys."""
    at: datetime = _at()


class PresenceRow(Table, table=True):
    """A page of somebody's on which a change is edited or looked at, and the line that they are on; empty names where on none."""

    __tablename__ = "presence"
    page: UUID = Field(primary_key=True)
    person_id: UUID = Field(foreign_key="person.id")
    change_id: UUID = Field(foreign_key="change.id", index=True)
    site: str
    menu: str
    item: str
    meets: list[dict[str, Any]] = _json()
    """What of others' edits they are choosing about just now."""
    at: datetime = _at()


class ReleaseRow(Table, table=True):
    __tablename__ = "release"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    change_id: UUID = Field(foreign_key="change.id", index=True)
    site_id: UUID = Field(foreign_key="site.id", index=True)
    state: str
    says: str = ""
    asked_by: UUID | None = Field(default=None, foreign_key="person.id")
    asked_at: datetime = _at()
    finished_at: datetime | None = _at(nullable=True)
    before: str = Field(foreign_key="state.hash")
    target: str = Field(foreign_key="state.hash")
    """The state that was live when it was asked for, and the one that is to be."""
    tries: int = 0
    """How often a job took it up."""
    kind: str = "put live"
    """`put live`, or what gives back what was live before: `end`, `undo`."""


class ReleaseStepRow(Table, table=True):
    """One place that a release writes. The row's id is the idempotency key that the site sees; `placed` is the very
    document that is sent, on every try."""

    __tablename__ = "release_step"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    release_id: UUID = Field(foreign_key="release.id", index=True)
    position: int
    location: str
    device: str
    menu: str | None = None
    """None where the place is emptied."""
    placed: dict[str, Any] = _json()
    hash: str
    placed_before: dict[str, Any] | None = _json(nullable=True)
    """What the place showed before anything was sent, to be put back where the release fails."""
    done: list[dict[str, Any]] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False))
    """Where a person carries it out on the site: the `key` of each edit that they said is done, with `by` and `at`."""
    state: str
    etag_before: str | None = None
    etag_after: str | None = None
    sends: int = 0
    says: str = ""


class ReleasePlanRow(Table, table=True):
    """A release worked out ahead of its moment. It holds while `named`, all that it comes of, is the same, and on the `day` on the
    site's clock that its findings were asked for. `target` is None where it cannot go by what was known."""

    __tablename__ = "release_plan"
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    site_id: UUID = Field(primary_key=True, foreign_key="site.id", index=True)
    named: str
    day: str
    target: str | None = Field(default=None, foreign_key="state.hash")
    steps: list[dict[str, Any]] = _json()


class TakeInRow(Table, table=True):
    __tablename__ = "take_in"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    url: str
    state: str
    progress: dict[str, Any] = _json()
    proposal: dict[str, Any] | None = _json(nullable=True)
    says: str = ""
    asked_by: UUID | None = Field(default=None, foreign_key="person.id")
    asked_at: datetime = _at()
    site_id: UUID | None = Field(default=None, foreign_key="site.id")
    tries: int = 0
    """How often the reading was begun."""


class RequestRow(Table, table=True):
    """A create that was carried out once, under the key its client chose (Idempotency-Key)."""

    __tablename__ = "request"
    person_id: UUID = Field(primary_key=True, foreign_key="person.id")
    key: str = Field(primary_key=True)
    asked: str
    answer: dict[str, Any] = _json()
    at: datetime = _at()


class LinkRow(Table, table=True):
    """An address that menus lead to, asked once for all of them (core/links): what stands of it, and when it is due.
    `ours`: its host is one of a site's own."""

    __tablename__ = "link"
    __table_args__ = (Index("ix_link_host_due_at", "host", "due_at"),)
    address: str = Field(primary_key=True)
    host: str
    ours: bool
    verdict: str | None = None
    hops: list[Any] = _json()
    says: str = ""
    since: datetime | None = _at(nullable=True)
    asked_at: datetime | None = _at(nullable=True)
    suspect: bool = False
    fails: int = 0
    due_at: datetime = _at(index=True)


class LinkVerdictRow(Table, table=True):
    """One change of what stands of an address."""

    __tablename__ = "link_verdict"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    address: str = Field(foreign_key="link.address", index=True)
    at: datetime = _at()
    verdict: str
    says: str
    hops: list[Any] = _json()


class SiteLinkRow(Table, table=True):
    """Which addresses a site's menus lead to, those of its open changes included."""

    __tablename__ = "site_link"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    address: str = Field(primary_key=True, foreign_key="link.address", index=True)


class LinkHostRow(Table, table=True):
    """A host that one worker asks, so that all together ask it no faster than one."""

    __tablename__ = "link_host"
    host: str = Field(primary_key=True)
    held_by: UUID
    held_until: datetime = _at()


class SiteLookRow(Table, table=True):
    """What of a site was looked at last, for its links and its findings: where it differs from what the site is now, it is
    looked at again."""

    __tablename__ = "site_look"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    gathered: str = ""
    """The states whose links were gathered, and the inventory."""
    looked: str = ""
    """The state, the inventory, the day and the answers that the findings come of."""
    at: datetime | None = _at(nullable=True)
    live_state: str = ""
    """What was live when the home page was read as crawlers get it (core/crawled)."""
    live_pages: dict[str, Any] | None = _json(nullable=True)
    live_at: datetime | None = _at(nullable=True)
    """None where it is to be read again."""


class FindingRow(Table, table=True):
    """Something that a check found on a site as it is live. `back` counts how often it was gone and came back."""

    __tablename__ = "finding"
    __table_args__ = (
        Index("ix_finding_untold", "since", postgresql_where=text("severity = 'stop' AND gone_at IS NULL")),
    )
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    fingerprint: str = Field(primary_key=True)
    code: str
    severity: str
    cause: str
    """Its own fingerprint, where nothing else has the same cause."""
    menu: str | None = None
    item: str | None = None
    found: dict[str, Any] = _json()
    since: datetime = _at()
    gone_at: datetime | None = _at(nullable=True)
    back: int = 0
    told_at: datetime | None = _at(nullable=True)
    """When people were told of it at once."""


class CareRow(Table, table=True):
    """Who sees to what a cause brings about on a site, until when, or why it is accepted."""

    __tablename__ = "care"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    code: str = Field(primary_key=True)
    cause: str = Field(primary_key=True)
    owner_id: UUID | None = Field(default=None, foreign_key="person.id")
    due: str | None = None
    waived_by: UUID | None = Field(default=None, foreign_key="person.id")
    waived_at: datetime | None = _at(nullable=True)
    waived_until: str | None = None
    reason: str = ""


class ChannelRow(Table, table=True):
    """Where a person gets notices: by mail, at the address of their account, or at an address of theirs that takes
    webhooks."""

    __tablename__ = "channel"
    __table_args__ = (UniqueConstraint("person_id", "kind", "address", name="uq_channel_address"),)
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    person_id: UUID = Field(foreign_key="person.id")
    kind: str
    address: str = ""
    sealed: str = Field(default="", repr=False)
    """What webhooks are signed with."""
    wishes: dict[str, Any] = _json()
    made_at: datetime = _at()
    daily_at: datetime | None = _at(nullable=True)
    """Up to when the last daily notice told."""
    daily_due_at: datetime | None = _at(nullable=True, index=True)
    off_at: datetime | None = _at(nullable=True)
    """Since when the other side wants no more of them."""


class NoticeRow(Table, table=True):
    """Something that is told over a channel. `key` names what it is about: nobody is told of that twice."""

    __tablename__ = "notice"
    __table_args__ = (
        UniqueConstraint("channel_id", "key", name="uq_notice_key"),
        Index("ix_notice_due_at", "due_at", postgresql_where=text("state IN ('waiting', 'going')")),
        Index("ix_notice_channel_id_made_at", "channel_id", "made_at"),
    )
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    channel_id: UUID = Field(foreign_key="channel.id")
    key: str
    said: dict[str, Any] = _json()
    state: str = "waiting"
    made_at: datetime = _at()
    due_at: datetime = _at()
    sent_at: datetime | None = _at(nullable=True)
    tries: int = 0
    says: str = ""


class LedgerRow(Table, table=True):
    """Who did what, when, why. Append-only (a trigger sees to it)."""

    __tablename__ = "ledger"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    at: datetime = _at(index=True)
    person_id: UUID | None = Field(default=None, foreign_key="person.id")
    site_id: UUID | None = Field(default=None, foreign_key="site.id", index=True)
    action: str
    says: str = Field(sa_column=Column(Text, nullable=False))
    detail: dict[str, Any] = _json()
