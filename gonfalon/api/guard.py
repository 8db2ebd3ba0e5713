"""The one door. Every view says what each of its methods asks; this asks the engine, and refuses.

    class PageView(GuardedView):
        doors = {"get": On("see"), "patch": On("edit")}

        def patch(self, request, node): ...   # runs only when the account may edit the node

A view never decides by itself. `tests/api/test_routes.py` fails on a route without a door.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from time import perf_counter
from typing import Any, ClassVar, NoReturn, Protocol

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.views import View
from rest_framework.request import Request
from rest_framework.views import APIView

from gonfalon.access.uses import note
from gonfalon.access.words import refusal, trail_data
from gonfalon.api.body import Body
from gonfalon.api.parsing import LARGEST_REQUEST
from gonfalon.api.problems import (
    DrawnForAnother,
    Invalid,
    NotFound,
    NotSignedIn,
    Problem,
    Refused,
    as_problem,
    json_problem,
)
from gonfalon.content.nodes import Place, place
from gonfalon.core import Decision, Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import DESK_OPEN, OVER_ALL_NODES, SECTION_OF_TREE, TREES, WHOLE_BRANCH
from gonfalon.viewpoint.asked import note_asked
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import Locks, after_commit, run, running

_ASKS_ALL_NODES = WHOLE_BRANCH | OVER_ALL_NODES
EYES = "Drawn-For"
"""The header by which a screen says for whose eyes it was drawn (`Session.eyes`)."""
IN_EARNEST = "In-Earnest"
"""The header by which a screen says that something is to be kept though one rehearses."""
SAFE = frozenset({"get", "head", "options"})


class Door(Protocol):
    """What a method of a view asks before it runs."""

    @property
    def while_looking(self) -> bool:
        """Whether a writing method may run while one only looks, standing in."""

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        """The node that it read on the way, if any; raises Refused, NotSignedIn or NotFound unless whoever asks may."""


@dataclass(frozen=True, slots=True)
class Anyone:
    """No question asked, and why that is right."""

    why: str
    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        """Everyone passes."""
        return None


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Any active account, for what is only about oneself."""

    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        if session.as_visitor:
            raise NotSignedIn
        return None


@dataclass(frozen=True, slots=True)
class Arrived:
    """Whoever signed in, even if something is missing that they must have first: for what is only about oneself."""

    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        if session.arriving is None:
            raise NotSignedIn
        return None


@dataclass(frozen=True, slots=True)
class May:
    """A sitewide or opening capability; with several, any of them is enough.

    Where the route names a `site`, the question names it too (§3). With `as_actor` the question is about who
    signed in, even while standing in for someone.
    """

    capabilities: tuple[str, ...]
    as_actor: bool = False
    while_looking: bool = False

    def __init__(self, *capabilities: str, as_actor: bool = False, while_looking: bool = False) -> None:
        object.__setattr__(self, "capabilities", capabilities)
        object.__setattr__(self, "as_actor", as_actor)
        object.__setattr__(self, "while_looking", while_looking)

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        if session.actor is None or (session.as_visitor and not self.as_actor):
            raise NotSignedIn
        here = session.actors_viewpoint if self.as_actor else session.viewpoint
        who = here.subject
        site = arguments.get("site")
        asked = [Question(who, c, at=here.at, site=site) for c in self.capabilities]
        answers = [decide(here, question) for question in asked]
        for question, answer in zip(asked, answers, strict=True):
            _note(here, question, answer)
        if not any(answer.allow for answer in answers):
            refuse(here, Question(who, self.capabilities[0], at=here.at), answers[0])
        return None


@dataclass(frozen=True, slots=True)
class Within:
    """A section of the desk, and in it whatever else is asked."""

    section: str
    door: "May | On | None" = None
    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        for opening in (DESK_OPEN, self.section):
            May(opening).pass_through(session, {})
        return self.door.pass_through(session, arguments) if self.door else None


@dataclass(frozen=True, slots=True)
class On:
    """An action on the node the route names. A node that may not be seen is as good as not there."""

    action: str
    desk: bool = False
    """Whether it is asked on the desk: then that must be open, with the section of the node's tree."""
    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place:
        if self.desk:
            May(DESK_OPEN).pass_through(session, {})
        place = place_of(arguments["node"])
        if self.desk:
            May(SECTION_OF_TREE[place.target.tree]).pass_through(session, {})
        ask(session.viewpoint, "see", place.target)
        if self.action != "see":
            ask(session.viewpoint, self.action, place.target)
        return place


@dataclass(frozen=True, slots=True)
class OnSite:
    """The node the route names, as the public site shows it."""

    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place:
        place = place_of(arguments["node"])
        ask_on_site(session.viewpoint, place.target)
        return place


def place_of(node: str) -> Place:
    """The node with its row and those above it. Raises NotFound."""
    found = place(node)
    if found is None:
        raise NotFound
    return found


def target_of(node: str) -> Target:
    """The node as a target. Raises NotFound."""
    return place_of(node).target


def decide(here: Viewpoint, question: Question, *, trail: bool = True) -> Decision:
    """What the rules answer; what lies beneath a node is looked at only where the action asks about it."""
    leaf = question.target is not None and question.target.leaf
    engine = here.engine if question.action in _ASKS_ALL_NODES and not leaf else here.snapshot.engine
    return engine.decide(question, trail=trail)


def ask(here: Viewpoint, action: str, target: Target, **more: Any) -> None:
    """Ask for the subject; raise NotFound when they may not even see, else Refused."""
    question = Question(here.subject, action, target, here.at, **more)
    answer = decide(here, question)
    _note(here, question, answer)
    if answer.allow:
        return
    if action == "see":
        raise NotFound
    refuse(here, question, answer)


def ask_on_site(here: Viewpoint, target: Target) -> None:
    """Ask whether the public site shows a node: to whoever may see it, and to everyone what a visitor may (§4).

    Raises NotFound.
    """
    try:
        ask(here, "see", target)
    except NotFound:
        if here.subject is None:
            raise
        ask(here.seen_by(None), "see", target)


def require(here: Viewpoint, capability: str) -> None:
    """Raise Refused unless the subject passes a sitewide capability."""
    question = Question(here.subject, capability, at=here.at)
    answer = decide(here, question)
    _note(here, question, answer)
    if not answer.allow:
        refuse(here, question, answer)


def prove_again(session: Session) -> None:
    """Raise Refused unless whoever asks showed lately that it is them: before acts that open an account to others."""
    if not session.proved_lately:
        raise Refused("prove-again", "You signed in a while ago. Show once more that it is you.")


def tree_asked(here: Viewpoint, request: Request) -> str:
    """The tree that a request asks for. Raises Refused where media are closed to whoever asks."""
    tree = tree_named(request)
    if tree == "media":
        require(here, "media.open")
    return tree


def tree_named(request: Request) -> str:
    """The tree that a request names, the content if it names none."""
    tree = request.query_params.get("tree") or "content"
    if tree not in TREES:
        raise Invalid({"/tree": f"Say one of: {', '.join(TREES)}."})
    return tree


def may(here: Viewpoint, capability: str) -> bool:
    """Whether the subject passes a sitewide or opening capability."""
    return decide(here, Question(here.subject, capability, at=here.at), trail=False).allow


def _note(here: Viewpoint, question: Question, answer: Decision) -> None:
    """Keep in mind what is used of what is given; trying out as somebody else is no use of it, but may be a tick."""
    who = question.who
    note_asked(here, question, answer)
    if isinstance(who, str) and here.at_work:
        after_commit(lambda: note(who, answer, here.at))


def refuse(here: Viewpoint, question: Question, answer: Decision) -> NoReturn:
    """Raise the refusal, its reason and trail included."""
    raise Refused(str(answer.reason), refusal(question, answer, here.catalogue), trail_data(answer))


class _Guarded:
    doors: ClassVar[Mapping[str, Door]]
    whoever_asks: ClassVar[frozenset[str]] = frozenset()
    """Writing methods that are meant whoever is there by now: ending a session, stepping out."""

    never_rehearsed: ClassVar[frozenset[str]] = frozenset()
    """Methods that are meant in earnest also while one rehearses: about the rehearsal itself, or who is there."""

    kept_if_asked: ClassVar[frozenset[str]] = frozenset()
    """Methods that a rehearsal leaves alone where they are sent with IN_EARNEST: noting what one sees there."""

    session: Session
    """Who asks."""
    place: Place
    """The node that the address names, where the door asked about one."""

    @property
    def viewpoint(self) -> Viewpoint:
        """How whoever asks sees the site."""
        return self.session.viewpoint

    def pass_doors(self, request: HttpRequest, arguments: Mapping[str, Any]) -> None:
        """Let whoever asks in. Raises as the door does."""
        method = (request.method or "get").lower()
        self.session = session = request.asked_by  # type: ignore[attr-defined]
        door = self.doors.get("get" if method == "head" else method)
        if door is None:
            return  # no such method here: the view answers 405, or describes itself
        if method not in SAFE and method not in self.whoever_asks and not isinstance(door, Anyone):
            drawn_for = request.headers.get(EYES)
            if drawn_for is not None and drawn_for != session.eyes:
                raise DrawnForAnother
        under_way = session.standing_in
        looks = under_way is not None and (under_way.mode == "look" or method in self.never_rehearsed)
        if method not in SAFE and not door.while_looking and looks:
            raise Refused("look-only", "You are standing in to look only. Nothing can be changed until you step out.")
        if method not in SAFE and not door.while_looking and session.stand_in_over:
            raise Refused("stand-in-over", "Standing in has ended. Nothing was changed; look again as yourself first.")
        place = door.pass_through(session, arguments)
        if place is not None:
            self.place = place


class GuardedView(_Guarded, APIView):
    """An API view behind the door. `self.session` tells who asks."""

    locks: ClassVar[Mapping[str, Locks]] = {}
    """What each writing method holds from before anything is read.

    Such a method is one unit of work, door and all. A status of 400 or more keeps nothing of it. How long it held them
    is told in `Server-Timing`.
    """
    reads: ClassVar[frozenset[str]] = frozenset()
    """Methods that write nothing though they are sent with a body."""
    largest_body: ClassVar[int] = LARGEST_REQUEST
    """Bytes."""

    prepares: ClassVar[bool] = False
    """Whether `prepare` has work to do."""

    def locks_for(self, method: str, sent: Any) -> Locks:
        """What a method holds, where that depends on what is sent."""
        return self.locks[method]

    def prepare(self, sent: Any) -> None:
        """Work that takes long and needs nothing held: reading a picture. Done once, for whom the door lets in; in the
        unit that follows it is asked again. Raises Problem."""

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        method = (request.method or "get").lower()
        if method not in self.locks:
            return super().dispatch(request, *args, **kwargs)
        self._body = Body(self, request, self.largest_body)
        handle = super().dispatch

        def attempt() -> HttpResponseBase:
            held_from = perf_counter()
            request.asked_by = request.asked_by.anew()  # type: ignore[attr-defined]
            response = handle(request, *args, **kwargs)
            response.headers["Server-Timing"] = f"held;dur={(perf_counter() - held_from) * 1000:.1f}"
            return response

        try:
            if self.prepares:
                self.pass_doors(request, kwargs)
                self.prepare(self._body.sent)
            locks = self.locks_for(method, self._body.sent)
            return run(attempt, locks, keeps=_is_kept, arguments=kwargs)
        except Problem as refused:
            return json_problem(refused)
        except OperationalError as error:
            problem = as_problem(error)
            if problem is None or running() is not None:
                raise
            return json_problem(problem)

    def initialize_request(self, request: HttpRequest, *args: Any, **kwargs: Any) -> Request:
        body: Body | None = getattr(self, "_body", None)
        return body.request_anew() if body else super().initialize_request(request, *args, **kwargs)

    def initial(self, request: Request, *args: Any, **kwargs: Any) -> None:
        super().initial(request, *args, **kwargs)
        self.pass_doors(request._request, kwargs)


def _is_kept(response: HttpResponseBase) -> bool:
    return response.status_code < 400


class GuardedPage(_Guarded, View):
    """A page rendered by the server, behind the same door."""

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        try:
            self.pass_doors(request, kwargs)
            return super().dispatch(request, *args, **kwargs)  # type: ignore[return-value]
        except Problem as problem:
            return self.problem(request, problem)

    def problem(self, request: HttpRequest, problem: Problem) -> HttpResponse:
        """How this page tells a refusal; as problem details unless it knows better."""
        return json_problem(problem)
