"""Every service knows who asks."""

import importlib
import inspect
import pkgutil

import pytest

import uvarovite.services
from tests.support.acting import acting
from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import ACTIONS, Role
from uvarovite.services.accounts.permitted import NotAllowed
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.delivery.dispatch import pause

# What takes the database and nobody who asks: each has another reason to be believed.
NOBODY_ASKS = {
    # Whoever comes in is not known yet; their password, link or token is what is looked at.
    "accounts.asker": {"who_is_it"},
    "accounts.signing_in": {"sign_in", "sign_in_by_link", "look_at_invitation", "accept_invitation", "purge_sign_ins"},
    # The keys of requests: about whoever sends them.
    "saving.once": {"is_known", "answered", "keep_answer", "forget_key", "purge_keys"},
    # Recipients: their signed token says who they are.
    # Mail that comes in: what the listener and the chores of workers do.
    "responses.inbound": {"is_ours", "take_in", "act_on_next", "let_go_of_raw"},
    "responses.mailbox": {"read_up_to", "take_from_mailbox", "note_look"},
    # Whoever signs up: what a form says, and the signed token of the mail that asks them.
    "responses.signing_up": {"form_page", "send_in", "confirm_page", "confirm", "let_go_of_sign_ups"},
    "responses.sign_up_mails": {"next_ask", "note_ask"},
    "responses.forwarding": {"next_forward", "note_forward"},
    "responses.preferences": {"preference_page", "save_preferences", "stay"},
    "responses.visits": {"admit", "count_visit"},
    "responses.leaving": {"leave_page", "leave_topic"},
    "responses.copies": {"browser_copy"},
    "responses.tracking": {"record_seen", "link_targets"},
    # Whoever has a picture's address, which is the digest of its bytes.
    "messages.pictures": {"picture_file"},
    # The engine and the chores of workers.
    "delivery.sending": {
        "claim", "next_due", "advance", "pick_up", "going", "give_back", "rest_relay", "relay_is_full", "recover",
    },
    "delivery.kits": {"load_run_kit"},
    "delivery.watching": {"fold_run_counts"},
    "delivery.waiting": {"what_waits"},
    "campaigns.planned": {"release_due"},
    "campaigns.printing": {"let_go_of_letters"},
    "contacts.retention": {"let_go_of_deleted"},
    "contacts.verification": {"check_domains", "check_domain"},
    "sources.jobs": {"pull_by_itself", "pull_due", "pull_before_run"},
    "imports.jobs": {"recover_jobs", "teller"},
    # Steps of services that have asked already.
    "imports.files": {"keep_pieces"},
    "messages.pdfs": {"press_of"},
    "organisation.single_mails": {"on_the_wire"},
    "imports.previewing": {"data_of"},
    "imports.standing": {"note"},
    # Before there is anybody.
    "organisation.founding": {"is_founded"},
    # What plays rehearsals, and lets go of them; whoever looks into one has asked a service of deliveries.
    "rehearsals.asking": {"database_of", "drop_left", "let_go_of_rehearsals"},
    "rehearsals.playing": {"next_rehearsal", "begin_rehearsal", "hear_of_rehearsal", "end_rehearsal"},
}  # fmt: skip


def services() -> dict[str, set[str]]:
    """By module, the public functions that take the database first and name no permission."""
    found: dict[str, set[str]] = {}
    root = uvarovite.services
    for module in pkgutil.walk_packages(root.__path__, f"{root.__name__}."):
        for name, one in vars(importlib.import_module(module.name)).items():
            if name.startswith("_") or not inspect.isfunction(one) or one.__module__ != module.name:
                continue
            takes = list(inspect.signature(one).parameters)
            if takes[:1] == ["database"] and not hasattr(one, "permission"):
                found.setdefault(module.name.removeprefix(f"{root.__name__}."), set()).add(name)
    return found


def test_every_service_that_somebody_asks_for_names_its_permission() -> None:
    assert services() == NOBODY_ASKS


def test_every_action_of_the_log_is_written_by_a_service() -> None:
    text = "".join(
        inspect.getsource(importlib.import_module(module.name))
        for module in pkgutil.walk_packages(uvarovite.services.__path__, "uvarovite.services.")
    )
    assert {action for action in ACTIONS if f"Action.{action.name}" not in text} == set()


def test_a_service_refuses_by_itself_whoever_may_not(museum: Museum) -> None:
    reader, author = acting(1, Role.READER), acting(1, Role.AUTHOR)
    assert get_campaign(museum.database, reader, museum.campaign_id, NOW).id == museum.campaign_id
    with pytest.raises(NotAllowed, match=r"You may not release campaigns, .* takes the role Releaser"):
        release(
            museum.database,
            author,
            campaign_id=museum.campaign_id,
            revision=1,
            seen_cleared=5,
            seen_message_number=1,
            public_url="http://127.0.0.1",
            keyring=None,  # type: ignore[arg-type] - it is refused before anything is looked at
            now=NOW,
        )
    with pytest.raises(NotAllowed):
        pause(museum.database, reader, museum.release(), NOW)
