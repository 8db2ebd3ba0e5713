"""All addresses of the API, collected from the places that declare them. Each view has a door."""

from gonfalon.api.assign.routes import routes as assign
from gonfalon.api.changes.routes import routes as changes
from gonfalon.api.define.routes import routes as define
from gonfalon.api.desk.routes import routes as desk
from gonfalon.api.ledger.routes import routes as ledger
from gonfalon.api.limit.routes import routes as limit
from gonfalon.api.session.routes import routes as session
from gonfalon.api.site.routes import api_routes as site
from gonfalon.api.standards.routes import routes as standards
from gonfalon.api.verify.routes import routes as verify

routes = [*session, *define, *assign, *limit, *verify, *desk, *changes, *ledger, *site, *standards]
