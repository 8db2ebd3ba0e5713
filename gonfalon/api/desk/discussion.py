"""Discussion under a page: what has been said, and approving or rejecting what is held."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, On, Within, decide, target_of
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.content.models import Post
from gonfalon.core import Question
from gonfalon.inputs import Input
from gonfalon.ledger.models import Change, record
from gonfalon.work import NODES, POLICY, RowLock, locked

MODERATE = "discussion.moderate"


class PostShape(serializers.Serializer):
    id = serializers.CharField()
    author = serializers.CharField()
    text = serializers.CharField()
    state = serializers.ChoiceField(choices=Post.State.choices)
    at = serializers.DateTimeField()
    may_moderate = serializers.BooleanField()


class PostChangeInput(Input):
    state = serializers.ChoiceField(
        choices=["approved", "rejected"], error_messages={"invalid_choice": "Say approved or rejected."}
    )


class PostsView(GuardedView):
    doors = {"get": Within("discussion.open", On("see", desk=True))}

    @extend_schema(responses=PostShape(many=True), operation_id="posts", parameters=PAGED)
    def get(self, request: Request, node: str) -> Response:
        """What has been said; what is held or was rejected only for those who moderate here."""
        question = Question(self.viewpoint.subject, MODERATE, target_of(node), self.viewpoint.at)
        moderates = decide(self.viewpoint, question, trail=False).allow
        posts = Post.objects.filter(node=node).select_related("author")
        if not moderates:
            posts = posts.filter(state=Post.State.APPROVED)
        return paged(request, [post_data(post, moderates) for post in posts])


class PostView(GuardedView):
    doors = {"patch": Within("discussion.open", On(MODERATE, desk=True))}
    locks = {"patch": (POLICY.shared, NODES.shared, RowLock("content.Post", "post"))}

    @extend_schema(request=PostChangeInput, responses=PostShape, operation_id="moderate")
    def patch(self, request: Request, node: str, post: str) -> Response:
        row = locked(Post.objects).select_related("author").filter(pk=post, node=node).first()
        if row is None:
            raise NotFound("post")
        given = PostChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        change = Change(what="post", was=row.state, now=given.validated_data["state"])
        row.state = given.validated_data["state"]
        row.save(update_fields=["state"])
        by, about = self.session.by, ("node", node)
        record(by, "post.moderated", about=about, changes=[change], way=row.state, name=row.author.name)
        return Response(post_data(row, True))


def post_data(post: Post, moderates: bool) -> dict[str, Any]:
    return {
        "id": post.id,
        "author": post.author.name,
        "text": post.text,
        "state": post.state,
        "at": post.at,
        "may_moderate": moderates,
    }
