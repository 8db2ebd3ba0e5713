"""Shapes that several views of content tell."""

from rest_framework import serializers


class ListingShape(serializers.Serializer):
    """How a page is listed by search engines. An empty text: the page's own title, or what the site says."""

    title = serializers.CharField(max_length=120, allow_blank=True)
    description = serializers.CharField(max_length=320, allow_blank=True)
    hidden = serializers.BooleanField()
