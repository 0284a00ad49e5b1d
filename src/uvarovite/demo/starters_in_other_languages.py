"""The starters in the other languages of the museum's readers: for each text of the English letter what stands there."""

from collections.abc import Callable, Mapping
from typing import Any

from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.document import Basis, OtherWords

LANGUAGES = ("de", "fr", "pl")

# English, then German, French and Polish; inlays stay as they are, with the words of their fallbacks.
_TEXTS = (
    ('Dear @{first_name else "friend of the museum"},', 'Guten Tag @{first_name else "und willkommen"},',
     'Bonjour @{first_name else "à vous, amis du musée"},', 'Dzień dobry @{first_name else "przyjacielu muzeum"},'),
    ("Yours,\nSigne Vale\nSkarn Valley Mineral Museum", "Ihre\nSigne Vale\nSkarn Valley Mineral Museum",
     "À bientôt,\nSigne Vale\nSkarn Valley Mineral Museum", "Z pozdrowieniami\nSigne Vale\nSkarn Valley Mineral Museum"),
    ("What the valley gave us this season", "Was das Tal uns in dieser Saison gab", "Ce que la vallée nous a donné cette saison",
     "Co dolina dała nam w tym sezonie"),
    ("A new case in the hall, and what is behind it", "Eine neue Vitrine in der Halle, und was dahinter steht",
     "Une nouvelle vitrine dans la salle, et son histoire", "Nowa gablota w sali i to, co się za nią kryje"),
    ("in one sentence: what is new, and why it is worth the way.", "in einem Satz: was neu ist, und warum sich der Weg lohnt.",
     "en une phrase : ce qui est nouveau, et pourquoi venir.", "w jednym zdaniu: co nowego i dlaczego warto przyjechać."),
    ("The first thing", "Das Erste", "D’abord", "Po pierwsze"),
    ("The second thing", "Das Zweite", "Ensuite", "Po drugie"),
    ("Two or three sentences, and where to see it.", "Zwei oder drei Sätze, und wo man es sieht.",
     "Deux ou trois phrases, et où le voir.", "Dwa lub trzy zdania i gdzie to zobaczyć."),
    ("Two or three sentences, and who found it.", "Zwei oder drei Sätze, und wer es fand.",
     "Deux ou trois phrases, et qui l’a trouvé.", "Dwa lub trzy zdania i kto to znalazł."),
    ("See it in the hall", "In der Halle ansehen", "Le voir dans la salle", "Zobacz w sali"),
    ('@{first_name else "Hello"}, a walk is open', '@{first_name else "Guten Tag"}, eine Wanderung ist offen',
     '@{first_name else "Bonjour"}, une balade est ouverte', '@{first_name else "Dzień dobry"}, są miejsca na spacer'),
    ("The path, the day, and what to bring", "Der Weg, der Tag, und was man mitbringt", "Le chemin, le jour, et quoi emporter",
     "Trasa, dzień i co zabrać"),
    ("Where the walk leads", "Wohin die Wanderung führt", "Où mène la balade", "Dokąd prowadzi spacer"),
    ("on Saturday we walk from the museum along the path. It takes three hours, on firm ground.",
     "am Samstag gehen wir vom Museum aus den Weg entlang. Es dauert drei Stunden, auf festem Boden.",
     "samedi, nous partons du musée le long du chemin. Trois heures, sur un sol ferme.",
     "w sobotę idziemy szlakiem od muzeum. Trzy godziny po twardym gruncie."),
    ("Boots with a grip", "Schuhe mit Profil", "Des chaussures qui accrochent", "Buty z dobrą podeszwą"),
    ("A lamp", "Eine Lampe", "Une lampe", "Latarka"),
    ("A packed lunch", "Etwas zu essen", "Un pique-nique", "Drugie śniadanie"),
    ("As a Patron you may bring two guests at no cost.", "Als Patron bringen Sie zwei Gäste kostenlos mit.",
     "Membre Patron, vous pouvez amener deux invités sans frais.", "Jako Patron możesz zabrać dwoje gości bez opłat."),
    ("As a Fellow you may bring a guest at no cost.", "Als Fellow bringen Sie einen Gast kostenlos mit.",
     "Membre Fellow, vous pouvez amener un invité sans frais.", "Jako Fellow możesz zabrać gościa bez opłat."),
    ("Friends walk at half the price.", "Friends gehen zum halben Preis mit.", "Les Friends marchent à moitié prix.",
     "Friends idą za połowę ceny."),
    ("Choose a place", "Platz wählen", "Choisir une place", "Wybierz miejsce"),
    ('Your membership runs until @{renews_on as date "d MMMM" else "soon"}',
     'Ihre Mitgliedschaft läuft bis @{renews_on as date "d. MMMM" else "bald"}',
     'Votre adhésion court jusqu’au @{renews_on as date "d MMMM" else "bientôt"}',
     'Twoje członkostwo trwa do @{renews_on as date "d MMMM" else "wkrótce"}'),
    ("Two minutes, and the paths stay open", "Zwei Minuten, und die Wege bleiben offen",
     "Deux minutes, et les chemins restent ouverts", "Dwie minuty i szlaki pozostaną otwarte"),
    ("Another year in the valley?", "Noch ein Jahr im Tal?", "Encore une année dans la vallée ?", "Kolejny rok w dolinie?"),
    ('your membership runs until @{renews_on as date "d MMMM y" else "soon"}@{if pledge is not blank}. Your pledge of @{pledge} '
     "kept our paths open this year@{end}.",
     'Ihre Mitgliedschaft läuft bis @{renews_on as date "d. MMMM y" else "bald"}@{if pledge is not blank}. Ihre Zusage von '
     "@{pledge} hielt unsere Wege in diesem Jahr offen@{end}.",
     'votre adhésion court jusqu’au @{renews_on as date "d MMMM y" else "bientôt"}@{if pledge is not blank}. Votre don de '
     "@{pledge} a gardé nos chemins ouverts cette année@{end}.",
     'Twoje członkostwo trwa do @{renews_on as date "d MMMM y" else "wkrótce"}@{if pledge is not blank}. Twoja deklaracja '
     "@{pledge} utrzymała nasze szlaki w tym roku@{end}."),
    ("@{if visits_last_year >= 1}You came @{visits_last_year} times last year. Thank you!@{end}",
     "@{if visits_last_year >= 1}Im letzten Jahr waren Sie @{visits_last_year} Mal hier. Danke!@{end}",
     "@{if visits_last_year >= 1}Vos visites l’an dernier : @{visits_last_year}. Merci !@{end}",
     "@{if visits_last_year >= 1}Twoje wizyty w zeszłym roku: @{visits_last_year}. Dziękujemy!@{end}"),
    ("Renew it", "Verlängern", "La renouveler", "Przedłuż"),
    ("The minerals in your care", "Die Minerale in Ihrer Obhut", "Les minéraux que vous veillez", "Minerały pod Twoją opieką"),
    ("What you look after, and since when", "Worum Sie sich kümmern, und seit wann", "Ce dont vous prenez soin, et depuis quand",
     "Czym się opiekujesz i od kiedy"),
    ("these are the specimens of our collection whose care you pay for. Come and see them.",
     "das sind die Stücke unserer Sammlung, deren Pflege Sie tragen. Kommen Sie und sehen Sie sie.",
     "voici les pièces de notre collection dont vous payez l’entretien. Venez les voir.",
     "oto okazy z naszej kolekcji, za których opiekę płacisz. Przyjdź je zobaczyć."),
    ("Specimen", "Stück", "Pièce", "Okaz"),
    ("From", "Aus", "De", "Skąd"),
    ("Since", "Seit", "Depuis", "Od"),
    ("There is none yet: choose one in the hall.", "Noch ist es keines: wählen Sie eines in der Halle.",
     "Il n’y en a pas encore : choisissez-en une dans la salle.", "Jeszcze żadnego: wybierz okaz w sali."),
    ("Visit them", "Besuchen", "Leur rendre visite", "Odwiedź je"),
    ("Thank you for walking with us@{if first_name is not blank}, @{first_name}@{end}",
     "Danke, dass Sie mitgegangen sind@{if first_name is not blank}, @{first_name}@{end}",
     "Merci d’avoir marché avec nous@{if first_name is not blank}, @{first_name}@{end}",
     "Dziękujemy za wspólny spacer@{if first_name is not blank}, @{first_name}@{end}"),
    ("The walks that you have booked still", "Was Sie noch gebucht haben", "Les balades que vous avez encore réservées",
     "Spacery, które masz jeszcze zarezerwowane"),
    ("Thank you for walking with us", "Danke, dass Sie mitgegangen sind", "Merci d’avoir marché avec nous",
     "Dziękujemy za wspólny spacer"),
    ("it was good to have you along. Tell us how it was: we read every answer.",
     "schön, dass Sie dabei waren. Sagen Sie uns, wie es war: wir lesen jede Antwort.",
     "c’était un plaisir de vous avoir. Dites-nous comment c’était : nous lisons chaque réponse.",
     "cieszymy się, że byłeś z nami. Napisz, jak było: czytamy każdą odpowiedź."),
    ("Tell us", "Sagen Sie es uns", "Nous le dire", "Napisz do nas"),
    ("@{if count(walk_bookings) >= 1}These are booked in your name:@{end}",
     "@{if count(walk_bookings) >= 1}Auf Ihren Namen gebucht:@{end}",
     "@{if count(walk_bookings) >= 1}Réservé à votre nom :@{end}",
     "@{if count(walk_bookings) >= 1}Zarezerwowane na Twoje nazwisko:@{end}"),
    ('A teaching box for @{school else "your school"}', 'Ein Lehrkoffer für @{school else "Ihre Schule"}',
     'Une mallette pour @{school else "votre école"}', 'Skrzynka dydaktyczna: @{school else "Twoja szkoła"}'),
    ("Twenty minerals, a lens for each child", "Zwanzig Minerale, eine Lupe für jedes Kind",
     "Vingt minéraux, une loupe par enfant", "Dwadzieścia minerałów i lupa dla każdego dziecka"),
    ('Dear @{first_name else "colleague"},', 'Guten Tag @{first_name else "liebes Kollegium"},',
     'Bonjour @{first_name else "chers collègues"},', 'Dzień dobry @{first_name else "szanowni państwo"},'),
    ("the boxes for the spring term are ready. Each holds twenty minerals and a lens for each child.",
     "die Koffer für das Frühjahr sind fertig. In jedem sind zwanzig Minerale und eine Lupe für jedes Kind.",
     "les mallettes du printemps sont prêtes. Chacune contient vingt minéraux et une loupe par enfant.",
     "skrzynki na wiosnę są gotowe. W każdej jest dwadzieścia minerałów i lupa dla każdego dziecka."),
    ("Borrow it for two weeks", "Für zwei Wochen ausleihen", "L’emprunter pour deux semaines", "Wypożycz na dwa tygodnie"),
    ("Bring it back, or we fetch it", "Zurückbringen, oder wir holen ihn", "La rapporter, ou nous venons la chercher",
     "Oddaj albo sami odbierzemy"),
    ("Ask for a box", "Koffer bestellen", "Demander une mallette", "Zamów skrzynkę"),
)  # fmt: skip

# What people read; the other members of a document are settings.
_READ = frozenset({"text", "label", "title", "subject", "preheader"})


def in_all_languages(content: MessageContent) -> MessageContent:
    """An English letter with its words in the other languages, which follow it as it is."""
    basis = Basis(subject=content.subject, preheader=content.preheader, blocks=content.blocks)
    told = basis.model_dump(mode="json")
    others = []
    for place, language in enumerate(LANGUAGES, 1):
        texts = {row[0]: row[place] for row in _TEXTS}
        words = _walk(told, "", lambda text, known=texts: known.get(text, text))  # type: ignore[misc]
        others.append(OtherWords.model_validate({**words, "language": language, "basis": told}))
    return content.model_copy(update={"others": tuple(others)})


def missing_texts(content: MessageContent) -> list[str]:
    """The texts of a letter that have no other words and are not made of inlays alone."""
    known: Mapping[str, Any] = {row[0]: row for row in _TEXTS}
    missing: list[str] = []

    def note(text: str) -> str:
        if text and text not in known and not text.startswith("@{"):
            missing.append(text)
        return text

    _walk(content.model_dump(mode="json", include={"subject", "preheader", "blocks"}), "", note)
    return missing


def _walk(told: Any, name: str, change: Callable[[str], str]) -> Any:
    match told:
        case str():
            return change(told) if name in _READ else told
        case dict():
            return {key: _walk(value, key, change) for key, value in told.items()}
        case list():
            return [_walk(one, name, change) for one in told]
        case _:
            return told
