"""What one visitor gets in one location: the single function behind preview, checks and delivery.

The steps are those of docs/words.md.
"""

from sign_shelf.core.resolve.lens import Lens
from sign_shelf.core.resolve.placement import find_placement, search_path
from sign_shelf.core.resolve.prepared import Prepared, resolve, resolve_items

__all__ = ["Lens", "Prepared", "find_placement", "resolve", "resolve_items", "search_path"]
