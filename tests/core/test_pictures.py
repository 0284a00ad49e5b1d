"""Pictures that are uploaded: what they hold counts, they are made small, and nothing that is none gets through."""

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from uvarovite.core.messages.pictures import LARGEST_BYTES, WIDEST, PictureFault, ready_picture


def picture(kind: str, size: tuple[int, int] = (40, 20), mode: str = "RGB", **more: object) -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, "#1b7350" if mode == "RGB" else 0).save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "kind", "size"),
    [
        (picture("PNG"), "png", (40, 20)),
        (picture("JPEG"), "jpg", (40, 20)),
        (picture("WEBP"), "jpg", (40, 20)),
        (picture("WEBP", mode="RGBA"), "png", (40, 20)),
        (picture("TIFF"), "jpg", (40, 20)),
        (picture("JPEG", (2_400, 1_000)), "jpg", (WIDEST, 500)),
        (picture("PNG", (3_000, 2)), "png", (WIDEST, 1)),
        (picture("GIF", mode="P"), "png", (40, 20)),
        (
            picture("GIF", save_all=True, append_images=[Image.new("RGB", (40, 20), "red")]),
            "gif",
            (40, 20),
        ),
    ],
    ids=["png", "jpeg", "webp", "clear webp", "tiff", "wide", "flat", "still gif", "moving gif"],
)
def test_a_picture_is_kept_as_mail_programs_show_it_and_no_wider_than_letters_are(
    data: bytes, kind: str, size: tuple[int, int]
) -> None:
    found = ready_picture(data)
    assert (found.kind, found.width, found.height) == (kind, *size)
    shown = Image.open(io.BytesIO(found.content))
    assert shown.size == size


def test_it_stands_upright_and_where_and_when_it_was_taken_is_not_kept() -> None:
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "a camera"
    found = ready_picture(picture("JPEG", exif=exif))
    assert (found.width, found.height) == (20, 40)
    assert dict(Image.open(io.BytesIO(found.content)).getexif()) == {}


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"<svg onload=alert(1)>", "drawing"),
        (b'<?xml version="1.0"?><svg/>', "drawing"),
        (b"<script>alert(1)</script>", "no_picture"),
        (b"%PDF-1.7", "no_picture"),
        (b"", "no_picture"),
        (picture("PNG", (400, 400))[:120], "broken"),
        (picture("JPEG", (400, 400))[:300], "broken"),
        (b"x" * (LARGEST_BYTES + 1), "too_large"),
        (picture("PNG", (20_000, 5_000), mode="1"), "many_pixels"),
    ],
    ids=["svg", "svg in xml", "script", "pdf", "empty", "cut png", "cut jpeg", "large", "many pixels"],
)
def test_what_is_no_picture_for_a_letter_says_why(data: bytes, code: str) -> None:
    with pytest.raises(PictureFault) as fault:
        ready_picture(data)
    assert fault.value.code == code
    assert "?" not in fault.value.message


@given(st.binary(max_size=200), st.sampled_from(["PNG", "JPEG", "GIF", "WEBP"]), st.integers(0, 300))
def test_any_bytes_are_a_picture_or_refused(noise: bytes, kind: str, at: int) -> None:
    whole = picture(kind)
    try:
        found = ready_picture(whole[:at] + noise + whole[at + len(noise) :])
    except PictureFault:
        return
    assert found.kind in ("jpg", "png", "gif")
