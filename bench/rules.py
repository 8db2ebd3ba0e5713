"""`python -m bench.rules [--plot FILE]`: how fast the rules are, on the large policy and smaller ones like it.

Figures are ratios to something every machine does, measured in the same run; times are best or median of several.
"""

import argparse
import gc
import json
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from random import Random
from statistics import median
from typing import Any, TypeVar

import numpy as np

from gonfalon.core import Engine, load_policy
from gonfalon.core.checks.expectations import prove
from gonfalon.core.cli.parallel import shared_out
from gonfalon.core.diff.impact import impact
from gonfalon.core.model.policy import Assignment, FieldRule, Limit, Policy, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import DropLimit, GiveRole, SetAnswer, SetFieldRule, SetLimit, TakeRole, apply
from gonfalon.demo.large import large_document

T = TypeVar("T")
SCALES = (0.01, 0.03, 0.1, 0.3, 1.0)
ACTIONS = ["see", "create:page1", "edit", "publish", "retire", "remove", "move", "history", "restore"]
ASKED = ("see", "edit", "publish", "retire", "remove", "move", "history", "restore")
TIMES = 3
"""Whatever takes long is measured so often, and the best kept."""
AT = datetime(2026, 11, 3, 9, tzinfo=UTC)
TARGETS = {
    "warm": 60.0,
    "cold": 40.0,
    "survey one": 6.0,
    "survey many": 6.0,
    "impact": 3.0,
    "load": 4.0,
    "questions": 12.0,
    "prove": 0.5,
}
UNITS = {
    "warm": "x one look-up by a tuple",
    "cold": "x a warm decision",
    "survey one": "x one take of the answers",
    "survey many": "x one take of the answers",
    "impact": "s",
    "load": "x json.load",
    "questions": "us a question beyond its JSON",
    "prove": "s",
}


def timed(do: Callable[[], T]) -> tuple[T, float]:
    began = time.perf_counter()
    done = do()
    return done, time.perf_counter() - began


def measured(scale: float) -> dict[str, float]:
    """Every figure for a policy of this size."""
    random = Random(5)
    with tempfile.TemporaryDirectory() as home:
        file = Path(home) / "policy.json"
        file.write_text(json.dumps(large_document(scale)))
        document, reading = min((timed(lambda: json.loads(file.read_text())) for _ in range(3)), key=lambda x: x[1])
        policy, loading = min((timed(lambda: load_policy(document)) for _ in range(3)), key=lambda x: x[1])
        gc.collect()
        gc.freeze()  # as the command does
        gc.set_threshold(100_000, 50, 100)  # as the server does
        engine = Engine(policy)
        figures = {"load": loading / reading, **decisions(engine, random), **surveys(engine, random)}
        figures["prove"] = min(timed(lambda: prove(engine, policy.expectations.values(), AT))[1] for _ in range(TIMES))
        figures["questions"] = questions(policy, file, Path(home) / "questions", random)
        changed = apply(policy, change_set(policy, random))
        figures["impact"] = min(whole_impact(policy, changed) for _ in range(TIMES))
        figures["peak GB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    return figures


def whole_impact(policy: Policy, changed: Policy) -> float:
    """Seconds that an impact takes where nothing of either policy is compiled yet."""
    before = Engine(policy)
    gc.unfreeze()
    gc.collect()
    gc.freeze()
    work = partial(shared_out, share=1)  # as the command does
    return timed(lambda: impact(before, before.changed(changed), AT, work=work))[1]


def decisions(engine: Engine, random: Random) -> dict[str, float]:
    accounts, nodes = list(engine.policy.accounts), list(engine.tree.index)
    requests = [
        {"account": random.choice(accounts), "action": random.choice(ASKED), "node": random.choice(nodes)}
        for _ in range(20_000)
    ]
    seen: set[str] = set()
    firsts = []
    for request in requests:
        if request["account"] not in seen:
            seen.add(request["account"])
            firsts.append(request)
    cold = median(timed(lambda r=request: engine.decide(r))[1] for request in firsts[:3_000])
    for request in requests:
        engine.decide(request)
    warm = median(timed(lambda r=request: engine.decide(r))[1] for request in requests) - overhead()
    table = {(r["account"], r["node"]): True for r in requests}
    keys = list(table)
    random.shuffle(keys)
    _, looking = timed(lambda: [table[key] for key in keys])
    return {"warm": warm / (looking / len(keys)), "cold": cold / warm}


def overhead() -> float:
    return median(timed(lambda: None)[1] for _ in range(5_000))


def surveys(engine: Engine, random: Random) -> dict[str, float]:
    accounts, nodes = list(engine.policy.accounts), list(engine.tree.index)
    answers = np.random.default_rng(5).random(1_000) < 0.5
    places = np.random.default_rng(6).integers(0, len(answers), (len(nodes), len(ACTIONS)))
    out = np.empty(places.shape, dtype=bool)
    filling = min(timed(lambda: answers.take(places, out=out, mode="clip"))[1] for _ in range(9))
    some = random.sample(accounts, min(15, len(accounts)))
    engine.survey(some, None, ACTIONS, AT)
    one = median(timed(lambda a=account: engine.survey([a], None, ACTIONS, AT))[1] for account in some)
    many = random.sample(accounts, min(1_000, len(accounts))), random.sample(nodes, min(1_000, len(nodes)))
    engine.survey(*many, ACTIONS, AT)
    taken = min(timed(lambda: engine.survey(*many, ACTIONS, AT))[1] for _ in range(15))
    each = taken / (len(many[0]) * len(many[1]) * len(ACTIONS))
    return {"survey one": one / filling, "survey many": each / (filling / places.size)}


def questions(policy: Policy, document: Path, file: Path, random: Random) -> float:
    """Microseconds that `gonfalon decide` takes for each question beyond reading and writing JSON."""
    accounts, nodes = list(policy.accounts), list(policy.tree.index)
    count = 1_000_000 if len(nodes) > 50_000 else 50_000
    with file.open("w") as out:
        for _ in range(count):
            asked = {"account": random.choice(accounts), "action": random.choice(ASKED), "node": random.choice(nodes)}
            out.write(json.dumps({**asked, "at": "2026-11-03T09:00:00Z"}) + "\n")
    nothing = file.with_name("nothing")
    nothing.touch()

    def command(questions: Path) -> float:
        run = [sys.executable, "-m", "gonfalon", "decide", "--policy", str(document), "--questions", str(questions)]
        return min(timed(lambda: subprocess.run(run, check=True, stdout=subprocess.DEVNULL))[1] for _ in range(TIMES))

    def parse_and_print() -> None:
        with file.open() as lines, Path(os.devnull).open("w") as out:
            for line in lines:
                json.loads(line)
                out.write(json.dumps({"allow": True, "reason": "allowed"}) + "\n")

    plain = min(timed(parse_and_print)[1] for _ in range(TIMES))
    return (command(file) - command(nothing) - plain) / count * 1e6


def change_set(policy: Policy, random: Random) -> list[Any]:
    """Twenty operations of every kind, one of them on the baseline."""
    roles = [key for key in policy.roles if key not in policy.baseline]
    types = [key for key, type in policy.types.items() if type.tree]
    accounts, groups, nodes = list(policy.accounts), list(policy.groups), list(policy.tree.index)
    verbs, says = ("see", "edit", "publish", "create", "remove", "history"), ("own", "team", "all", None, "withheld")
    receivers = [Subject.account(random.choice(accounts)), Subject.group(random.choice(groups))] * 2
    narrowed = [Subject.role(random.choice(roles)), Subject.group(random.choice(groups)), Subject.role(roles[0])]
    some = frozenset({"edit", "publish"})
    return [
        SetAnswer("everyone", f"{random.choice(types)}.see", None),
        *(
            SetAnswer(random.choice(roles), f"{random.choice(types)}.{random.choice(verbs)}", random.choice(says))
            for _ in range(7)
        ),
        *(GiveRole(Assignment(f"new{i}", random.choice(roles), to)) for i, to in enumerate(receivers)),
        *(TakeRole(id) for id in random.sample(list(policy.assignments), 3)),
        *(
            SetLimit(Limit(f"new{i}", random.choice(nodes), to, Effect.STOP, "branch", some))
            for i, to in enumerate(narrowed)
        ),
        DropLimit(random.choice(list(policy.limits))),
        SetFieldRule("page1", "price", FieldRule("table", {random.choice(roles): frozenset({"see-all", "fill"})})),
    ]


def plot(figures: dict[float, dict[str, float]], file: Path) -> None:
    """How each figure grows, from 1% of the large policy to all of it."""
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    drawing, frames = pyplot.subplots(2, 4, figsize=(15, 7), layout="constrained")
    for frame, (name, most) in zip(frames.flat, TARGETS.items(), strict=True):
        frame.plot([100 * s for s in figures], [f[name] for f in figures.values()], marker="o", color="#1f4e79")
        frame.axhline(most, color="#b03a2e", linestyle="--")
        frame.set(title=f"{name}\n{UNITS[name]}", xscale="log", yscale="log", xlabel="% of the large policy")
        frame.grid(alpha=0.3)
    drawing.suptitle("At 100%: 10,000 accounts, 200 roles, 1,000 groups, 100,000 nodes. Dashed: at most.")
    drawing.savefig(file, dpi=80)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--plot", type=Path, help="also measure smaller policies, and draw how the figures grow")
    parser.add_argument("--scale", type=float, default=1.0)
    asked = parser.parse_args()
    figures = {}
    for scale in SCALES if asked.plot else (asked.scale,):
        figures[scale] = measured(scale)
        print(f"\n{scale:.0%} of the large policy; peak {figures[scale]['peak GB']:.2f} GB")
        for name, most in TARGETS.items():
            print(f"  {name:<12} {figures[scale][name]:>8.2f} {UNITS[name]:<32} at most {most}")
    if asked.plot:
        plot(figures, asked.plot)


if __name__ == "__main__":
    main()
