"""Addresses under /api/ for pages, their listings and discussion."""

from django.urls import path

from gonfalon.api.desk import discussion, history, listing, pages

routes = [
    path("sites", pages.SitesView.as_view()),
    path("desk/tree", pages.DeskTreeView.as_view()),
    path("desk/pages/<slug:node>", pages.PageView.as_view()),
    path("desk/pages/<slug:node>/hand-in", pages.HandInView.as_view()),
    path("desk/pages/<slug:node>/publish", pages.PublishView.as_view()),
    path("desk/pages/<slug:node>/retire", pages.RetireView.as_view()),
    path("desk/pages/<slug:node>/take-back", pages.TakeBackView.as_view()),
    path("desk/pages/<slug:node>/return", pages.ReturnView.as_view()),
    path("desk/pages/<slug:node>/to-draft", pages.ToDraftView.as_view()),
    path("desk/pages/<slug:node>/versions", history.VersionsView.as_view()),
    path("desk/pages/<slug:node>/versions/<int:number>", history.VersionView.as_view()),
    path("desk/pages/<slug:node>/versions/<int:number>/restore", history.RestoreView.as_view()),
    path("desk/pages/<slug:node>/posts", discussion.PostsView.as_view()),
    path("desk/pages/<slug:node>/posts/<slug:post>", discussion.PostView.as_view()),
    path("desk/pages/<slug:node>/listing", listing.PageListingView.as_view()),
    path("sites/<slug:site>/listing", listing.SiteListingView.as_view()),
]
