"""What a browser's session keeps between requests, changed for good only once the unit is kept.

cookie = Cookie(request)
cookie["sign_in"] = row.id          # read back at once; in the session after the commit
"""

from typing import Any

from django.http import HttpRequest
from django.middleware.csrf import rotate_token

from gonfalon.work import after_commit


class Cookie:
    """The session of a request as one try of a unit sees and changes it."""

    def __init__(self, request: HttpRequest) -> None:
        self._request = request
        self._kept: dict[str, Any] | None = None
        self._anew = self._changed = False

    def anew(self) -> "Cookie":
        """The same request's, for another try."""
        return Cookie(self._request)

    def get(self, key: str) -> Any:
        """What is kept under a key, or None."""
        return self._read().get(key)

    def __contains__(self, key: str) -> bool:
        return key in self._read()

    def __setitem__(self, key: str, value: Any) -> None:
        self._read()[key] = value
        self._change()

    def pop(self, key: str) -> Any:
        """What was kept under a key, or None: it is kept no longer."""
        found = self._read().pop(key, None)
        self._change()
        return found

    def begin_anew(self) -> None:
        """Keep nothing of what there was, under another key; forms sent from before are refused."""
        self._kept, self._anew = {}, True
        self._change()

    def _read(self) -> dict[str, Any]:
        if self._kept is None:
            self._kept = dict(self._request.session.items())
        return self._kept

    def _change(self) -> None:
        if not self._changed:
            self._changed = True
            after_commit(self._keep)

    def _keep(self) -> None:
        session, self._changed = self._request.session, False
        if self._anew:
            session.flush()
            rotate_token(self._request)
            self._anew = False
        kept = self._read()
        for key in [key for key in session.keys() if key not in kept]:  # noqa: SIM118
            del session[key]
        for key, value in kept.items():
            if session.get(key) != value:
                session[key] = value
