"""The words of the pages for recipients, in their language."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveWords:
    """Texts of the page about leaving; {organisation} and {topic} are filled in."""

    question: str
    explain: str
    button: str
    done: str
    done_more: str
    busy: str
    busy_more: str


LEAVE_WORDS: dict[str, LeaveWords] = {
    "en": LeaveWords(
        question="Leave “{topic}”?",
        explain="You will get no more of these messages from {organisation}. Other topics stay as they are.",
        button="Leave “{topic}”",
        done="You have left “{topic}”.",
        done_more="{organisation} will not write to you about it any more. You can close this page.",
        busy="Please try again in a minute",
        busy_more="Too much is asked of this page just now. Nothing has been changed yet: open the link from the message again.",
    ),
    "de": LeaveWords(
        question="„{topic}“ abbestellen?",
        explain="Sie erhalten dann keine dieser Nachrichten mehr von {organisation}. Andere Themen bleiben, wie sie sind.",
        button="„{topic}“ abbestellen",
        done="„{topic}“ ist abbestellt.",
        done_more="{organisation} schreibt Ihnen dazu nicht mehr. Sie können diese Seite schließen.",
        busy="Bitte in einer Minute noch einmal",
        busy_more="Diese Seite hat gerade zu viel zu tun. Es ist noch nichts geändert: Öffnen Sie den Link aus der Nachricht noch einmal.",
    ),
    "fr": LeaveWords(
        question="Quitter « {topic} » ?",
        explain="Vous ne recevrez plus ces messages de {organisation}. Vos autres choix restent inchangés.",
        button="Quitter « {topic} »",
        done="Vous avez quitté « {topic} ».",
        done_more="{organisation} ne vous écrira plus à ce sujet. Vous pouvez fermer cette page.",
        busy="Réessayez dans une minute",
        busy_more="Cette page est trop sollicitée pour l’instant. Rien n’a encore changé : ouvrez de nouveau le lien du message.",
    ),
    "pl": LeaveWords(
        question="Zrezygnować z „{topic}”?",
        explain="Nie będą Państwo otrzymywać tych wiadomości od {organisation}. Inne tematy pozostają bez zmian.",
        button="Rezygnuję z „{topic}”",
        done="Zrezygnowano z „{topic}”.",
        done_more="{organisation} nie będzie więcej pisać na ten temat. Można zamknąć tę stronę.",
        busy="Proszę spróbować ponownie za minutę",
        busy_more="Ta strona jest teraz zbyt obciążona. Nic się jeszcze nie zmieniło: proszę ponownie otworzyć link z wiadomości.",
    ),
}


def leave_words(language: str | None) -> tuple[str, LeaveWords]:
    """(language, words): the reader's own where there are words in it, else English."""
    code = (language or "en")[:2].lower()
    return (code, LEAVE_WORDS[code]) if code in LEAVE_WORDS else ("en", LEAVE_WORDS["en"])
