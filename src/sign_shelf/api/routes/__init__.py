"""The routers, one a noun."""

from fastapi import APIRouter

from sign_shelf.api.routes import (
    changes,
    design,
    facts,
    feeds,
    findings,
    fits,
    health,
    history,
    incoming,
    inventory,
    keys,
    ledger,
    menus,
    notices,
    people,
    placeholders,
    places,
    releases,
    reviews,
    schedules,
    search,
    session,
    settings,
    shelf,
    sign_offs,
    sites,
    take_ins,
    visitors,
    vocabulary,
)

ROUTES = APIRouter()
"""All of them, worked out once however many applications there are in a process."""
for _router in (
    health.router,
    session.router,
    people.router,
    shelf.router,
    sites.router,
    keys.router,
    settings.router,
    places.router,
    design.router,
    fits.router,
    visitors.router,
    facts.router,
    menus.router,
    history.router,
    incoming.router,
    vocabulary.router,
    changes.router,
    reviews.router,
    schedules.router,
    feeds.router,
    sign_offs.router,
    findings.router,
    inventory.router,
    placeholders.router,
    notices.router,
    releases.router,
    search.router,
    take_ins.router,
    ledger.router,
):
    ROUTES.include_router(_router)

__all__ = ["ROUTES"]
