"""Addresses under /api/ for accounts, groups and where they reach."""

from django.urls import path

from gonfalon.api.assign import accounts, where

routes = [
    path("accounts", accounts.RosterView.as_view()),
    path("accounts/<slug:account>", accounts.AccountView.as_view()),
    path("accounts/<slug:account>/where", where.WhereView.as_view()),
    path("groups", accounts.GroupsView.as_view()),
    path("branches", where.BranchesView.as_view()),
]
