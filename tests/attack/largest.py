"""The largest menu that is allowed, with some of everything in it."""

from typing import Any

from sign_shelf.core.model.menu import MAX_ITEMS

RULES = ('signed_in and roles has "crew"', "not signed_in", "device is phone", "hour >= 8 and hour < 18")


def largest_menu(name: str = "Header", items: int = MAX_ITEMS) -> dict[str, Any]:
    """Three levels: columns of ten groups of nine entries; a tenth with rules, some with windows and visitors' pages."""
    numbers = iter(range(items))

    def entry(number: int) -> dict[str, Any]:
        made: dict[str, Any] = {
            "id": f"e{number}",
            "kind": "link",
            "label": {"en": f"Entry number {number}", "nl": f"Regel {number}"},
            "target": {"url": f"/pages/{number}"},
        }
        if number % 10 == 3:
            made["when"] = RULES[number // 10 % len(RULES)]
        if number % 20 == 7:
            made |= {"from": "2027-04-01T04:00", "until": "2027-10-01T04:00"}
        if number % 50 == 9:
            made["target"] = {"url": "/crew/{visitor.id}/rota"}
        return made

    def some(most: int, level: int) -> list[dict[str, Any]]:
        made = []
        for _ in range(most):
            number = next(numbers, None)
            if number is None:
                break
            one = entry(number)
            if level < 3:
                one["items"] = some(9 if level == 2 else 10, level + 1)
            made.append(one)
        return made

    return {"format": "sign-shelf/menu", "version": 1, "name": name, "items": some(items, 1)}
