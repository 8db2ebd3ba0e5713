"""`python -m bench.rehearse ADDRESS`: a rehearsal of 20 steps on the served harbour.

ADDRESS is that of `make demo`; GONFALON_DEMO_PASSWORD its password.
"""

import os
import statistics
import sys
import time

from bench.budgets import Asking

STEPS = 20
READS = 10


def main(address: str) -> None:
    who = _signed_in(address, "odile@skerrow.example")
    who.send("post", "stand-in", {"account": "odile", "mode": "rehearse"})
    took = [_timed(lambda n=n: who.send("post", "groups", {"name": f"Rehearsed {n}"})) for n in range(STEPS)]
    reads = [_timed(lambda: who.get("roles")) for _ in range(READS)]
    who.send("delete", "stand-in", None)
    print(f"the {STEPS}th step                {took[-1]:.2f} s")
    print(f"a screen after {STEPS} steps      {statistics.median(reads):.2f} s, slowest {max(reads):.2f}")


def _signed_in(address: str, email: str) -> Asking:
    asking = Asking(address)
    asking.send("post", "session", {"email": email, "password": os.environ["GONFALON_DEMO_PASSWORD"]})
    return asking


def _timed(work) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


if __name__ == "__main__":
    main(sys.argv[1])
