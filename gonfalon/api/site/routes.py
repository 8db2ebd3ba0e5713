"""Addresses of the public site and its files."""

from django.urls import path

from gonfalon.api.site import files, pages, preview

api_routes = [
    path("desk/pages/<slug:node>/preview", preview.PreviewView.as_view()),
    path("desk/pages/<slug:node>/copy/preview", preview.CopyPreviewView.as_view()),
]

routes = [
    path("files/<slug:node>", files.FileView.as_view()),
    path("step-out", pages.StepOutPage.as_view()),
    path("site/", pages.FirstSite.as_view()),
    path("site/<slug:site>/", pages.SitePage.as_view()),
    path("site/<slug:site>/<path:address>", pages.SitePage.as_view()),
]
