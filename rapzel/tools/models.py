"""Questions that are too long for an address: kept, so that one can reload, go back, and take files of them."""

from typing import Any

from django.conf import settings
from django.db import models


class Question(models.Model):
    """The inputs of a tool as they were sent, under a key made from them: the same question has the same address."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    key = models.CharField(max_length=40)
    slug = models.CharField("the tool's name in addresses", max_length=40)
    inputs: Any = models.JSONField("texts by the name of the input")
    asked_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-asked_at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "key"], name="one_question_a_key")
        ]

    def __str__(self) -> str:
        return f"{self.slug} {self.key[:8]}"
