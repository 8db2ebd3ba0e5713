"""Addresses under /api/ for limits, marked trees, field rules."""

from django.urls import path

from gonfalon.api.limit import limits

routes = [
    path("limits", limits.LimitsView.as_view()),
    path("limits/tree", limits.MarkedTreeView.as_view()),
    path("limits/places/<slug:node>", limits.PlaceView.as_view()),
    path("fields", limits.FieldRulesView.as_view()),
]
