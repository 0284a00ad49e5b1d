"""What can stand between a campaign and its release: a row for each, with what is meant, what to do, and where.

What is only about the words themselves has tables of its own (core.messages.checks, core.messages.advice).
"""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckWords:
    """`stop` is the part of the run sheet that mends it; what does not block is advice."""

    stop: str
    words: str
    blocking: bool = False


CHECKS: Mapping[str, CheckWords] = {
    "no_audience": CheckWords(stop="who", blocking=True, words="Choose who gets it: an audience."),
    "no_topic": CheckWords(stop="who", blocking=True, words="Choose the topic that these people opted in to."),
    "no_message": CheckWords(stop="words", blocking=True, words="Choose the message."),
    "no_sender": CheckWords(stop="pace", blocking=True, words="Choose who it comes from."),
    "no_relay": CheckWords(stop="pace", blocking=True, words="Choose the relays that it goes through."),
    "sender_words": CheckWords(
        stop="pace",
        blocking=True,
        words="The sender “{sender}” cannot be used: {told} Mend it in Set-up, Senders.",
    ),
    "not_your_sender": CheckWords(
        stop="pace",
        blocking=True,
        words="“{sender}” is released by {who} only. Ask one of them, or choose another sender.",
    ),
    "draft_audience": CheckWords(
        stop="who",
        blocking=True,
        words="You changed the conditions and did not save them. Save them, or throw them away.",
    ),
    "draft_message": CheckWords(
        stop="words",
        blocking=True,
        words="You changed the words and did not save them. Save them, or throw them away.",
    ),
    "others_draft_audience": CheckWords(
        stop="who", words="{by} is changing the conditions and has not saved them; they go as they are saved."
    ),
    "others_draft_message": CheckWords(
        stop="words", words="{by} is changing the words and has not saved them; they go as they are saved."
    ),
    "comments": CheckWords(stop="words", words="{count:comment on the words is|comments on the words are} open."),
    "criteria": CheckWords(
        stop="who", blocking=True, words="The audience's conditions cannot be used any more: {told}"
    ),
    "nobody": CheckWords(stop="who", blocking=True, words="Nobody is cleared: open the gates in Who to see why."),
    "words": CheckWords(stop="words", blocking=True, words="In {where}: {told}"),
    "blank_field": CheckWords(
        stop="words",
        blocking=True,
        words="{count:person has|people have} no {field} and would see a hole: {who}. Add a fallback: {example}, "
        "or name it under Required fields: then they do not get the message.",
    ),
    "running": CheckWords(
        stop="dispatch",
        blocking=True,
        words="A run of this campaign is on its way; wait for its end, or stop it in Dispatch.",
    ),
    "again": CheckWords(stop="release", words="This campaign was released before, on {day}; {who}."),
    "source": CheckWords(
        stop="release",
        words="The live source “{source}” is fetched first; the release stops if the number moves with it.",
    ),
    "remark": CheckWords(stop="proofs", words="{told}"),
    "proofs": CheckWords(stop="proofs", words="Nobody has found {left} of {of:proof|proofs} right yet."),
    # ------------------------------------------------ what is attached
    "file_gone": CheckWords(
        stop="words", blocking=True, words="A file that is attached is not kept any more. Attach it again."
    ),
    "picture_gone": CheckWords(
        stop="words",
        blocking=True,
        words="A picture that goes along with the message is not kept here. Upload it again, or let readers fetch it.",
    ),
    "pictures_along": CheckWords(
        stop="words",
        blocking=False,
        words="The pictures that go along have {size} MB in every single message. Let readers fetch the large ones.",
    ),
    "pdf_gone": CheckWords(
        stop="words",
        blocking=True,
        words="A message that goes along as a PDF is not here any more. Choose another one.",
    ),
    "pdf_faulty": CheckWords(
        stop="words",
        blocking=True,
        words="The message “{message}” goes along as a PDF, and its words have a problem: {told}",
    ),
    "files_heavy": CheckWords(
        stop="words",
        blocking=True,
        words="What is attached has {size} MB together, and at most {most} MB go with a message: many mailboxes "
        "take no more. Put the largest on your website, and link to it.",
    ),
    "own_files_heavy": CheckWords(
        stop="words",
        blocking=True,
        words="The files for each person have {size} MB together, and at most {most} MB are kept at hand while a run goes "
        "out. Make them smaller, or send them in parts of the audience.",
    ),
    "relay_takes_less": CheckWords(
        stop="words",
        blocking=True,
        words="With what is attached a message has up to {size} MB, and “{relay}” says that it takes {most} MB. "
        "Attach less, or choose another relay.",
    ),
    "entry_left_out": CheckWords(
        stop="words",
        words="{count:person has|people have} nothing in {field}: no entry for the calendar goes with that message.",
    ),
    "own_file_missing": CheckWords(
        stop="words",
        words="{count:person has|people have} no file for “{name}”: their message goes without one.",
    ),
    "entry_past": CheckWords(stop="words", words="The entry for the calendar is on {day}, which is past."),
    # ------------------------------------------------ who it comes from, how it looks, what people got before
    "same_subject": CheckWords(
        stop="words",
        words="“{campaign}” went out with the same subject on {day}. Readers take this for the same message.",
    ),
    "foreign_sender": CheckWords(
        stop="pace",
        words="The sender's name speaks of {domain}, and the address is at {own}. Mail programs warn of that as of a fraud.",
    ),
    "heavy_pictures": CheckWords(
        stop="words",
        words="The pictures have {size} MB together. On a telephone the message shows late; take smaller ones.",
    ),
    "faint": CheckWords(
        stop="words",
        words="How letters look makes {what} hard to read: {ratio} to 1, and 4.5 is the least. Set-up, Letters has colours.",
    ),
}
