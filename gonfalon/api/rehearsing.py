"""Rehearsing: what was asked so far is done again, then this request is answered over it, and nothing of it is kept.

Every address rehearses by itself: the middleware here takes its requests in while a rehearsal is under way. A view says
which of its methods never do (`never_rehearsed`), as signing out.

    Playing(request, session).answer(ask)       # one request, in the rehearsal of whoever asks
"""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from io import BytesIO
from typing import Any, TypeVar, cast

from django.core.handlers.wsgi import WSGIRequest
from django.db import OperationalError
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.urls import Resolver404, resolve

from gonfalon.access.change_sets import apply_what_stands
from gonfalon.accounts.models import Account
from gonfalon.api.guard import IN_EARNEST, SAFE
from gonfalon.api.parsing import LARGEST_REQUEST
from gonfalon.api.problems import NotFound, Problem, as_problem, json_problem
from gonfalon.clock import Ids, now
from gonfalon.content.nodes import content
from gonfalon.core.checks.tries import keep
from gonfalon.core.document.writer import write_who
from gonfalon.core.sentences.normal import normal
from gonfalon.ledger.models import Entry
from gonfalon.verify.going_on import GoingOn
from gonfalon.verify.ledger_words import sentences
from gonfalon.verify.models import LONGEST_HEADER, LONGEST_PATH, RehearsedRequest
from gonfalon.verify.rehearsals import MOST_STEPS, Full, Journal, Over, end, journal
from gonfalon.verify.walks.ticks import Way, note_tries
from gonfalon.verify.whom import whom_words
from gonfalon.viewpoint.asked import Asked, gathering
from gonfalon.viewpoint.cookie import Cookie
from gonfalon.viewpoint.rehearsed import RehearsedSession
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import Busy, TooLong, rehearsing, run
from gonfalon.work.rehearsal import Rehearsal

Ask = Callable[[HttpRequest], HttpResponseBase]

R = TypeVar("R")
AT_MOST = 1.0
"""Seconds for which what is written in a rehearsal is held while one answer is worked out."""
PAUSES = (0.05, 0.2)
"""Seconds before each further try, where somebody is at work."""


class AtWork(Problem):
    """Somebody else holds a row that is written in the rehearsal."""

    def __init__(self) -> None:
        super().__init__(409, "at-work", "Somebody is at work there", "Nothing was done; once more in a moment.")


class HeldTooLong(Problem):
    def __init__(self) -> None:
        detail = "What was done so far takes longer than others may be kept waiting for it. Take some of it back."
        super().__init__(409, "held-too-long", "More than a rehearsal may hold", detail)


class Ended(Problem):
    """The rehearsal ended by itself."""

    def __init__(self, detail: str) -> None:
        super().__init__(403, "stand-in-over", "The rehearsal has ended", detail)


@dataclass(frozen=True, slots=True)
class Outcome:
    """How doing one request again went: its status, and its problem if there was one."""

    request: RehearsedRequest
    status: int
    problem: dict[str, Any] | None


class Rehearsals:
    """The middleware that takes in whatever is asked while a rehearsal is under way."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self._get_response(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponseBase], args: Any, kwargs: Any
    ) -> HttpResponseBase | None:
        method = (request.method or "get").lower()
        of = getattr(view, "view_class", None) or getattr(view, "cls", None)
        session: Session = request.asked_by  # type: ignore[attr-defined]
        if of is None or method in getattr(of, "never_rehearsed", ()):
            return None
        earnest = method in getattr(of, "kept_if_asked", ()) and IN_EARNEST in request.headers
        if earnest or not session.rehearses:
            return None
        playing = Playing(request, session)
        if method in SAFE or method in getattr(of, "reads", ()):
            return playing.reading(lambda asked: view(asked, *args, **kwargs))
        largest = getattr(of, "largest_body", LARGEST_REQUEST)
        return playing.writing(lambda asked: view(asked, *args, **kwargs), largest)


class Playing:
    """One request in the rehearsal of whoever asks."""

    def __init__(self, request: HttpRequest, session: Session) -> None:
        self.request, self.session = cast(WSGIRequest, request), session
        under_way = session.standing_in
        assert under_way is not None
        self.under_way = under_way
        self.actor = session.actor.id if session.actor else ""
        self._made_there: set[str] = set()
        self._going_on = GoingOn(session, under_way)

    def reading(self, ask: Ask) -> HttpResponseBase:
        """The answer to something that is only asked."""
        body = self.request.body
        return self._tried(lambda kept: self._read(kept, lambda: ask(self._as_asked(body))))

    def writing(self, ask: Ask, largest: int) -> HttpResponseBase:
        """The answer to something that is done, which is kept in the journal if it can be done again."""
        body = self.request.read(largest + 1)
        return self._tried(lambda kept: self._write(kept, ask, body))

    def together(self, paths: Sequence[str]) -> list[HttpResponseBase]:
        """The answers to several addresses of the API that are only read, over one playing. Raises Problem."""
        answers: list[HttpResponseBase] = []

        def look(kept: Journal) -> None:
            with rehearsing(AT_MOST) as rehearsal:
                self._play(rehearsal, kept)
                done = [self._gathered(rehearsal, partial(self._ask_path, path), Ids()) for path in paths]
            answers[:] = [answer for answer, _ in done]
            for answer, asked in done:
                self._tick(asked, answer, "read")

        self._attempt(look)
        return [_rendered(answer) for answer in answers]

    def _ask_path(self, path: str) -> HttpResponseBase:
        asked = self._made("GET", path, b"", "", "")
        try:
            view, args, kwargs = resolve(asked.path_info)
        except Resolver404:
            return json_problem(NotFound("address"))
        of = getattr(view, "cls", None)
        if of is None or "get" in of.never_rehearsed:
            return json_problem(NotFound("address"))
        return view(asked, *args, **kwargs)

    def outcomes(self) -> tuple[Journal, list[Outcome]]:
        """What was asked so far, and how doing it again goes. Raises Problem."""

        def look(kept: Journal) -> tuple[Journal, list[Outcome]]:
            with rehearsing(AT_MOST) as rehearsal:
                return kept, self._play(rehearsal, kept)

        try:
            return self._attempt(look)
        except HeldTooLong:
            with journal(self.under_way.rehearsal) as kept:
                return kept, []  # so that some of it can be taken back

    def _tried(self, work: Callable[[Journal], HttpResponseBase]) -> HttpResponseBase:
        try:
            return self._attempt(work)
        except Problem as problem:
            return json_problem(problem)

    @property
    def _present(self) -> datetime:
        """The moment at which it is asked; where one rehearses at another, that stands still."""
        return self.under_way.at or now()

    def _attempt(self, work: Callable[[Journal], R]) -> R:
        for pause in (*PAUSES, None):
            try:
                with journal(self.under_way.rehearsal) as kept:
                    return work(kept)
            except Over:
                self.session.stand_in(None)
                raise Ended("Its time is up, or it ended elsewhere. Nothing of it was kept.") from None
            except Ended:
                end(self.under_way.rehearsal)
                self.session.stand_in(None)
                raise
            except TooLong:
                if pause != PAUSES[0]:
                    raise HeldTooLong from None
            except Busy:
                if pause is None:
                    raise AtWork from None
            except OperationalError as error:
                problem = as_problem(error)
                if problem is None:
                    raise
                raise problem from None
            time.sleep(pause)
        raise AssertionError("the last try returns or raises")

    def _read(self, kept: Journal, ask: Callable[[], HttpResponseBase]) -> HttpResponseBase:
        with rehearsing(AT_MOST) as rehearsal:
            self._play(rehearsal, kept)
            answer, asked = self._gathered(rehearsal, ask, Ids())
        self._tick(asked, answer, "read")
        return answer

    def _gathered(
        self, rehearsal: Rehearsal, ask: Callable[[], HttpResponseBase], ids: Ids
    ) -> tuple[HttpResponseBase, list[Asked]]:
        """The answer to something, and what it asked of the rules."""
        with gathering() as asked:
            return _whole(rehearsal.again(ask, at=self._present, ids=ids)), asked

    def _tick(self, asked: list[Asked], answer: HttpResponseBase, way: Way) -> None:
        """Tick off in walk lists what was tried. What is staged, or not yet, proves nothing of what is in force."""
        if self.under_way.staged or self.under_way.at is not None:
            return
        here = Viewpoint(self.session.in_force, None, self.session.at)
        went: Way = way if answer.status_code < 400 else "failed"
        note_tries(asked, went, here, self._going_on.roles, self.actor)

    def _refused_question(self, asked: list[Asked]) -> dict[str, Any] | None:
        """What was refused, as a question of access-rules §8, where it can be asked outside: to be expected."""
        denied = next((one for one in reversed(asked) if not one.decision.allow), None)
        tree = content(self.session.in_force).tree
        kept = keep(denied.question, denied.own, str(denied.decision.reason), tree) if denied else None
        if kept is None or "made" in kept.said or not self.under_way.known_in(self.session.in_force.policy):
            return None
        return normal({**write_who(self.under_way.who), **kept.said})

    def _write(self, kept: Journal, ask: Ask, body: bytes) -> HttpResponseBase:
        asked = self.request
        path = asked.get_full_path_info()
        if len(path) > LONGEST_PATH:
            raise Problem(
                414, "address-too-long", "This address is too long", f"It has at most {LONGEST_PATH} characters."
            )
        try:
            step = kept.next_step(asked.method or "", path, len(body))
        except Full:
            detail = f"A rehearsal has {MOST_STEPS} steps, and this one is full. Take one back, or begin another."
            raise Problem(409, "rehearsal-full", "Nothing more fits", detail) from None
        at, ids = self._present, Ids()
        with rehearsing(AT_MOST) as rehearsal:
            self._play(rehearsal, kept)
            response, tried = self._gathered(rehearsal, lambda: ask(self._as_asked(body)), ids)
            refused = None
            if response.status_code < 400:
                self._made_there.update(ids.given)
                self._go_on()
                said = self._said(rehearsal)
            else:
                refused, said = _refusal(response), self._where(asked.path_info)
        self._tick(tried, response, "written")
        if refused is not None:
            refused["question"] = self._refused_question(tried)
        if response.status_code < 400 or refused:
            media_type = asked.META.get("CONTENT_TYPE", "")
            kept.add(
                RehearsedRequest(
                    step=kept.requests[-1].step + 1 if refused and kept.requests else step,
                    method=asked.method or "",
                    path=path,
                    media_type=media_type[:LONGEST_HEADER],
                    body=b"" if refused else body,
                    if_match=asked.headers.get("If-Match", "")[:LONGEST_HEADER],
                    at=at,
                    ids=list(ids.given),
                    said=said,
                    refused=refused,
                )
            )
        return response

    def _play(self, rehearsal: Rehearsal, kept: Journal) -> list[Outcome]:
        """Do all again that was done, each at its own time. Raises Ended where that would give more than there is."""
        self._begin(rehearsal)
        outcomes = []
        self._made_there = {id for request in kept.played for id in request.ids}
        for request in kept.played:
            asked = self._made(request.method, request.path, bytes(request.body), request.media_type, request.if_match)
            asked.on_top, asked._dont_enforce_csrf_checks = request.on_top, True  # type: ignore[attr-defined]
            view, args, kwargs = resolve(asked.path_info)
            again = partial(view, asked, *args, **kwargs)
            response = rehearsal.again(again, at=self.under_way.at or request.at, ids=Ids(request.ids))
            outcomes.append(Outcome(request, response.status_code, getattr(response, "data", None)))
            self._go_on()
        return outcomes

    def _begin(self, rehearsal: Rehearsal) -> None:
        """What there is before the first step: whoever is made up, and what is staged, applied."""
        under_way = self.under_way
        if under_way.made_up:
            name = whom_words(under_way.who)[:150]
            made_up = Account(id=under_way.made_up, name=name, email=f"{under_way.made_up}@nobody.invalid")
            Account.objects.bulk_create([made_up])
        if under_way.staged:
            session = self._inside()
            rehearsal.again(lambda: run(lambda: apply_what_stands(self.actor, session.by)), at=self._present, ids=Ids())
            self._go_on()

    def _go_on(self) -> None:
        """Raise Ended where that would give more than whoever rehearses has."""
        if why := self._going_on.stopped(self._inside().viewpoint, self._made_there):
            raise Ended(f"{why} Nothing was kept.")

    def _said(self, rehearsal: Rehearsal) -> list[str]:
        """What the step that was just done says of itself, as the ledger would."""
        entries = [row for model, pk in rehearsal.entries if model is Entry and (row := Entry.objects.get(pk=pk))]
        told = sentences(entries, self._inside().viewpoint)
        return [told[entry.number] for entry in entries]

    def _where(self, path: str) -> list[str]:
        """The page that an address is about, if it names one that is in sight."""
        node, here = resolve(path).kwargs.get("node"), self._inside().viewpoint
        return [here.nodes.titles[node]] if node in here.in_sight.named else []

    def _inside(self) -> RehearsedSession:
        return RehearsedSession(self.session, Cookie(self.request))

    def _as_asked(self, body: bytes) -> HttpRequest:
        asked = self.request
        return self._made(
            asked.method or "GET",
            asked.get_full_path_info(),
            body,
            asked.META.get("CONTENT_TYPE", ""),
            asked.headers.get("If-Match", ""),
        )

    def _made(self, method: str, path: str, body: bytes, media_type: str, if_match: str) -> HttpRequest:
        """A request as it would come in, for a view of the rehearsal."""
        path, _, query = path.partition("?")
        environ = {
            **self.request.environ,
            "REQUEST_METHOD": method,
            "PATH_INFO": path,
            "QUERY_STRING": query,
            "CONTENT_TYPE": media_type,
            "CONTENT_LENGTH": str(len(body)),
            "HTTP_IF_MATCH": if_match,
            "wsgi.input": BytesIO(body),
        }
        made = WSGIRequest(environ)
        made.path_info = path
        made.session = self.request.session
        made._dont_enforce_csrf_checks = getattr(self.request, "_dont_enforce_csrf_checks", False)  # type: ignore[attr-defined]
        made.asked_by = self._inside()  # type: ignore[attr-defined]
        return made


def _whole(response: HttpResponseBase) -> HttpResponseBase:
    """An answer with all that it says, which it cannot read any more once the rehearsal is over."""
    if response.streaming:
        response.streaming_content = list(response)  # type: ignore[attr-defined]
    return response


def _rendered(response: HttpResponseBase) -> HttpResponseBase:
    render = getattr(response, "render", None)
    rendered: HttpResponseBase = render() if render else response
    return rendered


def _refusal(response: HttpResponseBase) -> dict[str, Any] | None:
    """What a refusal says; None of any other problem, which is mended and tried again."""
    data = getattr(response, "data", None)
    if response.status_code != 403 or not data:
        return None
    return {"reason": str(data.get("reason", "")), "detail": str(data.get("detail", ""))}
