"""Addresses under /api/ for what happened."""

from django.urls import path

from gonfalon.api.ledger import views

routes = [
    path("ledger", views.LedgerView.as_view()),
]
