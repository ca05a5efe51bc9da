"""Whether the menu fits the places where it hangs: levels, kinds, headings with something below."""

from collections.abc import Iterator

from sign_shelf.core.checks.finding import Finding, View
from sign_shelf.core.model.menu import Heading, walk
from sign_shelf.core.outline.called import title


def check_structure(view: View) -> Iterator[Finding]:
    language = view.site.site.languages[0]
    for depth, item in walk(view.document.items):
        if isinstance(item, Heading) and not item.items:
            says = f"{title(item, language)} is a heading with nothing below it"
            yield view.found("heading-empty", "warn", says, item=item.id, fix="Put entries below it, or remove it.")
        for place in view.places:
            if depth == place.depth + 1:
                says = f"{title(item, language)} stands on level {depth}; {place.title} shows {place.depth}"
                fix = "Move it a level up."
                yield view.found("too-deep", "stop", says, item=item.id, location=place.key, fix=fix)
            if item.kind not in place.kinds:
                says = f"{title(item, language)} is a {item.kind}, which {place.title} does not take"
                fix = f"{place.title} takes {', '.join(place.kinds)}."
                yield view.found("kind-refused", "stop", says, item=item.id, location=place.key, fix=fix)
