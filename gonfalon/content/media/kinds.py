"""What files are served as, by the extension that they are kept under."""

TYPES = {
    "jpg": "image/jpeg",
    "png": "image/png",
    "webp": "image/webp",
    "pdf": "application/pdf",
    "docx": "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "pptx": "application/vnd.openxmlformats-officedocument.presentationml.presentation",
    "odt": "application/vnd.oasis.opendocument.text",
    "ods": "application/vnd.oasis.opendocument.spreadsheet",
    "odp": "application/vnd.oasis.opendocument.presentation",
    "txt": "text/plain; charset=utf-8",
    "csv": "text/csv; charset=utf-8",
}
SHOWN = frozenset({"jpg", "png", "webp"})
"""Extensions of what a browser shows; everything else is downloaded."""


def extension_of(name: str) -> str:
    """The extension of a file's name in the storage; empty where it has none."""
    return name.rpartition(".")[2].lower() if "." in name else ""
