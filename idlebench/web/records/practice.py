"""Machines that somebody practises on. They belong to no job, and no figure of the shop is made of them."""

from __future__ import annotations

from django.db import models


class PracticeRun(models.Model):
    """A practice machine and what was done to it: what makes it, and its run as core.practice keeps it."""

    kind = models.CharField(max_length=20)
    seed = models.CharField(max_length=60)
    kept = models.JSONField(default=dict)
    began = models.DateTimeField()
    ended = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"practice {self.kind} {self.seed}"
