"""Simulated people: what each does with a message, and when. Pure; the doing is in `acting`."""

from dataclasses import dataclass

from uvarovite.rehearsal.providers import Provider, draw

OPEN_SHARE = 0.56
CLICK_SHARE = 0.38
LEAVE_SHARE = 0.03
REPLY_SHARE = 0.02
LEAVE_BY_MAIL_SHARE = 0.004
AWAY_SHARE = 0.03
CONFIRM_SHARE = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Act:
    """One thing that somebody does, `after_seconds` from the message's arrival. `what` is open, click, leave, scan, reply,
    leave_by_mail, away or confirm.

    A leave is `one_click` by the mail program's own button, else by the page behind the link.
    """

    what: str
    after_seconds: float
    one_click: bool = False
    link: int = 0


# Sooner than this nobody has a message before their eyes; the application counts on it too, whatever the speed.
SOONEST_SECONDS = 3.0


def acts_for(seed: int, provider: Provider, address: str, message_id: str, links: int, speed: float) -> list[Act]:
    """What the owner of an address, and their provider, do with a message that has `links` links."""

    def chance(what: str) -> float:
        return draw(seed, what, address.lower(), message_id)

    acts: list[Act] = []
    if provider.scans_links:
        acts.append(Act(what="scan", after_seconds=0.2))
    if chance("away") < AWAY_SHARE:
        acts.append(Act(what="away", after_seconds=1.0))
    if chance("opens") >= OPEN_SHARE:
        return acts
    # Half of those who read do so within two hours; the last after two days.
    opened = SOONEST_SECONDS + (chance("when") ** 3 * 172_800 + chance("soon") * 3_600) / speed
    acts.append(Act(what="open", after_seconds=opened))
    if links and chance("clicks") < CLICK_SHARE:
        link = int(chance("link") * links)
        acts.append(Act(what="click", after_seconds=opened + 2 + chance("read") * 120 / speed, link=link))
    if chance("leaves") < LEAVE_SHARE / OPEN_SHARE:
        acts.append(
            Act(what="leave", after_seconds=opened + 1 + chance("annoyed") * 60 / speed, one_click=chance("way") < 0.5)
        )
    for what, share in (("reply", REPLY_SHARE), ("leave_by_mail", LEAVE_BY_MAIL_SHARE)):
        if chance(what) < share / OPEN_SHARE:
            acts.append(Act(what=what, after_seconds=opened + 2 + chance("writes") * 600 / speed))
    return acts


def confirms(seed: int, address: str, speed: float) -> list[Act]:
    """What somebody does who is asked whether they signed up: most did."""
    if draw(seed, "confirms", address.lower()) >= CONFIRM_SHARE:
        return []
    return [Act(what="confirm", after_seconds=SOONEST_SECONDS + draw(seed, "soon", address.lower()) * 3_600 / speed)]
