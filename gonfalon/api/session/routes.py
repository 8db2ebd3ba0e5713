"""Addresses under /api/ for signing in and out, and finding anything."""

from django.urls import path

from gonfalon.api.session import crossbar, factors, find, me, session, stood_in, welcome

routes = [
    path("session", session.SessionView.as_view()),
    path("session/forgotten", welcome.ForgottenView.as_view()),
    path("session/factor", factors.SecondFactorView.as_view()),
    path("session/proof", factors.ProveView.as_view()),
    path("welcome", welcome.WelcomeView.as_view()),
    path("welcome/use", welcome.WelcomeUseView.as_view()),
    path("welcome/password", welcome.PasswordCheckView.as_view()),
    path("me", me.MeView.as_view()),
    path("me/new-address", me.OwnAddressView.as_view()),
    path("me/password", me.OwnPasswordView.as_view()),
    path("me/gone", me.GoView.as_view()),
    path("me/factors", factors.OwnFactorsView.as_view()),
    path("me/factors/begun", factors.EnrolmentView.as_view()),
    path("me/factors/codes", factors.RecoveryCodesView.as_view()),
    path("me/factors/<slug:factor>", factors.OwnFactorView.as_view()),
    path("me/stood-in", stood_in.StoodInView.as_view()),
    path("me/sessions", me.OwnSessionsView.as_view()),
    path("me/sessions/<slug:session>", me.OwnSessionView.as_view()),
    path("crossbar", crossbar.CrossbarView.as_view()),
    path("find", find.FindView.as_view()),
]
