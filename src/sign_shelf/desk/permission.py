"""Who may do what, and where: one table of role and action. The default is no.

A person has a role everywhere, and may have another at single sites; looking is a permission like every other.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args
from uuid import UUID

from sign_shelf.core.errors import NotAllowed

Role = Literal["owner", "lead", "editor", "reviewer", "viewer", "none"]
Action = Literal[
    "look", "take in", "edit", "hang", "design", "review", "put live", "keys", "settings", "people", "own account",
]  # fmt: skip
ROLES: tuple[Role, ...] = get_args(Role)
"""`none` is for who works at single sites only."""

_DOERS: frozenset[Role] = frozenset({"owner", "lead", "editor", "reviewer"})
_MAY: dict[Action, frozenset[Role]] = {
    "look": frozenset(ROLES) - {"none"},
    "take in": _DOERS,
    "edit": _DOERS,
    "hang": _DOERS,
    "design": _DOERS,
    "review": frozenset({"owner", "lead", "reviewer"}),
    "put live": _DOERS,
    "keys": frozenset({"owner", "lead"}),
    "settings": frozenset({"owner", "lead"}),
    "people": frozenset({"owner"}),
    "own account": frozenset(ROLES),
}

Scope = Literal["look", "edit", "put live", "all"]
"""What a program may do by a token of a person's, of all that the person may."""
SCOPES: Mapping[Scope, frozenset[Action]] = {
    "look": frozenset({"look"}),
    "edit": frozenset({"look", "edit", "hang", "design"}),
    "put live": frozenset({"look", "edit", "hang", "design", "put live"}),
    "all": frozenset(get_args(Action)),
}

_SAYS: dict[Action, str] = {
    "keys": "replace keys",
    "settings": "change what a site is",
    "people": "look after accounts",
    "own account": "change what is yours",
}


@dataclass(frozen=True, kw_only=True)
class Person:
    id: UUID
    name: str
    email: str
    role: Role
    at_sites: Mapping[str, Role] = field(default_factory=dict)
    """Roles at single sites, by their keys, in place of `role`."""
    token: str = ""
    """What the program is called that acts for the person; empty where they do so themselves."""
    scope: Scope = "all"
    only_at: frozenset[str] = frozenset()
    """The sites that the program is kept to, by their keys; empty where it is kept to none."""

    def role_at(self, site: str | None) -> Role:
        return self.at_sites.get(site, self.role) if site is not None else self.role


def role_may(role: Role, action: Action) -> bool:
    return role in _MAY[action]


def may(person: Person, action: Action, site: str | None = None) -> bool:
    within = action in SCOPES[person.scope] and (not person.only_at or site in person.only_at)
    return within and role_may(person.role_at(site), action)


def refuse_programs(person: Person, doing: str, where: str) -> None:
    """Raises NotAllowed for a token: what protects an account is for its person alone."""
    if person.token:
        raise NotAllowed(f"A program cannot {doing}.", where=where, remedy="Sign in yourself.")


def require(person: Person, action: Action, where: str, site: str | None = None) -> None:
    """Raises NotAllowed. `site` None: what is of no single site."""
    if not may(person, action, site):
        role = person.role_at(site)
        if person.token and role_may(role, action):
            raise NotAllowed(
                f"The token {person.token} may not {_SAYS.get(action, action)}{' here' if person.only_at else ''}.",
                where=where, remedy="Make one that may, on your own page.",
            )  # fmt: skip
        raise NotAllowed(
            f"The role {role} may not {_SAYS.get(action, action)}."
            if role != "none" else f"You may not {_SAYS.get(action, action)} here.",
            where=where,
            remedy="Ask an owner of the agency for another role.",
        )  # fmt: skip
