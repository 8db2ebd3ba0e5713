"""A mail server that sends nothing on: it keeps what it is given, and shows it on a page of its own.

python -m gonfalon.demo.mail --smtp 8025 --page 8026 --keep .run/demo/mail
"""

import argparse
import email
import html
import re
import signal
import threading
from email.message import EmailMessage
from email.policy import default
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from aiosmtpd.controller import Controller

MOST_SHOWN = 50
HOST = "127.0.0.1"
_LINK = re.compile(r"https?://[^\s&<]+")
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Mail of the demo</title>
<style>body{{font:15px/1.5 sans-serif;max-width:720px;margin:32px auto;padding:0 16px;color:#221c2b;background:#f5f3ee}}
article{{background:#fffdf9;border:1px solid #ddd7cc;border-top:3px solid #c39134;padding:12px 20px;margin:16px 0}}
pre{{white-space:pre-wrap;font:inherit}} h2{{font-size:17px;margin:0}} p{{margin:0;color:#5c5566}}</style>
<h1>Mail of the demo</h1><p>Nothing here went anywhere else. The newest comes first; reload to see more.</p>
{letters}</html>"""


class Keeping:
    """Keeps each message as a file of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._lock = threading.Lock()

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        """Take one message; what aiosmtpd calls."""
        with self._lock:
            number = len(list(self.folder.glob("*.eml"))) + 1
            (self.folder / f"{number:06}.eml").write_bytes(envelope.content)
        return "250 Message accepted for delivery"


def page(folder: Path) -> str:
    """The messages kept in a folder as a page, the newest first."""
    files = sorted(folder.glob("*.eml"), reverse=True)[:MOST_SHOWN]
    letters = "\n".join(_letter(email.message_from_bytes(file.read_bytes(), policy=default)) for file in files)
    return _PAGE.format(letters=letters or "<article><p>No mail was sent yet.</p></article>")


def _letter(message: EmailMessage) -> str:
    body = message.get_body(("plain",))
    text = html.escape(body.get_content() if body else "")
    linked = _LINK.sub(lambda link: f'<a href="{link[0]}">{link[0]}</a>', text)
    subject, to, date = (html.escape(str(message[name] or "")) for name in ("Subject", "To", "Date"))
    return f"<article><h2>{subject}</h2><p>to {to}, {date}</p><pre>{linked}</pre></article>"


def _server(folder: Path, port: int) -> ThreadingHTTPServer:
    class Page(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            content = page(folder).encode()
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(content)))
            self.end_headers()
            self.wfile.write(content)

        def log_message(self, *_: object) -> None:
            """Say nothing of who looked."""

    return ThreadingHTTPServer((HOST, port), Page)


def main() -> None:
    """Take mail and show it until told to stop."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--smtp", type=int, required=True, help="the port to take mail at")
    parser.add_argument("--page", type=int, required=True, help="the port to show it at")
    parser.add_argument("--keep", type=Path, required=True, help="the folder to keep it in")
    asked = parser.parse_args()
    asked.keep.mkdir(parents=True, exist_ok=True)
    smtp = Controller(Keeping(asked.keep), hostname=HOST, port=asked.smtp)
    smtp.start()
    pages = _server(asked.keep, asked.page)
    signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=pages.shutdown).start())
    try:
        pages.serve_forever()
    finally:
        smtp.stop()


if __name__ == "__main__":
    main()
