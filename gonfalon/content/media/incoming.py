"""What a file that comes in is, found by looking into it: its name and what the sender calls it count for nothing.

A picture is drawn anew, turned upright, without the place where it was taken and whatever else was in its file. A
document is kept as it is, for downloading alone.
"""

import re
from dataclasses import dataclass
from io import BytesIO
from pathlib import PurePosixPath
from zipfile import BadZipFile, ZipFile, is_zipfile

from PIL import Image, ImageOps

from gonfalon.content.media.kinds import TYPES

LARGEST_FILE = 40 * 1024 * 1024
"""Bytes."""
MOST_PIXELS = 50_000_000
PICTURES = {"JPEG": "jpg", "PNG": "png", "WEBP": "webp"}
QUALITY = 88
MOST_UNPACKED = 400 * 1024 * 1024
"""Bytes that an office document may come to when it is unpacked."""
MOST_ENTRIES = 10_000
OFFICE = {"word/": "docx", "xl/": "xlsx", "ppt/": "pptx"}
OPEN_DOCUMENT = {
    b"application/vnd.oasis.opendocument.text": "odt",
    b"application/vnd.oasis.opendocument.spreadsheet": "ods",
    b"application/vnd.oasis.opendocument.presentation": "odp",
}
LONGEST_TITLE = 200


class NotKept(Exception):
    """A file that is not taken, and why, in a sentence."""


@dataclass(frozen=True, slots=True)
class Incoming:
    """A file as it is kept. `width` and `height` are pixels, 0 for what is no picture."""

    kind: str
    """The kind of node that it makes: `picture` or `document`."""
    title: str
    extension: str
    content: bytes
    width: int = 0
    height: int = 0


def read_incoming(name: str, content: bytes) -> Incoming:
    """What came in under a name, cleaned. Raises NotKept."""
    if not content:
        raise NotKept("This file is empty.")
    if len(content) > LARGEST_FILE:
        raise NotKept(f"A file has at most {LARGEST_FILE // 1024 // 1024} MB.")
    title, start = _title(name), content[:1024].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if start.startswith(b"<svg") or (start.startswith(b"<?xml") and b"<svg" in start):
        raise NotKept("Drawings as SVG can hold scripts and are not taken: send it as PNG.")
    if content.startswith(b"%PDF-"):
        return Incoming("document", title, _pdf(content), content)
    if content.startswith(b"PK\x03\x04"):
        return Incoming("document", title, _office(content), content)
    picture = _picture(title, content)
    if picture is not None:
        return picture
    return Incoming("document", title, _text(name, content), content)


def _title(name: str) -> str:
    """A name of a file as words: “sail-loft_2.JPG” is “Sail loft 2”."""
    stem = PurePosixPath(name.replace("\\", "/")).stem
    words = " ".join("".join(c if c.isprintable() else " " for c in re.sub(r"[-_]+", " ", stem)).split())
    title = words[:LONGEST_TITLE].strip(" .")
    return title[:1].upper() + title[1:] or "Untitled"


def _picture(title: str, content: bytes) -> Incoming | None:
    try:
        with Image.open(BytesIO(content), formats=tuple(PICTURES)) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise NotKept(f"A picture has at most {MOST_PIXELS // 1_000_000} million pixels.")
            format = str(opened.format)
            image = ImageOps.exif_transpose(opened)
            profile = opened.info.get("icc_profile")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise NotKept(f"A picture has at most {MOST_PIXELS // 1_000_000} million pixels.") from None
    except Image.UnidentifiedImageError:
        return None
    except (OSError, ValueError, SyntaxError):
        raise NotKept("This picture is torn: it cannot be read to its end.") from None
    if image.mode not in ("RGB", "RGBA", "L", "LA"):
        image = image.convert("RGBA" if "transparency" in image.info or image.mode == "PA" else "RGB")
        profile = None  # it was for the colours as they were
    if format == "JPEG" and image.mode != "L":
        image = image.convert("RGB")
    image.info = {}
    written = BytesIO()
    image.save(written, format, quality=QUALITY, icc_profile=profile)
    return Incoming("picture", title, PICTURES[format], written.getvalue(), image.width, image.height)


def _pdf(content: bytes) -> str:
    if b"%%EOF" not in content[-2048:]:
        raise NotKept("This PDF is torn: its end is missing.")
    if is_zipfile(BytesIO(content)):
        raise NotKept("This is a PDF and something else in one file.")
    return "pdf"


def _office(content: bytes) -> str:
    try:
        with ZipFile(BytesIO(content)) as packed:
            entries = packed.infolist()
            if len(entries) > MOST_ENTRIES or sum(entry.file_size for entry in entries) > MOST_UNPACKED:
                raise NotKept("This document comes to far more than it seems once it is unpacked.")
            names = [entry.filename for entry in entries]
            if any(name.lower().endswith("vbaproject.bin") for name in names):
                raise NotKept("This document holds macros. Save it without them.")
            if "[Content_Types].xml" in names:
                found = {OFFICE[head] for head in OFFICE for name in names if name.startswith(head)}
                if len(found) == 1:
                    return found.pop()
            if entries and names[0] == "mimetype" and entries[0].file_size < 100:
                said = packed.read(entries[0])
                if said in OPEN_DOCUMENT:
                    return OPEN_DOCUMENT[said]
    except (BadZipFile, OSError, ValueError, EOFError, NotImplementedError, RuntimeError):
        raise NotKept("This document is torn: it cannot be read.") from None
    raise NotKept("Packed files are not taken: send the documents one by one.")


def _text(name: str, content: bytes) -> str:
    extension = PurePosixPath(name).suffix.lower().lstrip(".")
    try:
        text = content.decode()
    except UnicodeDecodeError:
        text = "\0"
    if extension in ("txt", "csv") and all(c.isprintable() or c in "\t\r\n\ufeff" for c in text):
        return extension
    raise NotKept(f"This is none of what is taken: {', '.join(sorted(TYPES))}.")
