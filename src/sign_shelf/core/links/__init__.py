"""Whether addresses answer: what is asked, and what follows from the answers. What asks is in outside/links.py."""

from sign_shelf.core.links.asking import Answer, Ask, Came, Failed, Pause, decide
from sign_shelf.core.links.used import Address, Use, addresses_of, asked_at, stands
from sign_shelf.core.links.verdict import GOOD, Hop, LinkFinding, Verdict

__all__ = [
    "GOOD", "Address", "Answer", "Ask", "Came", "Failed", "Hop", "LinkFinding", "Pause", "Use", "Verdict", "addresses_of",
    "asked_at", "decide", "stands",
]  # fmt: skip
