"""`python -m bench.budgets ADDRESS`: how long the largest body of each address takes on the served harbour, in seconds.

Nothing that is answered 2xx is undone: on a demo of its own. `tests/api/test_budgets.py` counts what the same cost.
"""

import json
import os
import sys
from http.cookiejar import CookieJar
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import HTTPCookieProcessor, Request, build_opener

import django

from bench.__main__ import timed

SLOWEST_TOLD = 12
LEFT_OUT = ("session", "welcome", "me/", "stand-in", "begin")
"""What ends the session that asks."""


class Asking:
    """A client of the API that keeps its cookies."""

    def __init__(self, address: str) -> None:
        self.address, self._cookies = address, CookieJar()
        self._opener = build_opener(HTTPCookieProcessor(self._cookies))
        self.get("session")

    def get(self, path: str) -> Any:
        with self._opener.open(f"{self.address}/api/{path}") as answer:
            return json.load(answer)

    def send(self, method: str, path: str, body: Any) -> None:
        """Raises HTTPError where the server fails."""
        token = next(cookie.value or "" for cookie in self._cookies if cookie.name == "csrftoken")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "If-Match": '"1"', "Referer": self.address}
        request = Request(f"{self.address}/api/{path}", json.dumps(body).encode(), headers, method=method.upper())
        try:
            self._opener.open(request).read()
        except HTTPError as refused:
            if refused.code >= 500:
                raise
        except URLError:
            pass  # it is more than fits: the server did not read it to its end


def main(address: str) -> None:
    django.setup()
    from tests.api.largest import largest_requests

    asking = Asking(address)
    asking.send("post", "session", {"email": "odile@skerrow.example", "password": os.environ["GONFALON_DEMO_PASSWORD"]})
    took = [
        (timed(lambda one=one: asking.send(one.method, one.path, one.body)) / 1000, str(one))
        for one in largest_requests(there(asking))
        if not one.path.startswith(LEFT_OUT)
    ]
    for seconds, what in sorted(took, reverse=True)[:SLOWEST_TOLD]:
        print(f"{seconds:.2f} s {what}")
    print(f"{len(took)} requests, {sum(seconds > 2 for seconds, _ in took)} of them took more than 2 s")


def there(asking: Asking) -> dict[str, list[str]]:
    """Ids of what there is, as the API lists them."""
    rows = {
        "nodes": asking.get("desk/found?words=e"),
        "roles": [role for role in asking.get("roles") if not role["baseline"]],
        "accounts": asking.get("accounts?limit=100")["results"],
        "groups": asking.get("groups"),
        "topics": asking.get("topics"),
    }
    return {name: [row.get("id") or row["key"] for row in found] for name, found in rows.items()}


if __name__ == "__main__":
    main(sys.argv[1])
