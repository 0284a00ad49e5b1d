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


LEAVE_WORDS: dict[str, LeaveWords] = {
    "en": LeaveWords(
        question="Leave “{topic}”?",
        explain="You will get no more of these messages from {organisation}. Other topics stay as they are.",
        button="Leave “{topic}”",
        done="You have left “{topic}”.",
        done_more="{organisation} will not write to you about it any more. You can close this page.",
    ),
    "de": LeaveWords(
        question="„{topic}“ abbestellen?",
        explain="Sie erhalten dann keine dieser Nachrichten mehr von {organisation}. Andere Themen bleiben, wie sie sind.",
        button="„{topic}“ abbestellen",
        done="„{topic}“ ist abbestellt.",
        done_more="{organisation} schreibt Ihnen dazu nicht mehr. Sie können diese Seite schließen.",
    ),
    "fr": LeaveWords(
        question="Quitter « {topic} » ?",
        explain="Vous ne recevrez plus ces messages de {organisation}. Vos autres choix restent inchangés.",
        button="Quitter « {topic} »",
        done="Vous avez quitté « {topic} ».",
        done_more="{organisation} ne vous écrira plus à ce sujet. Vous pouvez fermer cette page.",
    ),
    "pl": LeaveWords(
        question="Zrezygnować z „{topic}”?",
        explain="Nie będą Państwo otrzymywać tych wiadomości od {organisation}. Inne tematy pozostają bez zmian.",
        button="Rezygnuję z „{topic}”",
        done="Zrezygnowano z „{topic}”.",
        done_more="{organisation} nie będzie więcej pisać na ten temat. Można zamknąć tę stronę.",
    ),
}


def leave_words(language: str | None) -> tuple[str, LeaveWords]:
    """(language, words): the reader's own where there are words in it, else English."""
    code = (language or "en").split("-")[0].split("_")[0].lower()
    return (code, LEAVE_WORDS[code]) if code in LEAVE_WORDS else ("en", LEAVE_WORDS["en"])
