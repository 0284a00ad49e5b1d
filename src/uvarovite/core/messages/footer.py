"""The words under every message, in its language."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True, slots=True, kw_only=True)
class Footer:
    """What stands under every message: why the reader gets it, since when, and from whom."""

    topic: str
    since: date | None
    organisation: str
    postal_address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FooterWords:
    """`reason` takes {topic}; `reason_since` also {since}, a date in words."""

    reason: str
    reason_since: str
    leave: str
    copy: str

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
        copy="Read it in a browser",
    ),
    "de": FooterWords(
        reason="Sie erhalten diese Nachricht, weil Sie „{topic}“ gewählt haben.",
        reason_since="Sie erhalten diese Nachricht, weil Sie am {since} „{topic}“ gewählt haben.",
        leave="Abmelden",
        copy="Im Browser lesen",
    ),
    "fr": FooterWords(
        reason="Vous recevez ce message parce que vous avez choisi « {topic} ».",
        reason_since="Vous recevez ce message parce que vous avez choisi « {topic} » le {since}.",
        leave="Se désinscrire",
        copy="Lire dans un navigateur",
    ),
    "pl": FooterWords(
        reason="Otrzymują Państwo tę wiadomość, ponieważ wybrano „{topic}”.",
        reason_since="Otrzymują Państwo tę wiadomość, ponieważ {since} wybrano „{topic}”.",
        leave="Wypisz się",
        copy="Przeczytaj w przeglądarce",
    ),
    "nl": FooterWords(
        reason="U ontvangt dit bericht omdat u “{topic}” hebt gekozen.",
        reason_since="U ontvangt dit bericht omdat u op {since} “{topic}” hebt gekozen.",
        leave="Afmelden",
        copy="Lezen in de browser",
    ),
    "es": FooterWords(
        reason="Recibe este mensaje porque eligió «{topic}».",
        reason_since="Recibe este mensaje porque eligió «{topic}» el {since}.",
        leave="Darse de baja",
        copy="Leer en el navegador",
    ),
    "it": FooterWords(
        reason="Riceve questo messaggio perché ha scelto «{topic}».",
        reason_since="Riceve questo messaggio perché ha scelto «{topic}» in data {since}.",
        leave="Annulla l’iscrizione",
        copy="Leggi nel browser",
    ),
    "el": FooterWords(
        reason="Λαμβάνετε αυτό το μήνυμα επειδή επιλέξατε «{topic}».",
        reason_since="Λαμβάνετε αυτό το μήνυμα επειδή επιλέξατε «{topic}» στις {since}.",
        leave="Διαγραφή",
        copy="Ανάγνωση στο πρόγραμμα περιήγησης",
    ),
}


LANGUAGES = tuple(_WORDS)


def footer_words(language: str) -> FooterWords:
    """The words in a language (ISO 639-1), English where there are none yet."""
    return _WORDS.get(language, _WORDS["en"])
