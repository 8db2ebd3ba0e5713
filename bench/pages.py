"""`python -m bench.pages ADDRESS`: the desk on the served large harbour, over HTTP, in milliseconds.

Trees as they are opened, a page, what is found; making, moving and removing a page, and moving a large branch.
"""

import os
import sys
from typing import Any

from playwright.sync_api import APIResponse, Page, sync_playwright

from bench.__main__ import show, timed
from tools.screenshots import CHROMIUM, CHROMIUM_PATH, SIZE, sign_in

TIMES = 5
FIRST = 120_000
"""Milliseconds that the first answer of a server process may take, on a slow machine."""
READS = {
    "the top of the tree": "desk/children",
    "what stands under a node": "desk/children/{node}",
    "the way to a node": "desk/way/{leaf}",
    "titles found by words": "desk/found?words=1234",
    "a page": "desk/pages/{leaf}",
    "Limit: the top of the tree": "limits/children?role=role-3",
    "Limit: what stands under a node": "limits/children/{node}?role=role-3",
    "Limit: the way to a node": "limits/way/{leaf}?role=role-3",
    "Limit: only rows with limits": "limits/found?role=role-3&limits=true",
    "the start of the desk": "start",
    "what waits": "desk/waiting?limit=50",
}
XRAY = {
    "X-ray: what stands under a node": "xray/children/{node}",
    "X-ray: the way to a node": "xray/way/{leaf}",
    "X-ray: titles found by words": "xray/found?words=1234",
}


class Desk:
    """The API as a keyholder of the large harbour asks it."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.held: list[float] = []
        """For how long each writing request held its locks, in seconds."""

    def get(self, path: str) -> APIResponse:
        answer = self.page.request.get(f"/api/{path}", timeout=FIRST)
        assert answer.ok, answer.text()
        return answer

    def post(self, path: str, data: Any = None, method: str = "POST", **headers: str) -> Any:
        token = next(cookie["value"] for cookie in self.page.context.cookies() if cookie["name"] == "csrftoken")
        sent = {"X-CSRFToken": token, **headers}
        answer = self.page.request.fetch(f"/api/{path}", method=method, data=data or {}, headers=sent, timeout=FIRST)
        assert answer.ok, answer.text()
        self.held.append(float(answer.headers["server-timing"].partition("dur=")[2]) / 1000)
        return answer.json() if answer.body() else None

    def on(self, node: str, does: str, data: Any = None) -> float:
        """How long it takes to do something with a page as it stands."""
        tag = {"If-Match": self.get(f"desk/pages/{node}").headers["etag"]}
        return timed(lambda: self.post(f"desk/pages/{node}/{does}", data, **tag))

    def make(self, parent: str) -> tuple[str, float]:
        kind = self.get(f"desk/pages/{parent}/new").json()[0]["type"]
        made: list[str] = []
        sent = {"parent": parent, "type": kind, "title": "Slack water"}
        took = timed(lambda: made.append(self.post("desk/pages", sent)["id"]))
        return made[0], took


def main(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM_PATH, args=CHROMIUM)
        page = browser.new_context(base_url=address, viewport=SIZE).new_page()
        page.set_default_timeout(FIRST)
        sign_in(page, "keeper@skerrow.example", os.environ["GONFALON_DEMO_PASSWORD"])
        desk = Desk(page)
        top = desk.get("desk/children").json()
        branches = sorted((row for one in top for row in under(desk, one)), key=lambda row: int(row["nodes"]))
        branch, to = branches[-1], branches[0]["id"]
        leaf = under(desk, branch)[-1]["id"]
        read(desk, READS, node=branch["id"], leaf=leaf)
        desk.post("stand-in", {"account": desk.get("accounts").json()["results"][-1]["id"]})
        read(desk, XRAY, node=branch["id"], leaf=leaf)
        desk.post("stand-in", method="DELETE")
        made = [desk.make(branch["id"]) for _ in range(TIMES)]
        show("a page is made", [took for _, took in made])
        show("… its locks are held", desk.held[-TIMES:])
        show("it is moved", [desk.on(id, "move", {"to": to}) for id, _ in made])
        show("… its locks are held", desk.held[-TIMES:])
        show("it is published", [desk.on(id, "publish") for id, _ in made])
        show("… its locks are held", desk.held[-TIMES:])
        show("it is removed", [desk.on(id, "remove") for id, _ in made])
        siblings = under(desk, {"id": branch["parent"]})
        first = next(row["id"] for row in siblings if row["id"] != branch["id"])
        show(
            f"a branch of {branch['nodes']} is put before the others",
            [desk.on(branch["id"], "move", {"before": first})],
        )


def read(desk: Desk, paths: dict[str, str], **where: str) -> None:
    for what, path in paths.items():
        asked = path.format(**where)
        for _ in range(4):  # each server process reads what it keeps once
            desk.get(asked)
        show(what, [timed(lambda asked=asked: desk.get(asked)) for _ in range(TIMES)])


def under(desk: Desk, row: Any) -> Any:
    return desk.get(f"desk/children/{row['id']}").json()


if __name__ == "__main__":
    main(sys.argv[1])
