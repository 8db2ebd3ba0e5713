"""Every address there is. Each view has a door; tests/api/test_routes.py walks them all."""

from django.urls import path, re_path

from gonfalon.access.views import assign, board, catalogue, changes, markup, roles
from gonfalon.content.views import desk, discussion, extensions, limits, listing, public, where
from gonfalon.ledger.views import LedgerView
from gonfalon.server.views import PLACES, DocumentSchema, Home, NoSuchAddress, Schema, Shell
from gonfalon.standin.views import expectations, find, impact, impact_lists, resting, stand_in, why
from gonfalon.standin.views.session import SessionView

api = [
    path("session", SessionView.as_view()),
    path("crossbar", expectations.CrossbarView.as_view()),
    path("catalogue", catalogue.CatalogueView.as_view()),
    path("catalogue/looked-at", catalogue.LookedAtView.as_view()),
    path("extensions", extensions.ExtensionsView.as_view()),
    path("extensions/<slug:extension>", extensions.ExtensionView.as_view()),
    path("markup-sets", markup.MarkupSetsView.as_view()),
    path("markup-sets/risk", markup.MarkupRiskView.as_view()),
    path("markup-sets/<slug:markup_set>", markup.MarkupSetView.as_view()),
    path("roles", roles.RolesView.as_view()),
    path("roles/capability", board.CapabilityView.as_view()),
    path("roles/order", roles.RoleOrderView.as_view()),
    path("roles/<slug:role>/removal", roles.RoleRemovalView.as_view()),
    path("roles/<slug:role>", roles.RoleView.as_view()),
    path("roles/<slug:role>/cell", board.CellContextView.as_view()),
    path("roles/<slug:role>/cell/expectations", resting.RestingView.as_view()),
    path("change-set", changes.ChangeSetView.as_view()),
    path("change-set/operations", changes.StageView.as_view()),
    path("change-set/operations/<int:position>", changes.StagedOperationView.as_view()),
    path("change-set/operations/<int:position>/rebase", changes.RebaseView.as_view()),
    path("change-set/put-aside", changes.KeepView.as_view()),
    path("change-sets", changes.AppliedSetsView.as_view()),
    path("change-sets/<slug:change_set>/take-up", changes.TakeUpView.as_view()),
    path("change-sets/<slug:change_set>/undo", changes.UndoneView.as_view()),
    path("change-set/undo", changes.UndoView.as_view()),
    path("change-set/apply", changes.ApplyView.as_view()),
    path("change-set/preview", impact.PreviewView.as_view()),
    path("change-set/preview/touched", impact.PreviewTouchedView.as_view()),
    path("change-set/touched", impact.TouchedView.as_view()),
    path("change-set/impact", impact.ImpactView.as_view()),
    path("change-set/impact/accounts", impact_lists.ImpactAccountsView.as_view()),
    path("change-set/impact/pages", impact_lists.ImpactPagesView.as_view()),
    path("change-set/impact/nodes", impact_lists.ImpactNodesView.as_view()),
    path("accounts", assign.RosterView.as_view()),
    path("accounts/<slug:account>", assign.AccountView.as_view()),
    path("accounts/<slug:account>/where", where.WhereView.as_view()),
    path("groups", assign.GroupsView.as_view()),
    path("limits", limits.LimitsView.as_view()),
    path("limits/tree", limits.MarkedTreeView.as_view()),
    path("limits/places/<slug:node>", limits.PlaceView.as_view()),
    path("fields", limits.FieldRulesView.as_view()),
    path("find", find.FindView.as_view()),
    path("stand-in", stand_in.StandInView.as_view()),
    path("xray/tree", stand_in.XrayTreeView.as_view()),
    path("xray/pages/<slug:node>", stand_in.XrayPageView.as_view()),
    path("why", why.WhyView.as_view()),
    path("expectations", expectations.ExpectationsView.as_view()),
    path("expectations/<slug:expectation>", expectations.ExpectationView.as_view()),
    path("branches", where.BranchesView.as_view()),
    path("sites", desk.SitesView.as_view()),
    path("desk/tree", desk.DeskTreeView.as_view()),
    path("desk/pages/<slug:node>", desk.PageView.as_view()),
    path("desk/pages/<slug:node>/hand-in", desk.HandInView.as_view()),
    path("desk/pages/<slug:node>/publish", desk.PublishView.as_view()),
    path("desk/pages/<slug:node>/retire", desk.RetireView.as_view()),
    path("desk/pages/<slug:node>/posts", discussion.PostsView.as_view()),
    path("desk/pages/<slug:node>/posts/<slug:post>", discussion.PostView.as_view()),
    path("desk/pages/<slug:node>/listing", listing.PageListingView.as_view()),
    path("sites/<slug:site>/listing", listing.SiteListingView.as_view()),
    path("ledger", LedgerView.as_view()),
    path("schema/", Schema.as_view()),
    path("policy.schema.json", DocumentSchema.as_view()),
]

urlpatterns = [
    path("", Home.as_view()),
    *(path(f"api/{route.pattern}", route.callback) for route in api),
    re_path(r"^api/.*$", NoSuchAddress.as_view()),
    path("files/<slug:node>", desk.FileView.as_view()),
    path("site/<slug:site>/", public.SitePage.as_view()),
    path("site/<slug:site>/<path:address>", public.SitePage.as_view()),
    re_path(rf"^(?:{'|'.join(PLACES)})(?:/.*)?$", Shell.as_view()),
]

handler404 = "gonfalon.server.problems.not_found"
handler500 = "gonfalon.server.problems.server_error"
