"""`python -m bench.limit ADDRESS`: Limit and Why on the served large harbour, each answer in seconds."""

import os
import sys
from urllib.parse import urlencode

from bench.__main__ import timed
from bench.budgets import Asking

ROLES = ("role-3", "role-50", "role-120")
TIMES = 3


def main(address: str) -> None:
    asking = Asking(address)
    asking.send(
        "post", "session", {"email": "keeper@skerrow.example", "password": os.environ["GONFALON_DEMO_PASSWORD"]}
    )
    nodes = [row["id"] for row in asking.get("limits/found?visitor=true&words=1") if row["found"]][:3]
    people = [row["id"] for row in asking.get("accounts?limit=100&state=active")["results"]][40:43]
    groups = [row["key"] for row in asking.get("groups")][:3]
    roots = [row["id"] for row in asking.get("limits/children?visitor=true&tree=content")][:1]
    subjects = [
        *({"roles": role} for role in ROLES),
        *({"account": id} for id in people),
        *({"group": key} for key in groups),
        {"visitor": "true"},
    ]
    asked = {
        "the place": [f"limits/children?{urlencode({'tree': 'content', **who})}" for who in subjects],
        "who can": [
            f"limit/who?{urlencode({'action': action, 'node': node})}"
            for node in nodes
            for action in ("see", "edit", "publish", "remove")
        ],
        "who can, anywhere in a branch": [f"limit/who?{urlencode({'action': 'edit', 'branch': one})}" for one in nodes],
        "who can, anywhere in a site": [f"limit/who?{urlencode({'action': 'edit', 'branch': one})}" for one in roots],
        "all limits": ["limits?limit=200"],
        "beside a page": [f"desk/pages/{node}/access" for node in nodes],
    }
    for what, paths in asked.items():
        _tell(what, [lambda path=path: asking.get(path) for path in paths])
    to, *leaving = [row["id"] for row in asking.get("accounts?limit=100&state=active")["results"]][50:54]
    handing = [lambda id=id: asking.send("post", f"accounts/{id}/disable/foreseen", {"pages_to": to}) for id in leaving]
    _tell("disabling, with all that they wrote", handing)
    noes = [
        {"action": action, "node": node, "account": account}
        for node in nodes
        for account in people
        for action in ("edit", "publish", "remove")
    ]
    _tell("what would turn a no", [lambda no=no: asking.send("post", "why/changes", no) for no in noes])


def _tell(what: str, every: list) -> None:
    """The first time round is that of a process that has not been asked."""
    took = []
    for _ in range(TIMES):
        for one in every:
            try:
                took.append(timed(one) / 1000)
            except Exception as failed:
                print(f"{what}: {failed}")
    ordered = sorted(took)
    if ordered:
        print(f"{what}: median {ordered[len(ordered) // 2]:.2f} s, slowest {ordered[-1]:.2f} s, of {len(ordered)}")


if __name__ == "__main__":
    main(sys.argv[1])
