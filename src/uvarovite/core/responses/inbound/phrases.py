"""Words by which mail is known: of reports, of machines that answer, and of people who want to leave, by language.

The phrases are compared in lower case, without punctuation and with single spaces.
"""

import re

from uvarovite.core.delivery.answers import Meaning

# Subjects of reports about mail that did not arrive, wherever they stand in the subject.
FAILED_SUBJECTS = re.compile(
    r"(?i)undeliver|delivery (status|failure|has failed|notification)|mail delivery (failed|subsystem|system)|returned mail"
    r"|failure notice|delivery delayed|could not be delivered|message not delivered|warning: message"
    r"|unzustellbar|nicht zugestellt|zustellung|[üu]bermittlung(sfehler)?"
    r"|non remis|non distribu|[ée]chec de (la )?(remise|distribution)|retour de courrier"
    r"|niedostarcz|nie dostarczono|zwrot wiadomo|b[łl][ąa]d dostar"
    r"|no se (ha podido|pudo) entregar|no entregado|error de entrega|mancato recapito|impossibile recapitare"
)
# Who sends them.
MAIL_SYSTEMS = re.compile(
    r"(?i)^(mailer-daemon|postmaster|mail-daemon|maildelivery|bounces?|mailsystem|mail\.?delivery)$"
)

# Subjects by which machines say that they answer, at their beginning.
AUTOMATIC_SUBJECTS = re.compile(
    r"(?i)^(auto(matic|mated)?[ -]?(reply|response|answer)|autoreply|out of (the )?office|away from|on (holiday|vacation|leave)"
    r"|i am (away|out|on)|automatische (antwort|r[üu]ckantwort)|abwesenheit|autom\. antwort|ich bin (nicht|im urlaub)"
    r"|r[ée]ponse automatique|absen(t|ce) (du|de|au)|message automatique"
    r"|automatyczna odpowied|odpowied[źz] automatyczna|autoodpowied|nieobecno|jestem na urlopie"
    r"|respuesta autom|fuera de la oficina|risposta automatica|fuori ufficio|automatisch antwoord|autosvar)"
)

_LIST = {
    "en": r"(this |the |your |all |any )*(e ?mail|mail|mailing|news|distribution)? ?(list|lists|mailings?|e ?mails?|mails?|messages?|letters?)?",
    "de": r"(dieser |dieser |der |dem |den |diesem |ihrer |ihrem |eurer |eurem )*(e ?mail|mail|verteiler)? ?(liste|verteiler|listen|mails|e ?mails)?",
    "fr": r"(cette |la |les |vos |votre |de |des )*(liste|listes|envois|courriels|mails|e ?mails|messages)?( de diffusion)?",
    "pl": r"((z|tej|listy|waszej|waszych|mailingowej|wiadomo[śs]ci|e ?maili|maili) ?)*",
    "es": r"(esta |la |su |sus |de )*(lista|listas|correos|mensajes)?( de correo)?",
}
_POLITE = {
    "en": r"(please |kindly |pls )?",
    "de": r"(bitte |hiermit )*",
    "fr": r"(merci de |veuillez |svp |s il vous pla[iî]t )?",
    "pl": r"(prosz[ęe] |prosz[ęe] o )?",
    "es": r"(por favor )?",
}
# Each stands for a whole sentence: one that says more is none.
_REQUESTS = {
    "en": (
        rf"(unsubscribe|remove|delete|take|opt)( me| us| out| my( e ?mail)?( address)?)*( off| out)?( from| of| off)? ?{_LIST['en']}( please| now| immediately| thanks| thank you)*",
        r"(i|we) (want|wish|would like|d like) to (unsubscribe|opt out|leave|be (removed|taken off|unsubscribed))"
        rf"( (from|off) {_LIST['en']})?",
        rf"(stop|cease|quit|do not|don t|dont) (sending|send|mailing|mail|e ?mailing|e ?mail|contact|contacting|writing|write)( to)?( me| us)?( any)?( more)? ?{_LIST['en']}( any ?more| again)*",
        r"(no more|no further) (e ?mails?|mails?|messages?)( please)?",
        r"stop",
    ),
    "de": (
        rf"(abmelden|abbestellen|austragen|abmeldung|abbestellung|l[öo]schen|k[üu]ndigen)( aus| von)? ?{_LIST['de']}",
        rf"(melden|tragen|nehmen|streichen|l[öo]schen) sie (mich|uns|meine adresse)( bitte)?( aus| von)? ?{_LIST['de']} ?(ab|aus|heraus|raus)?",
        rf"(mich|uns|meine adresse)( bitte)?( aus| von)? ?{_LIST['de']} ?(abmelden|austragen|streichen|l[öo]schen|nehmen)",
        r"(keine|keinerlei) (weiteren |weitere )?(e ?mails?|mails?|nachrichten|zusendungen)( mehr)?( bitte| senden| schicken)*",
        rf"(ich|wir) (m[öo]chte|m[öo]chten|will|wollen|w[üu]nsche) (mich |uns )?(aus |von )?{_LIST['de']} ?(abmelden|ausgetragen werden|austragen|keine (weiteren )?(e ?mails?|mails?|nachrichten)( mehr)?( erhalten| bekommen)?)",
    ),
    "fr": (
        rf"(d[ée]sabonner|d[ée]sabonnement|d[ée]sinscrire|d[ée]sinscription|se d[ée]sabonner|me d[ée]sabonner|me d[ée]sinscrire)( de)? ?{_LIST['fr']}",
        rf"(d[ée]sabonnez|d[ée]sinscrivez|retirez|supprimez|enlevez|retirer|supprimer)( moi| nous| mon adresse)( de)? ?{_LIST['fr']}",
        rf"(me|nous) (retirer|supprimer|d[ée]sabonner|d[ée]sinscrire|enlever)( de)? ?{_LIST['fr']}",
        rf"(je|nous) (souhaite|souhaitons|voudrais|veux|d[ée]sire) (me |nous )?(d[ée]sabonner|d[ée]sinscrire|[êe]tre (retir[ée]e?|supprim[ée]e?))( de)? ?{_LIST['fr']}",
        r"(plus de|plus aucun|ne plus recevoir( de| vos)?|je ne veux plus recevoir( de| vos)?) (mails?|e ?mails?|courriels?|messages?|envois)",
    ),
    "pl": (
        rf"(wypisz|wypisanie|wypisa[ćc]|usu[ńn]|usun[ąa][ćc]|usuni[ęe]cie|rezygnuj[ęe]|rezygnacja)( mnie| nas| m[óo]j adres| mojego adresu)* ?{_LIST['pl']}",
        rf"(mnie|nas|m[óo]j adres) (wypisa[ćc]|usun[ąa][ćc]|skre[śs]li[ćc]) ?{_LIST['pl']}",
        rf"(chc[ęe]|chcia[łl]bym|chcia[łl]abym) (si[ęe] )?(wypisa[ćc]|zrezygnowa[ćc])( si[ęe])? ?{_LIST['pl']}",
        rf"(nie|prosz[ęe] nie) (przysy[łl]a[ćc]|wysy[łl]a[ćc]|przysy[łl]ajcie|wysy[łl]ajcie)( mi| nam)?( ju[żz]| wi[ęe]cej)* ?{_LIST['pl']}",
    ),
    "es": (
        rf"(baja|darme de baja|dar de baja|cancelar( la)? suscripci[óo]n|b[óo]rrenme|elim[ií]nenme|desuscribir)( de)? ?{_LIST['es']}",
        rf"(quiero|deseo|quisiera) (darme de baja|dejar de recibir)( de)? ?{_LIST['es']}",
        rf"no (me )?(env[ií]en|manden|quiero recibir)( m[áa]s) ?{_LIST['es']}",
    ),
}  # fmt: skip
REQUESTS = tuple(re.compile(rf"{_POLITE[language]}(?:{one})") for language, some in _REQUESTS.items() for one in some)

# What may stand beside a request without making it a letter.
COURTESIES = re.compile(
    r"(hi|hello|hallo|dear|good (morning|afternoon|evening)|guten (tag|morgen|abend)|sehr geehrte|bonjour|bonsoir|madame|"
    r"ch[eè]re?|dzie[ńn] dobry|szanowni|hola|buenos d[ií]as|estimados?)( \S+){0,5}"
    r"|(many )?(thanks|thank you|thx|cheers|danke|vielen dank|besten dank|merci|merci (d avance|beaucoup)|dzi[ęe]kuj[ęe]|"
    r"gracias)( \S+){0,3}"
    r"|(kind |best |warm |many )*(regards|wishes)( \S+){0,3}|sincerely( \S+){0,3}|yours( \S+){0,3}"
    r"|(mit )?(freundlichen|besten|vielen|sch[öo]nen) gr[üu](ß|ss)en?( \S+){0,3}|mfg( \S+){0,3}|lg( \S+){0,3}"
    r"|(bien )?cordialement( \S+){0,3}|salutations( \S+){0,3}|pozdrawiam( \S+){0,3}|z powa[żz]aniem( \S+){0,3}"
    r"|un saludo( \S+){0,3}|saludos( \S+){0,3}|sent from my( \S+){1,4}|(von|gesendet von) mein(em)? (\S+ ?){1,4}( gesendet)?"
    r"|envoy[ée] de mon( \S+){1,4}|wys[łl]ano z( \S+){1,4}"
)
CLOSINGS = re.compile(
    r"(?:(?:kind |best |warm |many )*(?:regards|wishes)|sincerely|yours|mit .*gr[üu](?:ß|ss)|freundliche gr|mfg|lg|.*cordialement|"
    r"salutations|pozdrawiam|z powa[żz]aniem|un saludo|saludos|thanks|thank you|danke|vielen dank|merci|dzi[ęe]kuj[ęe]|gracias).*"
)

# Where what a person wrote ends and what they answer to begins.
QUOTES = re.compile(
    r"(?im)^[ \t]*(-{2,} ?(original message|urspr[üu]ngliche nachricht|message d.origine|oryginalna wiadomo[śs][ćc]|mensaje original"
    r"|forwarded message|weitergeleitete nachricht)|_{10,}|on .{6,120} wrote:|am .{6,120} schrieb.{0,120}:"
    r"|le .{6,120} a [ée]crit\s?:|w dniu .{6,120} (napisa[łl]|pisze).{0,80}:|el .{6,120} escribi[óo]:"
    r"|(from|von|de|od): .{3,200}\r?\n[ \t]*(sent|date|to|gesendet|datum|an|envoy[ée]|wys[łl]ano|do|enviado):)"
)

# A failure for which the status says nothing, by what is said about it. English stands in nearly all of them.
FAILURES: tuple[tuple[Meaning, re.Pattern[str]], ...] = (
    (
        Meaning.MAILBOX_FULL,
        re.compile(r"(?i)(quota|mail ?box|inbox)\b.{0,30}\b(full|exceed|over)|over quota|out of storage"),
    ),
    (
        Meaning.UNKNOWN_ADDRESS,
        re.compile(
            r"(?i)user unknown|unknown (user|recipient|address|mailbox)|no such (user|recipient|mailbox|address|person)"
            r"|(user|recipient|address|mailbox|account)\b.{0,40}\b(not|n't) (be found|found|exist|known)"
            r"|does not exist|unrouteable address|invalid recipient|(host|domain) (name )?not found|unknown domain"
        ),
    ),
    (
        Meaning.MAILBOX_DISABLED,
        re.compile(r"(?i)(account|mailbox|user)\b.{0,30}\b(disabled|inactive|suspended|closed)"),
    ),
    (
        Meaning.POLICY,
        re.compile(r"(?i)\b(spam|blocked|blacklist|policy|reputation|dmarc|spf)\b|relay(ing)? (access )?denied"),
    ),
    (Meaning.CANNOT_TAKE_IT, re.compile(r"(?i)too (big|large)|size limit|exceeds .{0,30}size")),
)
