"""Addresses under /api/ for descriptions of the API and of policy documents for other programs."""

from django.urls import path

from gonfalon.api.standards import views

routes = [
    path("schema/", views.Schema.as_view()),
    path("policy.schema.json", views.DocumentSchema.as_view()),
]
