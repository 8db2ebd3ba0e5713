"""Files come in as drafts, cleaned; what cannot be kept is said; another file takes the place of one."""

from io import BytesIO
from zipfile import ZipFile

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test.client import BOUNDARY, MULTIPART_CONTENT, encode_multipart
from PIL import Image

from gonfalon.content.media import incoming
from gonfalon.content.media.incoming import NotKept, read_incoming
from gonfalon.content.media.sizes import make_sizes
from gonfalon.content.models import Node, Rendition, Site
from tests.api.support import Asking, apply, ok, refused

PLACE = 0x8825
"""Where a photograph says that it was taken."""


def picture(format="JPEG", size=(900, 300), mode="RGB", **more) -> bytes:
    written = BytesIO()
    Image.new(mode, size, "teal").save(written, format, **more)
    return written.getvalue()


def photograph() -> bytes:
    """Lying on its side, with the place where it was taken."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(PLACE)[2] = (57.0, 30.0, 12.0)
    return picture(exif=exif)


def packed(**entries: str) -> bytes:
    written = BytesIO()
    with ZipFile(written, "w") as file:
        for name, content in entries.items():
            file.writestr(name.replace("__", "/"), content)
    return written.getvalue()


LETTER = packed(**{"[Content_Types].xml": "<Types/>", "word__document.xml": "<w/>"})
PDF = b"%PDF-1.7\n1 0 obj\n<<>>\nendobj\n%%EOF\n"


def send(asking: Asking, content: bytes, name="sail-loft_2.JPG", folder="pier-pictures", path="desk/media", **more):
    headers = {key: more.pop(key) for key in ("If-Match",) if key in more}
    data = {"file": SimpleUploadedFile(name, content), **({"folder": folder} if folder else {}), **more}
    body = encode_multipart(BOUNDARY, data)
    return asking._read(
        asking.client.generic("POST", f"/api/{path}", body, content_type=MULTIPART_CONTENT, headers=headers)
    )


def served(asking: Asking, node: str, **query):
    return asking.client.get(f"/files/{node}", query)


def content(response) -> bytes:
    return b"".join(response.streaming_content)


class TestReading:
    @pytest.mark.parametrize(("format", "kept"), [("JPEG", "jpg"), ("PNG", "png"), ("WEBP", "webp")])
    def test_a_picture_is_found_whatever_it_is_called(self, format, kept):
        read = read_incoming("invoice.pdf", picture(format))
        assert (read.kind, read.extension, read.width, read.height) == ("picture", kept, 900, 300)
        assert Image.open(BytesIO(read.content)).format == format

    def test_a_photograph_is_turned_upright_and_does_not_say_where_it_was_taken(self):
        sent = photograph()
        assert Image.open(BytesIO(sent)).getexif().get_ifd(PLACE)
        read = read_incoming("pier.jpg", sent)
        kept = Image.open(BytesIO(read.content))
        assert (kept.size, (read.width, read.height)) == ((300, 900), (300, 900))
        assert not kept.getexif()

    @pytest.mark.parametrize("mode", ["L", "LA", "P", "RGBA", "CMYK", "1", "I;16"])
    def test_whatever_its_colours_are(self, mode):
        format = "JPEG" if mode == "CMYK" else "PNG"
        written = BytesIO()
        Image.new("P" if mode == "P" else mode, (8, 8)).save(written, format)
        assert read_incoming("x", written.getvalue()).kind == "picture"

    def test_what_is_hung_behind_a_picture_is_not_kept(self):
        read = read_incoming("x.png", picture("PNG") + packed(payload="<script>"))
        assert b"payload" not in read.content

    @pytest.mark.parametrize(
        ("name", "sent", "kept"),
        [
            ("winter rates.pdf", PDF, "pdf"),
            ("letter.docx", LETTER, "docx"),
            ("a.bin", packed(**{"[Content_Types].xml": "", "xl__workbook.xml": ""}), "xlsx"),
            ("b", packed(mimetype="application/vnd.oasis.opendocument.text"), "odt"),
            ("tides.csv", "Höhe,Zeit\r\n1,2\r\n".encode(), "csv"),
            ("notes.TXT", b"Slack water at noon.\n", "txt"),
        ],
    )
    def test_documents_are_kept_as_they_are(self, name, sent, kept):
        read = read_incoming(name, sent)
        assert (read.kind, read.extension, read.content) == ("document", kept, sent)

    @pytest.mark.parametrize(
        ("sent", "told"),
        [
            (b"", "empty"),
            (b'<?xml version="1.0"?>\n<svg xmlns="x"><script/></svg>', "scripts"),
            (b"  <SVG></SVG>", "scripts"),
            (picture()[:200], "torn"),
            (PDF[:-8], "torn"),
            (PDF + packed(a="b"), "something else"),
            (LETTER[:-30], "torn"),
            (packed(readme="x"), "Packed files"),
            (packed(**{"[Content_Types].xml": "", "word__a": "", "word__vbaProject.bin": ""}), "macros"),
            (packed(**{"[Content_Types].xml": "", "word__a": "", "xl__b": ""}), "Packed files"),
            (b"MZ\x90\x00\x03", "none of what is taken"),
            (b"<html><script>alert(1)</script></html>", "none of what is taken"),
            (picture("GIF"), "none of what is taken"),
        ],
    )
    def test_what_is_not_kept_is_said(self, sent, told):
        with pytest.raises(NotKept, match=told):
            read_incoming("x.html", sent)

    def test_text_with_what_no_text_has_is_no_text(self):
        with pytest.raises(NotKept, match="none of"):
            read_incoming("x.txt", b"plain\x00text")

    def test_bounds(self, monkeypatch):
        monkeypatch.setattr(incoming, "MOST_PIXELS", 100)
        with pytest.raises(NotKept, match="million pixels"):
            read_incoming("x", picture("PNG", (11, 10)))
        monkeypatch.setattr(incoming, "MOST_UNPACKED", 10)
        with pytest.raises(NotKept, match="far more"):
            read_incoming("x", packed(**{"[Content_Types].xml": "x" * 11}))
        monkeypatch.setattr(incoming, "LARGEST_FILE", 10)
        with pytest.raises(NotKept, match="at most"):
            read_incoming("x", b"x" * 11)

    @pytest.mark.parametrize(
        ("name", "title"),
        [
            ("sail-loft_2.JPG", "Sail loft 2"),
            ("C:\\pictures\\Pier 3.png", "Pier 3"),
            ("../../etc/passwd", "Passwd"),
            ("\x00\x1f.png", "Untitled"),
            ("", "Untitled"),
            ("x" * 300 + ".png", "X" + "x" * 199),
        ],
    )
    def test_it_is_called_as_its_file_is(self, name, title):
        assert read_incoming(name, PDF).title == title


class TestBringingIn:
    def test_it_is_a_draft_of_ones_own_with_its_file(self, odile):
        made = ok(send(odile, picture(), alt="A mainsail on the floor"), 201)
        assert (made["title"], made["type"], made["state"]) == ("Sail loft 2", "picture", "draft")
        row = Node.objects.get(pk=made["id"])
        assert (row.author_id, row.values, row.file_width, row.file_height) == (
            "odile",
            {"alt": "A mainsail on the floor"},
            900,
            300,
        )
        shown = served(odile, made["id"])
        assert (shown["Content-Type"], len(content(shown))) == ("image/jpeg", row.file_bytes)
        assert 'filename="sail-loft-2.jpg"' in shown["Content-Disposition"]

    def test_a_document_is_only_downloaded_and_runs_nothing(self, odile):
        made = ok(send(odile, PDF, "winter-rates.pdf"), 201)
        shown = served(odile, made["id"])
        assert shown["Content-Disposition"] == 'attachment; filename="winter-rates.pdf"'
        assert shown["X-Content-Type-Options"] == "nosniff"
        assert "sandbox" in shown["Content-Security-Policy"]
        assert content(shown) == PDF

    def test_what_visitors_may_not_see_they_do_not_get(self, odile, ask):
        made = ok(send(odile, picture()), 201)
        assert served(ask(), made["id"]).status_code == 404
        ok(odile.post(f"desk/pages/{made['id']}/publish", **{"If-Match": f'"{made["version"]}"'}))
        assert served(ask(), made["id"]).status_code == 200

    def test_nothing_is_left_of_what_may_not_come_in(self, ask, odile):
        files = default_storage.listdir("files")[1]
        refused(send(ask("arvo"), picture()), "not-granted")
        problem = refused(send(odile, b"<svg/>", "plan.svg"), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/file"
        assert refused(send(odile, picture(), folder="events"), "invalid", 422)["errors"][0]["pointer"] == "/folder"
        refused(send(odile, picture(), folder="none-such"), "invalid", 422)
        refused(
            odile._read(odile.client.post("/api/desk/media", {"folder": "pier-pictures", "file": "x"})), "invalid", 422
        )
        assert default_storage.listdir("files")[1] == files

    def test_a_file_beyond_the_bound_is_refused_unread(self, odile, monkeypatch):
        monkeypatch.setattr("gonfalon.api.desk.media._TakesFile.largest_body", 1000)
        refused(send(odile, picture()), "too-large", 413)


class TestServing:
    def get(self, asking, **headers):
        return asking.client.get(f"/files/{self.made}", headers={k.replace("_", "-"): v for k, v in headers.items()})

    @pytest.fixture(autouse=True)
    def pdf(self, odile):
        self.made = ok(send(odile, PDF, "winter-rates.pdf"), 201)["id"]

    @pytest.mark.parametrize(
        ("asked", "sent", "told"),
        [
            ("bytes=0-4", PDF[:5], f"bytes 0-4/{len(PDF)}"),
            ("bytes=5-", PDF[5:], f"bytes 5-{len(PDF) - 1}/{len(PDF)}"),
            ("bytes=-6", PDF[-6:], f"bytes {len(PDF) - 6}-{len(PDF) - 1}/{len(PDF)}"),
            ("bytes=3-999999", PDF[3:], f"bytes 3-{len(PDF) - 1}/{len(PDF)}"),
            ("bytes=-999999", PDF, f"bytes 0-{len(PDF) - 1}/{len(PDF)}"),
        ],
    )
    def test_a_range_of_it(self, odile, asked, sent, told):
        part = self.get(odile, Range=asked)
        assert (part.status_code, content(part), part["Content-Range"]) == (206, sent, told)
        assert part["Content-Length"] == str(len(sent))

    @pytest.mark.parametrize("asked", ["bytes=9999-", "bytes=5-4", "bytes=-0"])
    def test_a_range_that_is_not_there(self, odile, asked):
        part = self.get(odile, Range=asked)
        assert (part.status_code, part["Content-Range"]) == (416, f"bytes */{len(PDF)}")

    @pytest.mark.parametrize("asked", ["bytes=-", "bytes=0-1,4-5", "lines=1-2", "bytes=x-", "bytes=" + "9" * 30 + "-"])
    def test_what_is_no_range_is_passed_over(self, odile, asked):
        whole = self.get(odile, Range=asked)
        assert (whole.status_code, content(whole)) == (200, PDF)

    def test_what_is_known_already_is_not_sent_again(self, odile):
        tag = self.get(odile)["ETag"]
        assert self.get(odile, If_None_Match=tag).status_code == 304
        assert self.get(odile, Range="bytes=0-1", If_Range=tag).status_code == 206
        assert self.get(odile, Range="bytes=0-1", If_Range='"another"').status_code == 200

    def test_a_file_that_is_lost_is_not_there(self, odile):
        default_storage.delete(str(Node.objects.get(pk=self.made).file.name))
        assert self.get(odile).status_code == 404


class TestReplacing:
    def test_address_and_uses_stay_and_the_old_file_goes(self, odile):
        made = ok(send(odile, picture()), 201)
        old = str(Node.objects.get(pk=made["id"]).file.name)
        path, first = f"desk/media/{made['id']}/replace", {"If-Match": '"1"'}
        now = ok(send(odile, picture("PNG", (40, 20)), folder="", path=path, **first))
        row = Node.objects.get(pk=made["id"])
        assert (now["title"], now["version"], row.file_width) == ("Sail loft 2", 2, 40)
        assert not default_storage.exists(old)
        assert served(odile, made["id"])["Content-Type"] == "image/png"
        assert send(odile, picture(), folder="", path=path, **first).status_code == 412
        problem = refused(send(odile, PDF, folder="", path=path, **{"If-Match": '"2"'}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/file"

    def test_by_whoever_may_edit_it(self, ask, odile):
        made = ok(send(odile, picture()), 201)
        sent = send(ask("arvo"), picture(), folder="", path=f"desk/media/{made['id']}/replace", **{"If-Match": '"1"'})
        assert sent.status_code in (403, 404)


def files(asking, folder="pier-pictures", **query):
    return ok(asking.get(f"desk/media/{folder}/files", **query))


class TestLooking:
    def test_the_files_of_a_folder_in_their_order(self, odile):
        made = ok(send(odile, picture()), 201)["id"]
        rows = files(odile)
        assert [row["id"] for row in rows][0::9] == ["pic-sail-loft", made]
        assert (rows[-1]["extension"], rows[-1]["width"], rows[-1]["wordless"]) == ("jpg", 900, True)
        assert [row["id"] for row in files(odile, only="wordless")] == [made]
        assert [row["id"] for row in files(odile, only="mine")] == [made]
        assert [row["title"] for row in files(odile, words="SAIL n")] == ["Sail needles"]
        assert [row["id"] for row in files(odile, limit=1, offset=1)] == ["pic-mainsail"]
        assert files(odile, "media-harbour") == [], "folders are in the tree"
        refused(odile.get("desk/media/pier-pictures/files", only="x"), "invalid", 422)

    def test_only_what_is_in_sight(self, ask, odile):
        shut = {"node": "pic-mainsail", "to": {"kind": "account", "id": "ines"}, "effect": "bar", "applies": "branch"}
        apply(odile, {"kind": "set-limit", "actions": ["see"], **shut})
        whole, seen = ([row["id"] for row in files(asking)] for asking in (odile, ask("ines")))
        assert seen == [id for id in whole if id != "pic-mainsail"]
        refused(ask("arvo").get("desk/media/pier-pictures/files"), "not-granted")

    def test_that_it_has_no_words_is_told_to_whom_may_see_them(self, odile, ask):
        made = ok(send(odile, picture()), 201)
        ok(odile.post(f"desk/pages/{made['id']}/publish", **{"If-Match": '"1"'}))
        assert files(ask("ines"))[-1]["wordless"]
        apply(odile, {"kind": "set-field-rule", "type": "picture", "field": "alt", "mode": "table", "table": {}})
        assert not files(ask("ines"))[-1]["wordless"]

    def test_what_uses_it(self, odile, ask):
        told = ok(odile.get("desk/media/pic-sail-loft"))
        assert (told["extension"], told["used_out_of_sight"]) == ("jpg", False)
        used = [page["id"] for page in told["used_on"]]
        assert "p3-sail-loft" in used
        shut = {"node": "p3-sail-loft", "to": {"kind": "account", "id": "ines"}, "effect": "bar", "applies": "branch"}
        apply(odile, {"kind": "set-limit", "actions": ["see"], **shut})
        told = ok(ask("ines").get("desk/media/pic-sail-loft"))
        assert (len(told["used_on"]), told["used_out_of_sight"]) == (len(used) - 1, True)


class TestSizes:
    def test_a_picture_is_made_in_those_that_are_smaller(self, odile):
        made = ok(send(odile, picture(size=(900, 300))), 201)["id"]
        assert make_sizes.call(made) == 2
        assert make_sizes.call(made) == 0, "they are there"
        for asked, width in ((1, 360), (360, 360), (361, 800), (801, 900)):
            assert Image.open(BytesIO(content(served(odile, made, width=asked)))).width == width
        for odd in ("-1", "x", "99999999999", "0", "1.5", "٣"):
            assert Image.open(BytesIO(content(served(odile, made, width=odd)))).width == 900

    def test_those_of_a_replaced_picture_go(self, odile):
        made = ok(send(odile, picture(size=(900, 300))), 201)["id"]
        make_sizes.call(made)
        old = list(Rendition.objects.filter(node=made).values_list("file", flat=True))
        ok(send(odile, picture(size=(400, 10)), folder="", path=f"desk/media/{made}/replace", **{"If-Match": '"1"'}))
        assert not any(default_storage.exists(name) for name in old)
        assert not Rendition.objects.filter(node=made).exists()
        make_sizes.call(made)
        assert Rendition.objects.get(node=made).width == 360

    def test_they_go_with_the_picture_and_stay_while_it_is_there(self, odile):
        made = ok(send(odile, picture(size=(900, 300))), 201)["id"]
        make_sizes.call(made)
        names = list(Rendition.objects.filter(node=made).values_list("file", flat=True))
        call_command("sweep_files")
        assert all(default_storage.exists(name) for name in names)
        assert odile.post(f"desk/pages/{made}/remove", **{"If-Match": '"1"'}).status_code == 204
        Site.objects.update(bin_days=0)
        assert odile.delete(f"desk/bin/{made}").status_code == 204
        assert not any(default_storage.exists(name) for name in names)

    def test_of_what_is_gone_none_are_made(self):
        assert make_sizes.call("none-such") == 0
