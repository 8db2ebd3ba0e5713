"""Addresses under /api/ for standing in, why, expectations."""

from django.urls import path

from gonfalon.api.verify import expectations, stand_in, why

routes = [
    path("stand-in", stand_in.StandInView.as_view()),
    path("xray/tree", stand_in.XrayTreeView.as_view()),
    path("xray/pages/<slug:node>", stand_in.XrayPageView.as_view()),
    path("why", why.WhyView.as_view()),
    path("expectations", expectations.ExpectationsView.as_view()),
    path("expectations/<slug:expectation>", expectations.ExpectationView.as_view()),
]
