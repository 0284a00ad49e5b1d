"""Pictures that go along with a message: as they are kept, for every delivery, and what stands in the way of them."""

import io
import random

from PIL import Image

from tests.core.test_messages import parse
from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph, Picture
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.messages.pictures import keep_picture
from uvarovite.store.database import change_sql, run_sql
from uvarovite.store.tables import Run

HERE = "https://skarnmuseum.example"


def keep(museum: Museum, side: int) -> str:
    """A picture that nothing makes smaller; its address."""
    noise = random.Random(side).randbytes(side * side * 3)
    out = io.BytesIO()
    Image.frombytes("RGB", (side, side), noise).save(out, "PNG")
    return keep_picture(
        museum.database, SYSTEM, data=out.getvalue(), filename="owl.png", public_url=HERE, now=NOW
    ).address


def show(museum: Museum, *addresses: str, embedded: bool = True) -> dict[str, str]:
    """The checks of a campaign whose message shows pictures."""
    pictures = tuple(Picture(address=one, alt="Noise", embedded=embedded) for one in addresses)
    revision = get_message(museum.database, SYSTEM, museum.message_id).revision
    content = MessageContent(subject="Owls", blocks=(Paragraph(text="They are back."), *pictures))
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=revision, now=NOW
    )
    return {one.code: one.message for one in museum.view().checks}


def test_a_picture_goes_along_as_it_is_kept(museum: Museum) -> None:
    address = keep(museum, 40)
    assert not {"picture_gone", "pictures_along", "files_heavy"} & show(museum, address).keys()
    run_id = museum.release()
    with museum.database.transaction() as tx:
        run = tx.get(Run, run_id)
        assert run is not None
        composer = composer_of(tx, run, KEYRING, press=press_of(museum.database))
        kept = run_sql(tx, "SELECT content FROM picture")[0].content
    made = composer.compose(
        delivery_id=museum.delivery_id(run_id, "M-01"), address="ada@slatepost.example",
        record_json={"contact_no": "M-01"}, consent_since=None, marked_at=NOW,
    )  # fmt: skip
    [part] = [one for one in parse(made.raw).walk() if one.get_content_type() == "image/png"]
    assert part.get_payload(decode=True) == kept
    assert address not in made.raw.decode()
    assert f'src="{address}"' in made.read().html


def test_what_makes_every_message_heavy_is_said_and_what_none_takes_is_refused(museum: Museum) -> None:
    light, heavy = keep(museum, 100), keep(museum, 400)
    assert "pictures_along" not in show(museum, light)
    told = show(museum, light, heavy)
    assert told["pictures_along"].startswith("The pictures that go along have 0.5 MB in every single message.")
    assert "pictures_along" not in show(museum, light, heavy, embedded=False)
    # The same picture twice goes along once.
    assert show(museum, heavy, heavy, light)["pictures_along"] == told["pictures_along"]
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE picture SET content = convert_to(repeat('x', 7400000), 'UTF8') WHERE height = 400")
    assert "files_heavy" in show(museum, heavy)
    gone = f"{HERE}/p/{'0' * 32}.png"
    assert "picture_gone" in show(museum, light, gone)
    assert "picture_gone" not in show(museum, light, gone, embedded=False)
