"""What stands under a letter on paper, in its language: why it came, and how one says that no more are wanted."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperWords:
    """`why` takes {organisation}; `stop` says how one gets no more, by {postal_address}."""

    why: str
    stop: str


_WORDS: Mapping[str, PaperWords] = {
    "en": PaperWords(
        why="{organisation} writes to you on paper because we have no e-mail address of yours.",
        stop="If you want no more letters from us, tell us: {postal_address}",
    ),
    "de": PaperWords(
        why="{organisation} schreibt Ihnen auf Papier, weil wir keine E-Mail-Adresse von Ihnen haben.",
        stop="Wenn Sie keine Briefe mehr von uns wünschen, sagen Sie es uns: {postal_address}",
    ),
    "fr": PaperWords(
        why="{organisation} vous écrit sur papier, car nous n’avons pas votre adresse e-mail.",
        stop="Si vous ne souhaitez plus recevoir nos lettres, dites-le-nous : {postal_address}",
    ),
    "pl": PaperWords(
        why="{organisation} pisze do Państwa na papierze, ponieważ nie mamy Państwa adresu e-mail.",
        stop="Jeśli nie chcą Państwo otrzymywać od nas listów, prosimy o wiadomość: {postal_address}",
    ),
    "nl": PaperWords(
        why="{organisation} schrijft u op papier omdat wij geen e-mailadres van u hebben.",
        stop="Wilt u geen brieven meer van ons? Laat het ons weten: {postal_address}",
    ),
    "es": PaperWords(
        why="{organisation} le escribe en papel porque no tenemos su dirección de correo electrónico.",
        stop="Si no desea recibir más cartas nuestras, díganoslo: {postal_address}",
    ),
    "it": PaperWords(
        why="{organisation} le scrive su carta perché non abbiamo il suo indirizzo e-mail.",
        stop="Se non desidera più ricevere nostre lettere, ce lo dica: {postal_address}",
    ),
    "el": PaperWords(
        why="{organisation}: σας γράφουμε σε χαρτί επειδή δεν έχουμε τη διεύθυνση e-mail σας.",
        stop="Αν δεν θέλετε άλλες επιστολές από εμάς, ενημερώστε μας: {postal_address}",
    ),
}
LANGUAGES = tuple(_WORDS)


def paper_words(language: str) -> PaperWords:
    """The words in a language (ISO 639-1), English where there are none yet."""
    return _WORDS.get(language, _WORDS["en"])
