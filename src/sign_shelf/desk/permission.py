"""Who may do what: one table of role and action. The default is no."""

from dataclasses import dataclass
from typing import Literal, get_args
from uuid import UUID

from sign_shelf.core.errors import NotAllowed

Role = Literal["owner", "lead", "editor", "reviewer", "viewer"]
Action = Literal["look", "take in", "edit", "hang", "design", "put live", "keys", "people"]
ROLES: tuple[Role, ...] = get_args(Role)

# Roles tell apart only lookers and doers so far; review will narrow "put live".
_DOERS: frozenset[Role] = frozenset({"owner", "lead", "editor", "reviewer"})
_MAY: dict[Action, frozenset[Role]] = {
    "look": frozenset(ROLES),
    "take in": _DOERS,
    "edit": _DOERS,
    "hang": _DOERS,
    "design": _DOERS,
    "put live": _DOERS,
    "keys": frozenset({"owner", "lead"}),
    "people": frozenset({"owner"}),
}


_SAYS: dict[Action, str] = {"keys": "replace keys", "people": "look after accounts"}


@dataclass(frozen=True, kw_only=True)
class Person:
    id: UUID
    name: str
    email: str
    role: Role


def may(person: Person, action: Action) -> bool:
    return person.role in _MAY[action]


def require(person: Person, action: Action, where: str) -> None:
    if not may(person, action):
        raise NotAllowed(
            f"The role {person.role} may not {_SAYS.get(action, action)}.",
            where=where,
            remedy="Ask an owner of the agency for another role.",
        )
