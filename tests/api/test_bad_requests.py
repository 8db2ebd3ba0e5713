"""Whatever a client sends is answered with a problem that says what is wrong, never with a fault of the server."""

import json

import pytest
from django.db import OperationalError, transaction
from django.test import Client

from gonfalon.access.models import MarkupSet
from gonfalon.access.snapshot import raise_version
from tests.api.bad_requests import bad_requests
from tests.api.support import ok, refused
from tests.examples import SEED, examples

COUNT = examples(600)


@pytest.fixture
def client(odile) -> Client:
    odile.client.raise_request_exception = False
    return odile.client


@pytest.mark.timeout(900)
def test_made_up_requests(client):
    session = client.cookies["sessionid"].value
    for request in bad_requests(SEED, COUNT):
        client.cookies["sessionid"] = session  # whatever the last one made of it
        with transaction.atomic():
            response = request.send(client)
            transaction.set_rollback(True)
        assert response.status_code < 500, f"seed {SEED}: {request}"
        assert request.tagged or response.status_code not in (412, 428), f"the schema is silent of If-Match: {request}"
        if response.status_code >= 400 and request.path.startswith("/api/"):
            assert response["Content-Type"] == "application/problem+json", f"seed {SEED}: {request}"
            problem = json.loads(response.content)
            assert problem["reason"], request
            if response.status_code == 422:
                assert all(error["message"] for error in problem["errors"]), request


LOFT = "desk/pages/p3-sail-loft"


def change(part, **props):
    return {"components": [{"kind": part, "props": props}]}


@pytest.mark.parametrize(
    ("body", "pointer"),
    [
        ({"title": "\ud800"}, "/title"),
        ({"title": "a\0b"}, "/title"),
        ({"values": {"telephone": "a\0b"}}, "/values/telephone"),
        ({"values": {"\udfff": 1}}, "/values"),
        ({"values": {"dues": 10**400}}, "/values/dues"),
        ({"values": {"dues": [1]}}, "/values/dues"),
        ({"components": [5]}, "/components/0"),
        ({"components": [["text"]]}, "/components/0"),
        ({"components": [{"kind": ["text"]}]}, "/components/0/kind"),
        ({"components": [{"kind": "text", "props": [1]}]}, "/components/0/props"),
        ({"components": [{"kind": "text", "id": {}}]}, "/components/0/id"),
        (change("button", link="http://["), "/components/0/props/link"),
        (change("button", link="//elsewhere.example"), "/components/0/props/link"),
        (change("table", rows=[["a", {}]]), "/components/0/props/rows"),
        (change("text", html={"a": 1}), "/components/0/props/html"),
    ],
)
def test_a_page_that_cannot_be_read_names_the_field(odile, body, pointer):
    problem = refused(odile.patch(LOFT, body, **{"If-Match": '"1"'}), "invalid", 422)
    assert [error["pointer"] for error in problem["errors"]] == [pointer]


@pytest.mark.parametrize("html", ["<![", "<![CDATA[", "<!", "<", "<a <b", "&#x110000;", "<p" * 9_000, "<svg/onload=x>"])
def test_rich_text_may_be_written_anyhow(odile, html):
    page = ok(odile.patch(LOFT, change("text", html=html), **{"If-Match": '"1"'}))
    assert "onload" not in page["components"][0]["props"]["html"]


@pytest.mark.parametrize(
    ("operation", "pointer"),
    [
        ({}, "/kind"),
        ({"kind": []}, "/kind"),
        ({"kind": {"a": 1}}, "/kind"),
        ({"kind": "give-role", "role": "pilot", "to": "ines"}, "/to"),
        ({"kind": "give-role", "role": "pilot", "to": {"kind": [], "id": 5}}, "/to/kind"),
        ({"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "pilots"}, "scope": [1]}, "/scope"),
        ({"kind": "set-facets", "role": "pilot", "component": "text", "facets": {"wording": 1}}, "/facets"),
        ({"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "table", "table": ["pilot"]}, "/table"),
    ],
)
def test_an_operation_that_cannot_be_read_names_the_field(odile, operation, pointer):
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert pointer in [error["pointer"] for error in problem["errors"]]


def test_deep_json_is_refused_at_every_address_signing_in_too(ask, odile):
    for asking, path in ((ask(), "session"), (odile, "change-set/operations"), (odile, "roles")):
        for text in ('{"a":' * 100_000, "[" * 60 + "]" * 60):
            response = asking._read(asking.client.post(f"/api/{path}", text, content_type="application/json"))
            assert response.status_code in (400, 422)
            assert "deep" in response.data_read["detail"]


@pytest.mark.parametrize(
    "path", ["roles?limit=²", f"roles?offset={'9' * 26}", "ledger?before=²", f"ledger?before={'9' * 26}"]
)
def test_what_is_no_number_names_itself(odile, path):
    problem = refused(odile.get(path), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/" + path.partition("?")[2].partition("=")[0]


def test_another_form_than_json_is_told_as_a_problem(odile):
    response = odile.client.post("/api/roles", "name=Crew", content_type="application/x-www-form-urlencoded")
    refused(odile._read(response), "unsupported-media-type", 415)


def test_a_request_has_a_largest_size(odile):
    refused(odile.post("change-set/operations", {"operations": [{"kind": "x" * 3_000_000}]}), "too-large", 413)


def test_a_markup_set_cannot_stop_others_from_saving(odile):
    wide = {"name": "Wide", "elements": {"p": ["rel"], "a": ["href", "rel"]}, "schemes": ["https"]}
    problem = refused(odile.post("markup-sets", wide), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/elements"
    MarkupSet.objects.create(key="from-before", **wide)
    raise_version()
    saved = ok(
        odile.patch(
            LOFT, change("text", html='<p rel="x"><a href="https://a.example" rel="y">z</a></p>'), **{"If-Match": '"1"'}
        )
    )
    html = saved["components"][0]["props"]["html"]
    assert html == '<p><a href="https://a.example" rel="noopener noreferrer">z</a></p>'


@pytest.mark.parametrize(
    "path", ["/%00", "/site/harbour/%00", "/api/roles/%00", "/desk%00", "/static/%00", "/files/%00"]
)
def test_an_address_with_a_nul_is_not_found(client, path):
    assert client.get(path).status_code == 404


def test_a_host_that_is_not_served_here_is_told_as_a_problem(client):
    response = client.get("/api/session", headers={"Host": "elsewhere.example"})
    assert (response.status_code, response["Content-Type"]) == (400, "application/problem+json")


def test_an_address_that_leads_nowhere_answers_a_page_that_says_so(client, ask):
    page = ask().client.get("/define-me")
    assert page.status_code == 404
    assert b"There is no such address" in page.content
    inside = client.get("/define-me")
    assert (inside.status_code, b'id="root"' in inside.content) == (404, True)
    assert client.get("/api/define-me")["Content-Type"] == "application/problem+json"
    assert client.post("/api/define-me").status_code in (404, 405)


@pytest.mark.parametrize(("number", "status"), [(1153, 413), (1205, 409), (1213, 409)])
def test_what_the_database_does_not_take_is_a_clear_error(odile, monkeypatch, number, status):
    def fails(*_, **__):
        raise OperationalError(number, "as MariaDB says")

    monkeypatch.setattr("gonfalon.api.define.roles.make_role", fails)
    response = odile.post("roles", {"name": "Crew"})
    assert response.status_code == status, response.content


def test_what_a_request_cannot_be_is_told_in_plain_words(odile):
    problem = refused(odile.post("find"), "method-not-allowed", 405)
    sent = odile.client.post("/api/change-set/operations", "a,b", content_type="text/csv")
    for told in (problem, sent.json()):
        assert "{" not in told["title"] + told["detail"]
    assert sent.status_code == 415


@pytest.mark.parametrize(
    ("method", "address", "sent"),
    [
        ("patch", "desk/pages/p3-sail-loft", {"fields": {"dues": 1}}),
        ("post", "stand-in", {"account": "ines", "node": "fees", "look": True}),
        ("post", "roles", {"name": "Knots", "keyholder": True}),
        ("post", "session/forgotten", {"email": "a@b.example", "to": "c@d.example"}),
    ],
)
def test_what_nobody_reads_is_refused_by_its_name(odile, method, address, sent):
    tag = {"If-Match": '"1"'} if method == "patch" else {}
    problem = refused(getattr(odile, method)(address, sent, **tag), "invalid", 422)
    assert problem["errors"][-1]["pointer"] == f"/{list(sent)[-1]}"
    assert "not known here" in problem["errors"][-1]["message"]


@pytest.mark.parametrize(
    ("send", "pointer"),
    [
        (lambda odile: odile.patch(LOFT, {"components": [{"kind": "text", "prop": {}}]}, **{"If-Match": '"1"'}),
         "/components/0/prop"),
        (lambda odile: odile.put(f"{LOFT}/listing", {"title": "", "description": "", "hidden": False, "robots": "no"},
                                 **{"If-Match": '"1"'}), "/robots"),
        (lambda odile: odile.post("roster-views", {"name": "Mine", "query": "", "owner": "ines"}), "/owner"),
        (lambda odile: stage_one(odile, {"kind": "set-answer", "role": "pilot", "capability": "event.see",
                                         "says": "all", "everywhere": True}), "/operations/0/everywhere"),
        (lambda odile: stage_one(odile, {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"},
                                         "scope": {"branch": ["fees"]}}), "/scope/branch"),
        (lambda odile: stage_one(odile, {"kind": "give-role", "role": "pilot",
                                         "to": {"kind": "account", "id": "ines", "name": "x"}}), "/to/name"),
        (lambda odile: odile.post("stand-in", {"account": "ines", "mode": "write"}), "/mode"),
    ],
)  # fmt: skip
def test_what_nobody_reads_within_a_body_is_refused_by_its_name(odile, send, pointer):
    problem = refused(send(odile), "invalid", 422)
    assert pointer in [error["pointer"] for error in problem["errors"]], problem


def stage_one(odile, operation):
    return odile.post("change-set/operations", {"operations": [operation]})


@pytest.mark.parametrize(
    ("send", "pointer"),
    [
        (lambda odile: odile.post("desk/many", {"nodes": ["x" * 501], "action": "retire"}), "/nodes/0"),
        (lambda odile: odile.post("topics/tides/merge", {"into": "x" * 501}), "/into"),
        (lambda odile: odile.patch("me", {"profile": {str(n): n for n in range(1_001)}}, **{"If-Match": '"1"'}),
         "/profile"),
        (lambda odile: stage_one(odile, {"kind": "set-facets", "role": "pilot", "component": "text",
                                         "facets": ["wording"] * 1_001}), "/facets"),
    ],
)  # fmt: skip
def test_what_says_no_bound_of_its_own_has_one(odile, send, pointer):
    problem = refused(send(odile), "invalid", 422)
    assert pointer in [error["pointer"] for error in problem["errors"]], problem
