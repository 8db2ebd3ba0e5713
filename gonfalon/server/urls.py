"""Every address there is: the API, the public site, and the single page that the front end fills.

Each view has a door; tests/api/test_routes.py walks them all.
"""

from django.urls import path, re_path

from gonfalon.api.routes import routes
from gonfalon.api.shell import PLACES, Home, NoSuchAddress, Shell
from gonfalon.api.site.routes import routes as site

urlpatterns = [
    path("", Home.as_view()),
    *(path(f"api/{route.pattern}", route.callback) for route in routes),
    re_path(r"^api/.*$", NoSuchAddress.as_view()),
    *site,
    re_path(rf"^(?:{'|'.join(PLACES)})(?:/.*)?$", Shell.as_view()),
]

handler400 = "gonfalon.api.problems.bad_request"
handler404 = "gonfalon.api.problems.not_found"
handler500 = "gonfalon.api.problems.server_error"
