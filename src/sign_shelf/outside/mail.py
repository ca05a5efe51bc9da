"""Handing a letter to a mail server (SMTP, RFC 5321), so that it is known whether it took it.

A letter is handed over in two steps. Until the first one is done, nothing was sent, and it can be begun again. From then on the
server may have taken it, even where its answer is lost.
"""

import smtplib
import ssl
from dataclasses import dataclass
from datetime import datetime
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime, formataddr
from functools import cache
from types import TracebackType
from typing import Self
from urllib.parse import unquote, urlsplit
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.errors import Refusal
from sign_shelf.settings import Settings

ANSWER_WITHIN_S = 20.0
_LINES = SMTP.clone(max_line_length=500)
"""Addresses in a subject are words of many letters, which must not be folded (RFC 5322 allows 998)."""


@cache
def _authorities() -> ssl.SSLContext:
    """Whom we trust. Reading them takes a tenth of a second."""
    return ssl.create_default_context()


class NotTaken(Refusal):
    """The server did not take the letter. `for_good`: it will not take it later either."""

    def __init__(self, says: str, *, for_good: bool) -> None:
        super().__init__(says)
        self.for_good = for_good


class PerhapsTaken(Refusal):
    """The server went away while it was handed the letter: nobody knows whether it took it."""


@dataclass(frozen=True, kw_only=True)
class MailServer:
    """`tls_at_once`: from the first byte (RFC 8314), otherwise as soon as the server offers it (RFC 3207)."""

    host: str
    port: int
    tls_at_once: bool
    user: str
    password: SecretStr
    sender: str

    @classmethod
    def configured(cls, settings: Settings) -> "MailServer | None":
        if not settings.mail.get_secret_value():
            return None
        parts = urlsplit(settings.mail.get_secret_value())
        at_once = parts.scheme == "smtps"
        return cls(
            host=parts.hostname or "", port=parts.port or (465 if at_once else 25), tls_at_once=at_once,
            user=unquote(parts.username or ""), password=SecretStr(unquote(parts.password or "")),
            sender=settings.mail_from,
        )  # fmt: skip


def letter(
    notice: UUID, *, sender: str, name: str, address: str, subject: str, text: str, at: datetime
) -> EmailMessage:
    """Named after the notice, however often it is tried: whoever gets it twice can tell."""
    made = EmailMessage(policy=_LINES)
    made["From"] = formataddr(("Sign Shelf", sender))
    made["To"] = formataddr((" ".join(name.split()), address))
    made["Subject"] = " ".join(subject.split())
    made["Date"] = format_datetime(at)
    made["Message-ID"] = f"<{notice}@{sender.rpartition('@')[2]}>"
    made["Auto-Submitted"] = "auto-generated"  # RFC 3834: nobody answers it by itself
    made.set_content(text, cte="quoted-printable")
    return made


class HandingOver:
    """One letter, from the greeting to the server's word. Every step waits for the server: not for an event loop."""

    def __init__(self, server: MailServer, made: EmailMessage, to: str, timeout_s: float = ANSWER_WITHIN_S) -> None:
        self._server, self._letter, self._to, self._timeout_s = server, made, to, timeout_s
        self._talk: smtplib.SMTP | None = None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._talk is not None:
            self._talk.close()

    def offer(self) -> None:
        """Sender and receiver, to which the server says yes. Raises NotTaken."""
        try:
            self._talk = self._greeted()
            self._answered(self._talk.mail(self._server.sender))
            self._answered(self._talk.rcpt(self._to))
        except UnicodeEncodeError as exc:
            raise NotTaken(f"{self._to} has letters that mail servers do not know.", for_good=True) from exc
        except smtplib.SMTPResponseException as exc:
            raise _not_taken(exc.smtp_code, exc.smtp_error) from exc
        except (smtplib.SMTPException, OSError) as exc:
            raise NotTaken(f"The mail server could not be talked to: {exc}", for_good=False) from exc

    def hand_over(self) -> None:
        """Raises NotTaken where the server says no, PerhapsTaken where it says nothing."""
        assert self._talk is not None, "what was not offered is not handed over"
        try:
            answer = self._talk.data(self._letter.as_bytes())
        except smtplib.SMTPResponseException as exc:
            raise _not_taken(exc.smtp_code, exc.smtp_error) from exc
        except (smtplib.SMTPException, OSError) as exc:
            raise PerhapsTaken("The mail server went away while it was handed this: it may have taken it.") from exc
        self._answered(answer)
        try:
            self._talk.quit()
        except (smtplib.SMTPException, OSError):
            self._talk.close()

    def _greeted(self) -> smtplib.SMTP:
        server, trusted = self._server, _authorities()
        if server.tls_at_once:
            talk: smtplib.SMTP = smtplib.SMTP_SSL(server.host, server.port, timeout=self._timeout_s, context=trusted)
        else:
            talk = smtplib.SMTP(server.host, server.port, timeout=self._timeout_s)
        self._talk = talk
        talk.ehlo_or_helo_if_needed()
        if not server.tls_at_once and talk.has_extn("starttls"):
            talk.starttls(context=trusted)
            talk.ehlo()
        elif not server.tls_at_once and server.user:
            raise NotTaken("The mail server offers no TLS, and a password is not sent without.", for_good=False)
        if server.user:
            talk.login(server.user, server.password.get_secret_value())
        return talk

    @staticmethod
    def _answered(answer: tuple[int, bytes]) -> None:
        if not 200 <= answer[0] < 300:
            raise _not_taken(*answer)


def _not_taken(code: int, says: bytes | str) -> NotTaken:
    words = says.decode("utf-8", "replace") if isinstance(says, bytes) else says
    told = f"The mail server says {code}: {' '.join(words.split())[:200]}"
    # A wrong password is the operator's to mend, and then the letter goes.
    return NotTaken(told, for_good=code >= 500 and code not in {530, 534, 535})
