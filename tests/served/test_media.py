"""Files on their way in: refused unread where they are too large, and nothing left of what broke off."""

import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from tests.api.desk.test_media import picture
from tests.served.killing import PATIENCE, held_up, kill_connection, kill_workers, waiting
from tests.served.support import ODILE, Client, Harbour
from tools.processes import free_port
from tools.serving import Server, served

TASKS = "LOCK TABLES django_tasks_database_dbtaskresult WRITE; SELECT 'held'"
"""Whoever brings a picture in waits once its file and its row are written: having sizes made comes last."""


@pytest.fixture
def server(harbour, tmp_path) -> Iterator[Server]:
    with served(tmp_path, harbour.env, free_port()) as server:
        yield server


def form(content: bytes) -> tuple[str, bytes]:
    parts = (
        b'--edge\r\nContent-Disposition: form-data; name="folder"\r\n\r\npier-pictures\r\n'
        b'--edge\r\nContent-Disposition: form-data; name="file"; filename="sail.jpg"\r\n\r\n'
    )
    return "multipart/form-data; boundary=edge", parts + content + b"\r\n--edge--\r\n"


def answered(client: Client, said: int, body: bytes) -> bytes:
    """What is answered to a body that says it has so many bytes; nothing where the server says nothing."""
    cookies = "; ".join(f"{cookie.name}={cookie.value}" for cookie in client._cookies)
    token = next(str(cookie.value) for cookie in client._cookies if cookie.name == "csrftoken")
    place = urlsplit(client.address)
    head = (
        f"POST /api/desk/media HTTP/1.1\r\nHost: {place.netloc}\r\nCookie: {cookies}\r\nX-CSRFToken: {token}\r\n"
        f"Content-Type: {form(b'')[0]}\r\nContent-Length: {said}\r\nConnection: close\r\n\r\n"
    )
    with socket.create_connection((place.hostname or "", place.port or 80), timeout=PATIENCE) as connection:
        connection.sendall(head.encode() + body)
        connection.shutdown(socket.SHUT_WR)
        told = b""
        while part := connection.recv(65_536):
            told += part
    return told


def rows(harbour: Harbour) -> set[str]:
    named = "SELECT file FROM content_node WHERE file <> '' UNION SELECT file FROM content_rendition WHERE file <> ''"
    return {name for [name] in harbour.sql(named)}


def files(harbour: Harbour) -> set[str]:
    media = harbour.home / "media"
    return {str(path.relative_to(media)) for folder in ("files", "sizes") for path in (media / folder).glob("*")}


def test_what_is_far_too_large_is_refused_before_it_is_read(client):
    told = answered(client(ODILE), 500 * 1024 * 1024, b"--edge\r\n")
    assert told.startswith(b"HTTP/1.1 413")
    assert b"at most 40 MB" in told


def test_of_what_breaks_off_nothing_is_left(client, harbour):
    odile, before = client(ODILE), (rows(harbour), files(harbour))
    _, body = form(picture())
    answered(odile, len(body), body[: len(body) // 2])
    assert (rows(harbour), files(harbour)) == before
    assert odile("GET", "/api/desk/media/pier-pictures/files")[0] == 200


@pytest.mark.parametrize("what", ["server", "database"])
def test_killed_in_the_middle_no_row_is_without_its_file_nor_a_file_without_its_row(server, harbour, what):
    odile, before = Client(server.address, ODILE), rows(harbour)
    kills: dict[str, Callable[[str], None]] = {
        "server": lambda _: kill_workers(server.process.pid),
        "database": lambda id: kill_connection(harbour, id),
    }
    _, body = form(picture())
    told: list[bytes] = []

    def send() -> None:
        try:
            told.append(answered(odile, len(body), body))
        except OSError:
            told.append(b"")

    with held_up(harbour, TASKS):
        sending = threading.Thread(target=send)
        sending.start()
        kills[what](waiting(harbour, "INSERT INTO `django_tasks%"))
    sending.join(PATIENCE)
    came_in = told[0].startswith(b"HTTP/1.1 201")
    assert came_in == (what == "database"), "a lost connection is begun again, a killed server is not"
    assert len(rows(harbour) - before) == int(came_in)
    _grow_old(harbour.home / "media")
    harbour.manage("sweep_files")
    assert rows(harbour) <= files(harbour)
    assert files(harbour) - before == rows(harbour) - before


def _grow_old(folder: Path) -> None:
    """What is left behind is taken away an hour later."""
    then = time.time() - 2 * 3600
    for path in folder.glob("*/*"):
        os.utime(path, (then, then))
