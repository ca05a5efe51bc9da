"""The routers, one a noun."""

from sign_shelf.api.routes import (
    design,
    facts,
    fits,
    history,
    incoming,
    ledger,
    menus,
    places,
    releases,
    session,
    shelf,
    sites,
    take_ins,
    visitors,
    vocabulary,
)

ROUTERS = (
    session.router,
    shelf.router,
    sites.router,
    places.router,
    design.router,
    fits.router,
    visitors.router,
    facts.router,
    menus.router,
    history.router,
    incoming.router,
    vocabulary.router,
    releases.router,
    take_ins.router,
    ledger.router,
)

__all__ = ["ROUTERS"]
