"""Addresses under /api/ for roles, the catalogue, kinds of content, markup sets."""

from django.urls import path

from gonfalon.api.define import beside, board, catalogue, cell_expectations, extensions, kinds, markup, roles

routes = [
    path("catalogue", catalogue.CatalogueView.as_view()),
    path("catalogue/looked-at", catalogue.LookedAtView.as_view()),
    path("extensions", extensions.ExtensionsView.as_view()),
    path("extensions/<slug:extension>", extensions.ExtensionView.as_view()),
    path("extensions/<slug:extension>/switched", extensions.SwitchedView.as_view()),
    path("kinds", kinds.KindsView.as_view()),
    path("kinds/<slug:kind>", kinds.KindView.as_view()),
    path("kinds/<slug:kind>/fields", kinds.KindFieldsView.as_view()),
    path("kinds/<slug:kind>/fields/<slug:field>", kinds.KindFieldView.as_view()),
    path("markup-sets", markup.MarkupSetsView.as_view()),
    path("markup-sets/risk", markup.MarkupRiskView.as_view()),
    path("markup-sets/<slug:markup_set>", markup.MarkupSetView.as_view()),
    path("roles", roles.RolesView.as_view()),
    path("roles/capability", board.CapabilityView.as_view()),
    path("roles/starters", roles.StartersView.as_view()),
    path("roles/order", roles.RoleOrderView.as_view()),
    path("roles/<slug:role>/removal", roles.RoleRemovalView.as_view()),
    path("roles/<slug:role>", roles.RoleView.as_view()),
    path("roles/<slug:role>/beside", beside.BesideView.as_view()),
    path("roles/<slug:role>/cell", board.CellContextView.as_view()),
    path("roles/<slug:role>/cell/expectations", cell_expectations.RestingView.as_view()),
]
