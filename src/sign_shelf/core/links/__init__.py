"""Whether addresses answer: what is asked, and what follows from the answers. What asks is in outside/links.py."""

from sign_shelf.core.links.asking import Answer, Ask, Came, Failed, Pause, decide, once
from sign_shelf.core.links.due import Known, after
from sign_shelf.core.links.used import Address, Use, addresses_of, asked_at, stands
from sign_shelf.core.links.verdict import GOOD, Hop, LinkFinding, Verdict

__all__ = [
    "GOOD", "Address", "Answer", "Ask", "Came", "Failed", "Hop", "Known", "LinkFinding", "Pause", "Use", "Verdict",
    "addresses_of", "after", "asked_at", "decide", "once", "stands",
]  # fmt: skip
