"""Taking everything along, changing the password, and going for good."""

import io
import json
import zipfile

from django.core.files.storage import default_storage
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.bench.models import Trace
from rapzel.kit import exchange
from rapzel.shoots.models import Scene
from rapzel.shoots.services import pin
from rapzel.takes.services import log_take
from tests.apps.rows import colour_row, trace_row


def test_everything_goes_along_in_open_formats_and_nothing_of_anybody_else(
    visitor, kit, scene, stranger
) -> None:
    trace = trace_row(kit)
    colour_row(kit)
    trace_row(stranger)
    pin(scene, "Before")
    log_take(scene, "keep", note="guard sharp")
    answer = visitor.get(reverse("accounts:everything"))
    archive = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    names = archive.namelist()
    assert json.loads(archive.read("kit.json")) == exchange.document_of(kit)
    (shoot,) = [
        name for name in names if name.startswith("shoots/") and name.count("/") == 1
    ]
    assert json.loads(archive.read(shoot))["scenes"] == [scene.document]
    assert any("snapshots/before" in name for name in names)
    (log,) = [name for name in names if name.startswith("takes/")]
    assert "guard sharp" in archive.read(log).decode()
    originals = [
        name
        for name in names
        if name.startswith(f"bench/{'key-at-a-sixteenth'}-{trace.pk}/")
    ]
    assert archive.read(originals[0]) == trace.file.open("rb").read()
    assert (
        sum(name.startswith("bench/") and name.endswith(".json") for name in names) == 1
    )


def test_an_account_goes_with_its_rows_and_files(
    visitor, owner, scene, stranger
) -> None:
    trace, other = trace_row(owner), trace_row(stranger)
    url = reverse("accounts:farewell")
    refused = visitor.post(url, {"password": "not this one"})
    assert refused.status_code == 422
    assert "Nothing was deleted" in refused.content.decode()
    assert User.objects.filter(pk=owner.pk).exists()
    shown = visitor.post(
        url, {"password": "a long enough one"}, follow=True
    ).content.decode()
    assert "The account and all that belonged to it is deleted." in shown
    assert not User.objects.filter(pk=owner.pk).exists()
    assert not Scene.objects.exists()
    assert list(Trace.objects.values_list("pk", flat=True)) == [other.pk]
    assert not default_storage.exists(trace.file.name)
    assert default_storage.exists(other.file.name)


def test_the_password_is_changed(visitor, owner) -> None:
    new = {
        "new_password1": "seven moths at dusk",
        "new_password2": "seven moths at dusk",
    }
    wrong = visitor.post(reverse("accounts:password"), {"old_password": "no", **new})
    assert "Your old password was entered incorrectly" in wrong.content.decode()
    assert (
        visitor.post(
            reverse("accounts:password"), {"old_password": "a long enough one", **new}
        ).status_code
        == 302
    )
    owner.refresh_from_db()
    assert owner.check_password("seven moths at dusk")


def test_an_account_without_a_password_cannot_be_deleted_by_who_passes_by(
    visitor, owner
) -> None:
    owner.set_unusable_password()
    owner.save()
    visitor.force_login(owner)
    visitor.post(reverse("accounts:farewell"), {"password": ""})
    assert User.objects.filter(pk=owner.pk).exists()
