"""The tables. Constraint names carry their meaning; the queries beside this module turn them into refusals."""

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, Column, DateTime, ForeignKeyConstraint, Index, MetaData, Text, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSON, JSONB
from sqlmodel import Field, SQLModel

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
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


class SiteRow(Table, table=True):
    __tablename__ = "site"
    __table_args__ = (
        ForeignKeyConstraint(
            ["template_key", "template_version"], ["template.key", "template.version"], name="fk_site_template"
        ),
    )
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    key: str = Field(unique=True)
    name: str
    base: str = Field(unique=True)
    particulars: dict[str, Any] = _json()
    facts: dict[str, Any] = _ordered()
    audiences: dict[str, Any] = _ordered()
    template_key: str
    template_version: int
    connection: str
    endpoint: str | None = None
    looks: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSONB, nullable=False))
    """What the site has otherwise than its template, by location: keys of the location's look."""
    rules: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    fact_sets: list[str] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False))
    """Keys of the shared sets that it follows; later ones count over earlier ones, its own over all."""
    created_at: datetime = _at()


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
    """Facts, audiences and named rules that sites share."""

    __tablename__ = "fact_set"
    key: str = Field(primary_key=True)
    title: str
    document: dict[str, Any] = _ordered()


class LiveSiteRow(Table, table=True):
    """The site as it went live last, whole: what is delivered, and what a draft is compared with."""

    __tablename__ = "live_site"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    hash: str
    document: dict[str, Any] = _json()
    at: datetime = _at()


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
    parts: list[str] = _json()
    overlays: list[str] = _json()


class TreeRow(Table, table=True):
    """A menu document, named by its content hash. Never changed (a trigger sees to it)."""

    __tablename__ = "tree"
    hash: str = Field(primary_key=True)
    document: dict[str, Any] = _json()
    items: int
    depth: int


class MenuRow(Table, table=True):
    __tablename__ = "menu"
    __table_args__ = (UniqueConstraint("site_id", "key", name="uq_menu_key"),)
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    site_id: UUID | None = Field(default=None, foreign_key="site.id", index=True)
    key: str
    head_revision_id: int | None = Field(default=None, sa_type=BigInteger)
    live_revision_id: int | None = Field(default=None, sa_type=BigInteger)
    created_at: datetime = _at()


class RevisionRow(Table, table=True):
    """One save: which tree a menu had, after which, by whom. Never changed (a trigger sees to it)."""

    __tablename__ = "revision"
    id: int | None = Field(default=None, sa_column=Column(BigInteger, primary_key=True, autoincrement=True))
    menu_id: UUID = Field(foreign_key="menu.id", index=True)
    hash: str = Field(foreign_key="tree.hash")
    parent_id: int | None = Field(default=None, foreign_key="revision.id", sa_type=BigInteger)
    change_id: UUID | None = Field(default=None, foreign_key="change.id")
    author_id: UUID | None = Field(default=None, foreign_key="person.id")
    at: datetime = _at()


class PlacementRow(Table, table=True):
    """`menu_id` NULL is "none on purpose"."""

    __tablename__ = "placement"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    location: str = Field(primary_key=True)
    device: str = Field(primary_key=True)
    menu_id: UUID | None = Field(default=None, foreign_key="menu.id")


class LiveSlotRow(Table, table=True):
    """What a client site was last seen to show in a place: the hash of its menu, when, and its entity tag."""

    __tablename__ = "live_slot"
    site_id: UUID = Field(primary_key=True, foreign_key="site.id")
    location: str = Field(primary_key=True)
    device: str = Field(primary_key=True)
    hash: str
    etag: str
    seen_at: datetime = _at()


class ChangeRow(Table, table=True):
    __tablename__ = "change"
    __table_args__ = (Index("uq_change_open_draft", "site_id", unique=True, postgresql_where="state = 'draft'"),)
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    site_id: UUID = Field(foreign_key="site.id", index=True)
    title: str
    state: str
    author_id: UUID | None = Field(default=None, foreign_key="person.id")
    created_at: datetime = _at()
    live_at: datetime | None = _at(nullable=True)


class ChangeMenuRow(Table, table=True):
    """A menu's part in a change: from which revision it set out and how far it got."""

    __tablename__ = "change_menu"
    change_id: UUID = Field(primary_key=True, foreign_key="change.id")
    menu_id: UUID = Field(primary_key=True, foreign_key="menu.id")
    base_revision_id: int | None = Field(default=None, foreign_key="revision.id", sa_type=BigInteger)
    head_revision_id: int = Field(foreign_key="revision.id", sa_type=BigInteger)


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
    document: dict[str, Any] | None = _json(nullable=True)
    """The whole site as it is to be live."""
    tries: int = 0
    """How often a job took it up."""


class ReleaseStepRow(Table, table=True):
    """One place that a release writes. The row's id is the idempotency key that the site sees; `placed` is the very
    document that is sent, on every try."""

    __tablename__ = "release_step"
    id: UUID = Field(default_factory=uuid4, primary_key=True)
    release_id: UUID = Field(foreign_key="release.id", index=True)
    position: int
    location: str
    device: str
    menu_id: UUID | None = Field(default=None, foreign_key="menu.id")
    """None where the place is emptied."""
    revision_id: int | None = Field(default=None, foreign_key="revision.id", sa_type=BigInteger)
    placed: dict[str, Any] = _json()
    hash: str
    state: str
    etag_before: str | None = None
    etag_after: str | None = None
    sends: int = 0
    says: str = ""


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
