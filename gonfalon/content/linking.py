"""What leads to a page: fields and parts of pages that name it, or link to its address."""

from django.db.models import Q, TextField
from django.db.models.functions import Cast

from gonfalon.content.models import Node, on_branch


def leading_to(node: Node) -> list[str]:
    """The ids of the nodes that lead to one, in the order of the trees; those of its branch left out. One query."""
    link = f"/site/{node.site_id}/{node.address}"
    found = Q()
    for text in (f'"{node.pk}"', f'{link}"', f'{link}\\"'):  # as JSON has them
        found |= Q(fields_text__contains=text) | Q(parts_text__contains=text)
    texts = Node.objects.annotate(fields_text=Cast("values", TextField()), parts_text=Cast("components", TextField()))
    return list(texts.filter(found).exclude(on_branch(node.path)).values_list("pk", flat=True))
