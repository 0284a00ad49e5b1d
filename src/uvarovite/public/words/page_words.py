"""What a language needs words for."""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True, kw_only=True)
class PageWords:
    """All texts of the pages for recipients. {organisation}, {topic}, {topics}, {address} and {day} are filled in.

    `name` is what the language calls itself, `direction` how it is written; `day` is a strftime form.
    """

    name: str
    direction: Literal["ltr", "rtl"] = "ltr"
    day: str

    question: str
    explain: str
    why: str
    leave: str
    left: str
    left_more: str
    stay: str
    stayed: str
    stayed_more: str
    or_choose: str

    preferences: str
    for_address: str
    saved: str
    saved_more: str
    undo: str
    topics: str
    how_often: str
    as_it_comes: str
    a_week: str
    a_month: str
    pause: str
    paused: str
    resume: str
    about_you: str
    first_name: str
    last_name: str
    language: str
    noted: str
    noted_as_usual: str
    noted_counted: str
    noted_off: str
    save: str
    leave_all: str
    leave_all_more: str

    your_address: str
    sign_up: str
    choose_topic: str
    wrong_address: str
    look_there: str
    look_there_more: str
    confirm: str
    confirm_more: str
    yes: str
    confirmed: str
    confirmed_more: str
    too_late: str
    too_late_more: str
    yes_word: str
    no_word: str

    busy: str
    busy_more: str
