"""Addresses under /api/ for signing in and out, and finding anything."""

from django.urls import path

from gonfalon.api.session import crossbar, find, session

routes = [
    path("session", session.SessionView.as_view()),
    path("crossbar", crossbar.CrossbarView.as_view()),
    path("find", find.FindView.as_view()),
]
