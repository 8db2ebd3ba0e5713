"""Addresses under /api/ for sites, topics, pages, the bin, listings and discussion."""

from django.urls import path

from gonfalon.api.desk import bin, discussion, history, listing, many, pages, places, sites, start, states, topics, tree

routes = [
    path("begin", sites.BeginView.as_view()),
    path("sites", sites.SitesView.as_view()),
    path("sites/order", sites.SiteOrderView.as_view()),
    path("sites/<slug:site>", sites.SiteView.as_view()),
    path("topics", topics.TopicsView.as_view()),
    path("topics/<slug:topic>", topics.TopicView.as_view()),
    path("topics/<slug:topic>/merge", topics.MergeView.as_view()),
    path("start", start.StartView.as_view()),
    path("desk/tree", tree.DeskTreeView.as_view()),
    path("desk/bin", bin.BinView.as_view()),
    path("desk/bin/<slug:node>", bin.EmptyView.as_view()),
    path("desk/many", many.ManyPagesView.as_view()),
    path("desk/pages", places.PagesView.as_view()),
    path("desk/pages/<slug:node>", pages.PageView.as_view()),
    path("desk/pages/<slug:node>/new", places.NewKindsView.as_view()),
    path("desk/pages/<slug:node>/move", places.MoveView.as_view()),
    path("desk/pages/<slug:node>/hand-on", places.HandOnView.as_view()),
    path("desk/pages/<slug:node>/duplicate", places.DuplicateView.as_view()),
    path("desk/pages/<slug:node>/remove", bin.RemoveView.as_view()),
    path("desk/pages/<slug:node>/restore", bin.BringBackView.as_view()),
    path("desk/pages/<slug:node>/hand-in", states.HandInView.as_view()),
    path("desk/pages/<slug:node>/publish", states.PublishView.as_view()),
    path("desk/pages/<slug:node>/retire", states.RetireView.as_view()),
    path("desk/pages/<slug:node>/take-back", states.TakeBackView.as_view()),
    path("desk/pages/<slug:node>/return", states.ReturnView.as_view()),
    path("desk/pages/<slug:node>/to-draft", states.ToDraftView.as_view()),
    path("desk/pages/<slug:node>/versions", history.VersionsView.as_view()),
    path("desk/pages/<slug:node>/versions/<int:number>", history.VersionView.as_view()),
    path("desk/pages/<slug:node>/versions/<int:number>/restore", history.RestoreView.as_view()),
    path("desk/pages/<slug:node>/posts", discussion.PostsView.as_view()),
    path("desk/pages/<slug:node>/posts/<slug:post>", discussion.PostView.as_view()),
    path("desk/pages/<slug:node>/listing", listing.PageListingView.as_view()),
    path("sites/<slug:site>/listing", listing.SiteListingView.as_view()),
]
