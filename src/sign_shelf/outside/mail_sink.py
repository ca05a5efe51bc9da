"""The letters that a sink keeps: a mail server for trying, which hands nothing on (demo/stand_ins/mail.py)."""

import mailbox
from dataclasses import dataclass
from datetime import datetime
from email.message import EmailMessage
from email.parser import BytesParser
from email.policy import default
from email.utils import parsedate_to_datetime
from pathlib import Path

FOLDER = "mail"


@dataclass(frozen=True, kw_only=True)
class Letter:
    id: str
    to: str
    subject: str
    at: datetime
    text: str


def letters(folder: Path, most: int) -> list[Letter]:
    """Those that came last first."""
    if not folder.is_dir():
        return []
    kept = mailbox.Maildir(folder, create=False, factory=None)
    newest = sorted(kept.keys(), key=lambda key: kept.get_message(key).get_date(), reverse=True)[:most]
    return [_letter(key, kept.get_bytes(key)) for key in newest]


def _letter(key: str, raw: bytes) -> Letter:
    made = BytesParser(_class=EmailMessage, policy=default).parsebytes(raw)
    body = made.get_body(("plain",))
    return Letter(
        id=key, to=str(made["To"]), subject=str(made["Subject"]), at=parsedate_to_datetime(str(made["Date"])),
        text=str(body.get_content()) if body is not None else "",
    )  # fmt: skip
