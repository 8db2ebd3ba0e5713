"""The large harbour, at a hundredth of its size: kinds of content that no installed module brings."""

from io import StringIO

import pytest
from django.core.management import CommandError, call_command

from gonfalon.access.models import Lock, Role
from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.core import load_policy
from gonfalon.demo.large import large_document
from gonfalon.demo.management.commands import load_large
from tests.api.support import PASSWORD, ok, stage

SMALL = 0.01


@pytest.fixture
def large(nothing_here, monkeypatch):
    monkeypatch.setenv("GONFALON_DEMO_PASSWORD", PASSWORD)
    monkeypatch.setattr(load_large, "large_document", lambda: large_document(SMALL))
    call_command("load_large", stdout=StringIO())


@pytest.fixture
def keeper(large, ask):
    return ask(Account.objects.get(keyholder=True).id)


class TestTheDocument:
    def test_it_is_the_same_from_the_same_seed(self):
        assert large_document(SMALL) == large_document(SMALL)
        assert large_document(SMALL, seed=12) != large_document(SMALL)

    def test_it_can_be_read_and_is_as_large_as_asked(self):
        policy = load_policy(large_document(SMALL))
        assert (len(policy.accounts), len(policy.tree), len(policy.node_types)) == (100, 1_000, 40)
        assert sum(account.keyholder for account in policy.accounts.values()) == 1


class TestLoading:
    def test_the_keyholder_can_sign_in(self, large):
        keeper = Account.objects.get(email=load_large.KEEPER)
        assert keeper.keyholder
        assert keeper.check_password(PASSWORD)

    def test_roles_have_names_one_can_tell_apart(self, large):
        names = list(Role.objects.filter(baseline="").values_list("name", flat=True))
        assert len(set(names)) == len(names) > 0
        assert not any(name.startswith("role-") for name in names)

    def test_a_second_time_leaves_all_as_it_is(self, large):
        Node.objects.first().delete()
        count = Node.objects.count()
        call_command("load_large", stdout=StringIO())
        assert Node.objects.count() == count

    def test_without_a_password_nothing_is_made(self, nothing_here, monkeypatch):
        monkeypatch.delenv("GONFALON_DEMO_PASSWORD", raising=False)
        with pytest.raises(CommandError, match="GONFALON_DEMO_PASSWORD"):
            call_command("load_large")
        assert not Account.objects.exists()


class TestServing:
    def test_a_board_shows_every_kind_by_its_key(self, keeper):
        capabilities = {cell["capability"] for cell in ok(keeper.get("roles/role-1"))["cells"]}
        assert {"page1.edit", "file3.remove", "duty5.do"} <= capabilities
        assert {"page1", "file3"} <= {type["key"] for type in ok(keeper.get("catalogue"))["types"]}

    def test_what_a_change_would_do_is_told_with_its_fields(self, keeper):
        says = {"page0.see": "all", "page0.see-draft": "all", "page0.edit": "all", "page0.edit-live": "all"}
        operations = [{"kind": "set-answer", "role": "everyone", "capability": c, "says": s} for c, s in says.items()]
        stage(keeper, *operations)
        impact = ok(keeper.get("change-set/impact"))
        words = {turn["key"]: turn["words"] for turn in impact["turns"]}
        assert words["edit"] == "edit pages"
        assert words["change-field page0.price"] == "change price of page0"
        told = ok(keeper.get("change-set/impact/accounts", limit=5))
        assert len(told) == 5
        pages = keeper.get("change-set/impact/pages", key="edit", limit=3)
        assert len(ok(pages)) == 3
        open_ones = Node.objects.filter(type="page0").exclude(pk__in=Lock.objects.values("node"))
        assert int(pages["Total-Count"]) == open_ones.count()

    def test_the_roster_the_tree_and_all_expectations(self, keeper):
        assert ok(keeper.get("accounts"))["count"] == 100
        assert ok(keeper.get("limits/children", role="role-1", limit=10))
        assert ok(keeper.get("crossbar"))["expectations"] == 100
