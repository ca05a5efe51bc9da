"""The parts of a page that an address can name."""

from sign_shelf.core.formats.html_tree import attribute, parse


def parts_of(url: str, body: bytes) -> frozenset[str]:
    """Every id, and every name of an anchor (HTML Standard, "indicated part of the document"). Raises SourceRefused."""
    tree = parse(body, url)
    return frozenset(
        [attribute(node, "id") for node in tree.css("[id]")] + [attribute(node, "name") for node in tree.css("a[name]")]
    )
