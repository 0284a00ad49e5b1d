"""The words under every message, in the reader's language."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class FooterWords:
    """`reason` takes {topic}; `reason_since` also {since}, a date in words."""

    reason: str
    reason_since: str
    leave: str

    def because(self, topic: str, since: str | None) -> str:
        """Why the reader gets the message."""
        if since is None:
            return self.reason.format(topic=topic)
        return self.reason_since.format(topic=topic, since=since)


_WORDS = {
    "en": FooterWords(
        reason="You get this because you chose “{topic}”.",
        reason_since="You get this because you chose “{topic}” on {since}.",
        leave="Leave this list",
    ),
    "de": FooterWords(
        reason="Sie erhalten diese Nachricht, weil Sie „{topic}“ gewählt haben.",
        reason_since="Sie erhalten diese Nachricht, weil Sie am {since} „{topic}“ gewählt haben.",
        leave="Abmelden",
    ),
    "fr": FooterWords(
        reason="Vous recevez ce message parce que vous avez choisi « {topic} ».",
        reason_since="Vous recevez ce message parce que vous avez choisi « {topic} » le {since}.",
        leave="Se désinscrire",
    ),
    "pl": FooterWords(
        reason="Otrzymują Państwo tę wiadomość, ponieważ wybrano „{topic}”.",
        reason_since="Otrzymują Państwo tę wiadomość, ponieważ {since} wybrano „{topic}”.",
        leave="Wypisz się",
    ),
}


def footer_words(language: str) -> FooterWords:
    """The words in a language (ISO 639-1), English where there are none yet."""
    return _WORDS.get(language, _WORDS["en"])
