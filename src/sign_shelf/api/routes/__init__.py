"""The routers, one a noun."""

from sign_shelf.api.routes import (
    history,
    incoming,
    ledger,
    menus,
    releases,
    session,
    shelf,
    sites,
    take_ins,
    vocabulary,
)

ROUTERS = (
    session.router,
    shelf.router,
    sites.router,
    menus.router,
    history.router,
    incoming.router,
    vocabulary.router,
    releases.router,
    take_ins.router,
    ledger.router,
)

__all__ = ["ROUTERS"]
