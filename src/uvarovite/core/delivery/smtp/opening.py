"""A connection gets ready: greeting, EHLO, STARTTLS (RFC 3207), EHLO again, log-in (RFC 4954)."""

from dataclasses import dataclass, replace

from uvarovite.core.delivery.smtp import commands
from uvarovite.core.delivery.smtp.capabilities import Capabilities, capabilities_of
from uvarovite.core.delivery.smtp.replies import Reply
from uvarovite.core.delivery.smtp.steps import CONNECTION, ConnectionEvent, ConnectionStep
from uvarovite.core.delivery.smtp.wire import Ended, Wire
from uvarovite.core.delivery.troubles import relay_trouble


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """How to talk to a relay. `where` names it in words, such as "relay.example:587"; `protect`: STARTTLS must come first.

    Without `pipelining` each command waits for the reply to the one before it, also where the relay offers more.
    """

    where: str
    hello_name: str
    protect: bool = False
    pipelining: bool = True
    username: str | None = None
    password: str | None = None


class Opening:
    """From the greeting to READY, or to an `Ended` that says why not."""

    def __init__(self, settings: Settings, wire: Wire) -> None:
        self.step: ConnectionStep = CONNECTION.start
        self.capabilities = Capabilities()
        self._settings = settings
        self._wire = wire
        self._protected = False
        self._answers: list[str] = []
        wire.awaited.append(self._greeted)

    def on(self, event: ConnectionEvent) -> None:
        """Move on."""
        self.step = CONNECTION.next(self.step, event)

    def secured(self) -> None:
        """TLS has been established; whatever was said before is forgotten (RFC 3207 section 4.2)."""
        self._protected = True
        self.capabilities = Capabilities()
        self.on(ConnectionEvent.PROTECTED)
        self._wire.write(commands.hello(self._settings.hello_name), self._answered_hello)

    def _greeted(self, reply: Reply) -> None:
        if reply.code != 220:
            raise self._turned_away(reply)
        self.on(ConnectionEvent.GREETED)
        self._wire.write(commands.hello(self._settings.hello_name), self._answered_hello)

    def _answered_hello(self, reply: Reply) -> None:
        if reply.code in (500, 502, 504) and not self._protected:
            # RFC 5321 section 3.2: a server of old times knows HELO alone, and no extension.
            self._wire.write(commands.hello(self._settings.hello_name, extended=False), self._answered_old_hello)
        elif reply.code != 250:
            raise self._turned_away(reply)
        else:
            offered = capabilities_of(reply.lines)
            self.capabilities = offered if self._settings.pipelining else replace(offered, pipelining=False)
            self._get_on()

    def _answered_old_hello(self, reply: Reply) -> None:
        if reply.code != 250:
            raise self._turned_away(reply)
        self._get_on()

    def _get_on(self) -> None:
        if self._settings.protect and not self._protected:
            if not self.capabilities.starttls:
                raise Ended(relay_trouble("no_starttls", where=self._wire.where))
            self.on(ConnectionEvent.PROTECT)
            self._wire.write(b"STARTTLS\r\n", self._answered_starttls)
        elif self._settings.username is not None:
            self._log_in(self._settings.username, self._settings.password or "")
        else:
            self.on(ConnectionEvent.ADMITTED)

    def _answered_starttls(self, reply: Reply) -> None:
        if reply.code != 220:
            raise self._turned_away(reply)
        self.on(ConnectionEvent.AGREED)

    def _log_in(self, username: str, password: str) -> None:
        offered = self.capabilities.log_ins
        if "PLAIN" in offered:
            self._answers = []
            command, shown = commands.plain(username, password), "AUTH PLAIN ****"
        elif "LOGIN" in offered:
            self._answers = [password, username]
            command, shown = b"AUTH LOGIN\r\n", "AUTH LOGIN"
        else:
            raise Ended(
                relay_trouble("no_log_in", where=self._wire.where, offered=", ".join(sorted(offered)) or "none")
            )
        self.on(ConnectionEvent.ASK_FOR_LOG_IN)
        self._wire.write(command, self._answered_log_in, shown)

    def _answered_log_in(self, reply: Reply) -> None:
        if reply.code == 334 and self._answers:
            self.on(ConnectionEvent.CHALLENGED)
            self._wire.write(commands.answered(self._answers.pop()), self._answered_log_in, "****")
        elif reply.code == 235:
            self.on(ConnectionEvent.ADMITTED)
        elif reply.code >= 500:
            user = self._settings.username or ""
            raise Ended(relay_trouble("log_in", where=self._wire.where, user=user, said=reply.said))
        else:
            raise self._turned_away(reply)

    def _turned_away(self, reply: Reply) -> Ended:
        if reply.refuses:
            return Ended(relay_trouble("turned_away", where=self._wire.where, said=reply.said))
        return self._wire.nonsense(reply.said)
