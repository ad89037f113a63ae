"""What a tool is asked, and the address under which it is asked again: written out where it is short, else kept."""

import hashlib
import json
from collections.abc import Mapping
from urllib.parse import urlencode

from django.http import Http404, HttpRequest

from rapzel.tools.models import Question
from rapzel.ui import housekeeping

KEPT = "kept"  # names a stored question in an address; no input of a tool has this name
# letters that every server and browser between here and there takes
LONGEST_ADDRESS = 1500
MOST_KEPT = 200  # of one person; the oldest goes


def sent_in(request: HttpRequest, slug: str) -> Mapping[str, str]:
    """The inputs that a request sends, or that its address names. Raises Http404 for a question that is not kept."""
    if request.method == "POST":
        return request.POST.dict()
    key = request.GET.get(KEPT)
    if key is None:
        return request.GET.dict()
    row = Question.objects.filter(
        owner_id=request.user.pk, slug=slug, key=key[:40]
    ).first()
    if row is None:
        raise Http404("This question is not kept any more; ask it again.")
    return dict(row.inputs)


def query_of(request: HttpRequest, slug: str, inputs: Mapping[str, str]) -> str:
    """The query of an address that asks this again; one that would be too long is kept under a short one."""
    written = urlencode(inputs)
    if len(written) <= LONGEST_ADDRESS:
        return written
    return urlencode({KEPT: _kept(request, slug, inputs)})


def _kept(request: HttpRequest, slug: str, inputs: Mapping[str, str]) -> str:
    """The key of a question, which is stored if it is not there yet."""
    text = json.dumps([slug, sorted(inputs.items())])
    key = hashlib.sha256(text.encode()).hexdigest()[:40]
    own = Question.objects.filter(owner_id=request.user.pk)
    _, is_new = Question.objects.update_or_create(
        owner_id=request.user.pk,
        key=key,
        defaults={"slug": slug, "inputs": dict(inputs)},
    )
    if is_new:
        oldest = own.values_list("pk", flat=True)[MOST_KEPT:]
        Question.objects.filter(pk__in=list(oldest)).delete()
    return key


def tidy() -> None:
    """Questions that nobody has asked for a while."""
    housekeeping.purge_older(Question, "asked_at")
