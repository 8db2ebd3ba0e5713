"""Addresses under /api/ for limits, marked trees, field rules."""

from django.urls import path

from gonfalon.api.limit import cells, leftovers, limits, shown, tree, who

routes = [
    path("limits", limits.LimitsView.as_view()),
    path("limits/children", tree.MarkedTopView.as_view()),
    path("limits/children/<slug:node>", tree.MarkedChildrenView.as_view()),
    path("limits/way/<slug:node>", tree.MarkedWayView.as_view()),
    path("limits/found", tree.MarkedFoundView.as_view()),
    path("limits/places/<slug:node>", limits.PlaceView.as_view()),
    path("limits/cells", cells.LimitCellsView.as_view()),
    path("limit/shown", shown.ShownView.as_view()),
    path("limit/leftovers", leftovers.LeftoversView.as_view()),
    path("limit/who", who.WhoView.as_view()),
    path("limit/who/table", who.WhoTableView.as_view()),
    path("fields", limits.FieldRulesView.as_view()),
]
