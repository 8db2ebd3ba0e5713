"""Addresses under /api/ for staged changes, what they would do, applying and undoing."""

from django.urls import path

from gonfalon.api.changes import change_set, impact, impact_lists

routes = [
    path("change-set", change_set.ChangeSetView.as_view()),
    path("change-set/operations", change_set.StageView.as_view()),
    path("change-set/operations/<int:position>", change_set.StagedOperationView.as_view()),
    path("change-set/operations/<int:position>/rebase", change_set.RebaseView.as_view()),
    path("change-set/put-aside", change_set.KeepView.as_view()),
    path("change-sets", change_set.AppliedSetsView.as_view()),
    path("change-sets/<slug:change_set>/take-up", change_set.TakeUpView.as_view()),
    path("change-sets/<slug:change_set>/undo", change_set.UndoneView.as_view()),
    path("change-set/undo", change_set.UndoView.as_view()),
    path("change-set/progress", change_set.ProgressView.as_view()),
    path("change-set/apply", change_set.ApplyView.as_view()),
    path("change-set/preview", impact.PreviewView.as_view()),
    path("change-set/preview/touched", impact.PreviewTouchedView.as_view()),
    path("change-set/touched", impact.TouchedView.as_view()),
    path("change-set/impact", impact.ImpactView.as_view()),
    path("change-set/impact/accounts", impact_lists.ImpactAccountsView.as_view()),
    path("change-set/impact/pages", impact_lists.ImpactPagesView.as_view()),
    path("change-set/impact/nodes", impact_lists.ImpactNodesView.as_view()),
]
