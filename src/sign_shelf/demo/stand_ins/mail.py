"""A mail server for the demo: it keeps every letter in a folder (a Maildir) and hands none on."""

import mailbox
from pathlib import Path

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session


class _Keeps:
    def __init__(self, folder: Path) -> None:
        folder.parent.mkdir(parents=True, exist_ok=True)
        self._kept = mailbox.Maildir(folder)

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        self._kept.add(envelope.original_content or b"")
        return "250 Kept"


def mail_sink(folder: Path, port: int) -> Controller:
    """Takes mail at the port once it is started; it works in a thread of its own until it is stopped."""
    return Controller(_Keeps(folder), hostname="127.0.0.1", port=port)
