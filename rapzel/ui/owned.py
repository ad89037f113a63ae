"""What rows of every app share: an owner in whose view alone they are, and a deletion that can be undone."""

from typing import Any, Self

from django.db import models
from django.utils import timezone


class Owned(models.QuerySet):
    """Rows with an owner of their own, those put away left out."""

    def visible_to(self, user: Any) -> Self:
        return self.filter(owner_id=user.pk, deleted_at__isnull=True)

    def put_away_by(self, user: Any) -> Self:
        """What the owner has deleted and may still take back."""
        return self.filter(owner_id=user.pk, deleted_at__isnull=False)


class Deletable(models.Model):
    """A row whose deletion can be undone."""

    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True

    def put_away(self) -> None:
        """Deletes the row so that it can be taken back."""
        self.deleted_at = timezone.now()
        self.save(update_fields=["deleted_at"])

    def take_back(self) -> None:
        """Undoes the deletion."""
        self.deleted_at = None
        self.save(update_fields=["deleted_at"])
