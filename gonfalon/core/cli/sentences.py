"""Expectations of a text file, asked of a policy document, which knows things by their keys alone."""

from collections.abc import Iterable

from gonfalon.core.document.requests import faults_in
from gonfalon.core.model.policy import Expectation, Policy
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import FACETS
from gonfalon.core.sentences.files import read_file
from gonfalon.core.sentences.lexicon import Lexicon


def said_in(text: str, policy: Policy, tree: Tree) -> tuple[list[Expectation], list[str]]:
    """The expectations of a file, named by their lines; and what makes no sense or cannot be asked, in words."""
    groups, faults = read_file(text, by_keys(policy, tree))
    said, wrong = (
        list[Expectation](),
        [(f.number, f"character {f.unclear.at + 1}: {f.unclear.message}") for f in faults],
    )
    for line in (line for group in groups for line in group.lines):
        question, expect, reason = line.expected
        wrong += [(line.number, f"character 1: {fault.message}") for fault in faults_in(question, policy, tree)[:1]]
        said.append(Expectation(f"line {line.number}", question, expect, reason, line.note))  # type: ignore[arg-type]
    return said, [f"line {number}, {message}" for number, message in sorted(wrong)]


def by_keys(policy: Policy, tree: Tree) -> Lexicon:
    """A lexicon in which everything is called by its key; a name in quotes with a key is that key's, whatever it is."""
    types = policy.types.values()
    keys: dict[str, Iterable[str]] = {
        "role": policy.roles,
        "group": policy.groups,
        "account": policy.accounts,
        "node": (node.id for node in tree.nodes),
        "kind": policy.types,
        "field": dict.fromkeys(field for type in types for field in type.fields),
        "component": policy.components,
        "facet": FACETS,
        "placed": policy.placed,
        "duty": policy.plain,
        "site": sorted(policy.sites),
        "topic": sorted(policy.topics),
    }
    return Lexicon({sort: {key: key for key in some} for sort, some in keys.items()}, without_names=True)
