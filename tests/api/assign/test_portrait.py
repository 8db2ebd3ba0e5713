"""Portraits: cut, cleaned, seen by whoever sees the profile, changed by whoever may change it."""

from io import BytesIO
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test.client import BOUNDARY, MULTIPART_CONTENT, encode_multipart
from PIL import Image

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from tests.api.support import Asking, ok, refused

PATH = "/api/accounts/odile/portrait"


def picture(format: str = "PNG", size: tuple[int, int] = (400, 200)) -> bytes:
    """Red on the left half, blue on the right."""
    image = Image.new("RGB", size, "red")
    image.paste("blue", (size[0] // 2, 0, *size))
    written = BytesIO()
    image.save(written, format)
    return written.getvalue()


def send(asking: Asking, content: bytes, path: str = PATH, **more: str):
    body = encode_multipart(BOUNDARY, {"picture": SimpleUploadedFile("me.png", content), **more})
    return asking._read(asking.client.put(path, body, content_type=MULTIPART_CONTENT))


def test_the_asked_square_is_kept_and_shown(odile):
    address = ok(send(odile, picture(), left="0.5", top="0", width="0.5", height="1"))["portrait"]
    assert ok(odile.get("me"))["portrait"] == address
    shown = odile.client.get(address)
    kept = Image.open(BytesIO(b"".join(shown.streaming_content)))
    assert (kept.format, kept.size) == ("WEBP", (256, 256))
    assert kept.convert("RGB").getpixel((10, 10))[2] > 200, "the right half is blue"
    assert shown["Content-Type"] == "image/webp"


def test_another_one_takes_its_place_and_it_can_be_taken_away(odile):
    ok(send(odile, picture()))
    first = Account.objects.get(pk="odile").portrait.path
    ok(send(odile, picture("JPEG")))
    with pytest.raises(FileNotFoundError):
        Path(first).read_bytes()
    assert ok(odile.delete("accounts/odile/portrait"))["portrait"] is None
    refused(odile.get("accounts/odile/portrait"), "not-found", 404)


@pytest.mark.parametrize("content", [b"", b"no picture", picture()[:60], b"<svg xmlns='http://www.w3.org/2000/svg'/>"])
def test_what_is_no_picture_is_refused_with_the_reason(odile, content):
    problem = refused(send(odile, content), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/picture"
    assert not Account.objects.get(pk="odile").portrait


def test_too_many_pixels_are_refused_before_they_are_read(odile):
    refused(send(odile, picture(size=(10_000, 5_002))), "too-large", 413)


def test_a_file_that_is_too_large_is_refused_before_it_is_read(odile):
    refused(send(odile, b"x" * (10 * 1024 * 1024 + 20_000)), "too-large", 413)


@pytest.mark.parametrize("box", [{"left": "2"}, {"width": "0"}, {"top": "nan"}, {"height": "much"}])
def test_a_square_beside_the_picture_is_refused(odile, box):
    refused(send(odile, picture(), **box), "invalid", 422)


def test_only_whoever_may_change_a_profile_changes_its_portrait(odile, ines):
    ok(send(odile, picture()))
    ok(send(ines, picture(), "/api/accounts/ines/portrait"))
    assert send(ines, picture()).status_code == 404, "she may not even see it"
    Answer.objects.filter(role="signed-in", capability="account.edit").delete()
    raise_version()
    assert send(ines, picture(), "/api/accounts/ines/portrait").status_code == 403
    assert ines.get("accounts/odile/portrait").status_code == 404
    assert Asking(None).get("accounts/odile/portrait").status_code == 401
