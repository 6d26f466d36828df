"""Mail by SMTP."""

import smtplib
import ssl
from dataclasses import dataclass
from email.message import EmailMessage
from email.utils import formatdate, make_msgid

TIMEOUT_S = 10.0


class NotSent(RuntimeError):
    """A message could not be handed over; the sentence says why."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MailServer:
    """Where mail is handed over; ``sender`` is whose it is. Without a user nobody logs in."""

    host: str
    port: int
    sender: str = "warmeter@localhost"
    user: str = ""
    password: str = ""
    is_encrypted: bool = False


def send_mail(server: MailServer, to: str, subject: str, text: str, *, is_urgent: bool = False) -> None:
    """Hand a mail over.

    Raises
    ------
    NotSent
        If the server does not answer, or takes it not.
    """
    mail = EmailMessage()
    mail["From"], mail["To"], mail["Subject"] = server.sender, to, " ".join(subject.split())[:120]
    mail["Date"], mail["Message-ID"] = formatdate(), make_msgid(domain="warmeter.invalid")
    if is_urgent:
        mail["Importance"] = "high"
    mail.set_content(text)
    try:
        with smtplib.SMTP(server.host, server.port, timeout=TIMEOUT_S) as session:
            if server.is_encrypted:
                session.starttls(context=ssl.create_default_context())
            if server.user:
                session.login(server.user, server.password)
            session.send_message(mail)
    except (OSError, smtplib.SMTPException, ValueError) as error:
        raise NotSent(f"the mail server did not take it ({type(error).__name__})") from error
