"""What entries say: labels that are missing in one of the site's languages."""

from collections.abc import Iterator

from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.checks.finding import Finding, View
from sign_shelf.core.model.menu import Labelled, walk
from sign_shelf.core.outline.called import title


def check_words(view: View) -> Iterator[Finding]:
    languages = view.site.site.languages
    for _, item in walk(view.document.items):
        if not isinstance(item, Labelled) or not item.label:
            continue
        for language in languages:
            if language not in item.label:
                says = f"{title(item, languages[0])} has no label in {language_name(language)}"
                yield view.found("label-missing", "warn", says, item=item.id, language=language, fix="Write one.")
