"""Addresses under /api/ for standing in, why, expectations."""

from django.urls import path

from gonfalon.api.verify import expectations, rehearsal, side_by_side, stand_in, why, xray, xray_lists

routes = [
    path("stand-in", stand_in.StandInView.as_view()),
    path("side-by-side", side_by_side.SideBySideView.as_view()),
    path("rehearsal", rehearsal.RehearsalView.as_view()),
    path("rehearsal/reads", rehearsal.RehearsalReadsView.as_view()),
    path("rehearsal/steps/<int:step>", rehearsal.RehearsedStepView.as_view()),
    path("xray/places", xray_lists.XrayPlacesView.as_view()),
    path("xray/rows", xray_lists.XrayRowsView.as_view()),
    path("xray/children", xray.XrayTopView.as_view()),
    path("xray/children/<slug:node>", xray.XrayChildrenView.as_view()),
    path("xray/way/<slug:node>", xray.XrayWayView.as_view()),
    path("xray/found", xray.XrayFoundView.as_view()),
    path("xray/pages/<slug:node>", xray.XrayPageView.as_view()),
    path("why", why.WhyView.as_view()),
    path("why/changes", why.TurnsView.as_view()),
    path("expectations", expectations.ExpectationsView.as_view()),
    path("expectations/<slug:expectation>", expectations.ExpectationView.as_view()),
]
