"""What languages are called, by their BCP 47 tags. The names are CLDR's, as Babel ships them."""

from functools import cache


@cache
def language_name(tag: str) -> str:
    """In English, such as Dutch for nl; the tag itself where CLDR has no name for it."""
    # It is read by the first who asks: most commands never do.
    from babel import Locale, UnknownLocaleError

    try:
        return Locale.parse(tag, sep="-").get_display_name("en") or tag
    except (UnknownLocaleError, ValueError):
        return tag
