"""Letters by e-mail: the sender that the settings name. Source: RFC 5321 (submission), RFC 8314 (by TLS), RFC 5322 (the letter)."""

import smtplib
import ssl
from dataclasses import dataclass
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import formatdate, make_msgid

from .core.errors import Refusal
from .settings import Settings
from .world import Letter

PATIENCE_S = 10.0


class NotSent(Refusal):
    """The letter did not go out, with a sentence for a person."""


@dataclass(frozen=True)
class Smtp:
    """A mail server that takes letters from us."""

    settings: Settings

    def send(self, letter: Letter) -> None:
        """Hand a letter over. Raises: NotSent."""
        settings = self.settings
        where = f"{settings.smtp_host}:{settings.smtp_port}"
        try:
            with self._connected() as server:
                if settings.smtp_user:
                    server.login(settings.smtp_user, settings.smtp_password.get_secret_value())
                server.send_message(_written(letter, settings.mail_from))
        except smtplib.SMTPAuthenticationError as problem:
            raise NotSent(f"{where} does not take this user and password.") from problem
        except smtplib.SMTPRecipientsRefused as problem:
            raise NotSent(f"{where} does not take letters to {letter.to}.") from problem
        except ssl.SSLError as problem:
            raise NotSent(f"{where} cannot be trusted: {problem.reason or problem}.") from problem
        except (smtplib.SMTPException, OSError) as problem:
            raise NotSent(f"{where} does not take the letter: {problem}.") from problem

    def _connected(self) -> smtplib.SMTP:
        host, port, secured = self.settings.smtp_host, self.settings.smtp_port, self.settings.smtp_security
        if secured == "tls":
            return smtplib.SMTP_SSL(host, port, timeout=PATIENCE_S, context=ssl.create_default_context())
        server = smtplib.SMTP(host, port, timeout=PATIENCE_S)
        if secured == "starttls":
            server.starttls(context=ssl.create_default_context())
        return server


def _written(letter: Letter, sender: str) -> EmailMessage:
    made = EmailMessage()
    made["From"] = Address("Frost Tally", addr_spec=sender)
    made["To"], made["Subject"] = Address(addr_spec=letter.to), letter.subject
    made["Date"], made["Message-ID"] = formatdate(), make_msgid(domain=sender.rpartition("@")[2])
    made["Auto-Submitted"] = "auto-generated"  # RFC 3834: nobody's holiday notice answers it
    made.set_content(letter.text)
    return made
